import type { DeviceDocument } from '@iron-lattice/core/document';
import { walk, type UplinkFact, type WalkFacts, type WalkRequest, type WalkResult } from '@iron-lattice/core/bench';
import { linksAs, linksNow, meshTree } from '@iron-lattice/core/assess';
import { resolve, type Link } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import { dayOf, localMoment, minuteOfWeek } from '@iron-lattice/core/rules';
import type { AirTeller } from '../roster/air-offer';
import type { KeyTeller } from '../roster/key-offer';
import type { Device } from '../roster/device.model';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { IntentService } from '../intent/intent.service';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import { clock } from '../platform/clock';

/** Walks probes on what a draft would tell devices, or on what they acknowledged. */
export class WalkService {
  constructor(
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly intents: IntentService,
    private readonly air: AirTeller,
    private readonly keys: KeyTeller,
  ) {}

  async walk({ siteId, probe, on, draftId, then }: WalkRequest): Promise<WalkResult> {
    const devices = await this.rosters.devices(siteId);
    const documents = await this.told(siteId, { on, draftId, then }, devices);
    const timeZone = [...documents.values()][0]?.site.timeZone ?? 'UTC';
    const now = clock.now();
    const key = probe.key === undefined ? null : await this.keys(probe.ssidId, probe.key);
    const facts = {
      ...factsOf(devices),
      ...{ minute: minuteOfWeek(now, timeZone), day: dayOf(now, timeZone), moment: localMoment(now, timeZone) },
      ...(key ? { key } : {}),
      ...(isSilent(devices, probe.apId) ? { silent: true } : {}),
    };
    const links = await this.links(siteId, { on, draftId }, devices);
    return { ...walk(documents, links, probe, facts), on };
  }

  /** How devices are joined: as they are, or as a draft would have APs hang on each other. */
  private async links(
    siteId: string,
    { on, draftId }: Pick<WalkRequest, 'on' | 'draftId'>,
    devices: readonly Device[],
  ): Promise<readonly Link[]> {
    const [roster, links] = [devices.map(rosterOf), this.rosters.linksAmong(devices)];
    if (on !== 'draft' || draftId === undefined) return linksNow(roster, links);
    const site = (await this.drafts.open(draftId)).intent.sites.get(siteId);
    if (!site) throw unknown('site');
    const air = (await this.air([siteId])).get(siteId);
    return linksAs(meshTree(site, roster, links, air?.near), roster, links);
  }

  private async told(
    siteId: string,
    { on, draftId, then }: Pick<WalkRequest, 'on' | 'draftId' | 'then'>,
    devices: readonly Device[],
  ): Promise<Map<string, DeviceDocument>> {
    if (on === 'draft') return this.drafted(siteId, draftId, devices);
    if (then === undefined) return this.acknowledged(devices);
    const { estate, site } = await this.intents.pairThen(siteId, then);
    return compileSite(resolve(estate, site), devices.map(rosterOf));
  }

  private async acknowledged(devices: readonly Device[]): Promise<Map<string, DeviceDocument>> {
    const documents = await this.rosters.documents(devices.map((device) => device.runs));
    return new Map(
      devices.flatMap(({ id, runs }) => (runs && documents.has(runs) ? [[id, documents.get(runs)!] as const] : [])),
    );
  }

  private async drafted(
    siteId: string,
    draftId: string | undefined,
    devices: readonly Device[],
  ): Promise<Map<string, DeviceDocument>> {
    if (draftId === undefined) throw new AppError('input.invalid', 'Say which draft to walk on.');
    const { intent } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    return compileSite(resolve(intent.estate, site), devices.map(rosterOf));
  }
}

/** Whether an AP hears nothing of the far end of its tunnel. */
const isSilent = (devices: readonly Device[], apId: string): boolean =>
  devices.find(({ id }) => id === apId)?.report?.tunnel?.answers === false;

/** What the devices last reported of leases and uplinks. */
function factsOf(devices: readonly Device[]): Omit<WalkFacts, 'minute' | 'day'> {
  const taken = new Set<string>();
  const uplinks = new Map<string, UplinkFact>();
  for (const { id, online, report } of devices) {
    if (report?.address) taken.add(report.address);
    for (const lease of report?.leases ?? []) taken.add(lease.address);
    for (const { port, up, address } of report?.uplinks ?? [])
      uplinks.set(`${id} ${port}`, { up: up && online, address });
  }
  return { taken, uplinks };
}
