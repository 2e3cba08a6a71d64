import { inEffect, type AskingWay, type DeviceDocument } from '@iron-lattice/core/document';
import {
  isPlugged,
  portalFact,
  pass,
  portalOf,
  portAsks,
  stop,
  walk,
  walkAsks,
  type AnyProbe,
  type AskedOne,
  type UplinkFact,
  type WalkFacts,
  type WalkRequest,
  type WalkResult,
  type WalkStep,
} from '@iron-lattice/core/bench';
import { linksAs, linksNow, lostTo, meshTree } from '@iron-lattice/core/assess';
import { withBoxes, type Documents } from '@iron-lattice/core/lattice';
import { resolve, type EstatePart, type Link, type SitePart } from '@iron-lattice/core/intent';
import { siteInEffect } from '@iron-lattice/core/rollout';
import { dayOf, localMoment, minuteOfWeek } from '@iron-lattice/core/rules';
import type { AirTeller } from '../roster/air-offer';
import type { AwayTeller } from '../roster/asking-offer';
import type { EntryTeller } from '../roster/entry-offer';
import type { GuestFactsTeller } from '../roster/guest-facts-offer';
import type { GuestTeller } from '../roster/guest-offer';
import type { KeyTeller } from '../roster/key-offer';
import type { Device } from '../roster/device.model';
import type { CarriedWalks } from './carried-walk';
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
    private readonly entry: EntryTeller,
    private readonly guests: GuestTeller,
    private readonly facts: GuestFactsTeller,
    private readonly away: AwayTeller,
    private readonly carried: CarriedWalks,
  ) {}

  /** @param asks whether RADIUS servers may be asked for whoever is walked as: only for those who may change things. */
  async walk({ siteId, probe, on, draftId, then, to }: WalkRequest, asks: boolean): Promise<WalkResult> {
    const asked = { on, draftId, then, to };
    const { devices, documents, estate, plant, facts: known, timeZone } = await this.known(siteId, asked);
    const said = asks && estate ? await this.asked(documents, probe, siteId, estate) : {};
    const live = on === 'live' && then === undefined;
    const landing = estate
      ? await this.carried.landing({ siteId, documents, estate, probe, live }, async (id) => {
          const { name, plant: there, facts } = await this.known(id, asked);
          return { name, ...there, facts };
        })
      : null;
    const key = isPlugged(probe) || probe.key === undefined ? null : await this.keys(probe.ssidId, probe.key);
    const end = isPlugged(probe) ? null : isSilent(devices, probe.apId, landing?.to);
    const facts: WalkFacts = {
      ...known,
      moment: localMoment(clock.now(), timeZone),
      ...(key ? { key } : {}),
      ...said,
      ...(landing ? { landing } : {}),
      ...(end ? { silent: true } : {}),
    };
    const held = await this.guest(portalOf(documents, probe, facts)?.id, probe.mac, siteId, estate);
    const here = walk(plant.documents, plant.links, probe, { ...facts, ...held });
    if (to === undefined) return { ...here, on };
    const from = here.steps.find(({ address }) => address)?.address;
    const led = here.arrived && here.steps.at(-1)?.kind === 'tunnel' && from !== undefined;
    if (!led) return { ...here, on, to };
    const draft = draftId ?? (await this.drafts.recent()).draft.id;
    const found = await this.away({ siteId: landing?.siteId ?? siteId, from, to, on, draftId: draft, then });
    const steps = [...here.steps, ...(await this.stepsThere(found))];
    return { steps, arrived: steps.every(({ passed }) => passed), on, to };
  }

  /** What a walk has to know of a site: the one where it begins, or the one to which it is carried. */
  private async known(siteId: string, { to, ...asked }: Pick<WalkRequest, 'on' | 'draftId' | 'then' | 'to'>) {
    const devices = await this.rosters.devices(siteId);
    const { documents, estate, site } = await this.told(siteId, asked, devices);
    const links = await this.links(siteId, asked, devices);
    const resolved = estate && site ? resolve(estate, site) : null;
    const timeZone = [...documents.values()][0]?.site.timeZone ?? 'UTC';
    const now = clock.now();
    const reported = { roster: devices.map(rosterOf), documents, uplinks: this.rosters.uplinksAmong(devices) };
    const lost = resolved && to !== undefined ? lostTo({ site: resolved, ...reported }, to) : null;
    return {
      ...{ devices, documents, estate, timeZone },
      name: site?.name ?? [...documents.values()][0]?.site.name ?? 'another site',
      plant: resolved ? withBoxes(resolved, documents, links) : { documents, links },
      facts: {
        ...factsOf(devices),
        ...{ minute: minuteOfWeek(now, timeZone), day: dayOf(now, timeZone) },
        ...(to === undefined ? {} : { to: { address: to, ...(lost ? { lost } : {}) } }),
      },
    };
  }

  /** What is told of another site, as steps of a walk; that nobody has it is one too. */
  private async stepsThere(found: Awaited<ReturnType<AwayTeller>>): Promise<WalkStep[]> {
    if (!found) {
      const detail = 'No joined site has this address.';
      return [stop('tunnel', 'Nobody has it', detail, { kind: 'device', id: '', name: 'the tunnels' })];
    }
    const devices = await this.rosters.devices(found.siteId);
    return found.steps.map(({ at, passed, title, detail }): WalkStep => {
      const device = devices.find(({ name }) => name === at);
      const by = { kind: 'device' as const, id: device?.id ?? '', name: at };
      return { ...(passed ? pass : stop)(device ? 'rules' : 'tunnel', title, detail, by) };
    });
  }

  /** What servers really say of whoever is walked as; at a port one way after the other, until one lets in. */
  private async asked(
    documents: Documents,
    probe: AnyProbe,
    siteId: string,
    estate: EstatePart,
  ): Promise<Pick<WalkFacts, 'asked' | 'askedBy'>> {
    if (!isPlugged(probe)) {
      const question = walkAsks(documents, probe);
      return question ? { asked: await this.entry({ deviceId: probe.apId, siteId, estate, ...question }) } : {};
    }
    const question = portAsks(documents, probe);
    if (!question) return {};
    const askedBy: Partial<Record<AskingWay, readonly AskedOne[]>> = {};
    for (const [way, asked] of question.ways) {
      const told = await this.entry({ deviceId: probe.deviceId, siteId, estate, radius: question.radius, asked });
      askedBy[way] = told;
      if (told.at(-1)?.exchange.end === 'accepted') break;
    }
    return { askedBy };
  }

  /** The portal that holds whoever is walked as, and how it stands there. */
  private async guest(
    id: string | undefined,
    mac: string | undefined,
    siteId: string,
    estate: EstatePart | null,
  ): Promise<Pick<WalkFacts, 'guest' | 'portal'>> {
    if (id === undefined) return {};
    const portal = estate?.portals?.find((each) => each.id === id);
    const guest = mac === undefined ? null : await this.guests(id, siteId, mac);
    return {
      ...(guest ? { guest } : {}),
      ...(portal ? { portal: portalFact(portal, (await this.facts()).url) } : {}),
    };
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

  /** What devices are told, and the estate that says so; null where nothing of it is known. */
  private async told(
    siteId: string,
    { on, draftId, then }: Pick<WalkRequest, 'on' | 'draftId' | 'then'>,
    devices: readonly Device[],
  ): Promise<{ readonly documents: Documents; readonly estate: EstatePart | null; readonly site: SitePart | null }> {
    if (on === 'draft') {
      const { estate, site } = await this.drafted(siteId, draftId);
      return { documents: siteInEffect(resolve(estate, site), devices.map(rosterOf)), estate, site };
    }
    if (then === undefined) {
      const live = await this.intents.pairNow(siteId);
      const documents = await this.acknowledged(devices);
      return {
        documents: inEffect(documents, await this.rosters.pairRoutes(documents)),
        estate: live?.estate ?? null,
        site: live?.site ?? null,
      };
    }
    const { estate, site } = await this.intents.pairThen(siteId, then);
    return { documents: siteInEffect(resolve(estate, site), devices.map(rosterOf)), estate, site };
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
  ): Promise<{ readonly estate: EstatePart; readonly site: SitePart }> {
    if (draftId === undefined) throw new AppError('input.invalid', 'Say which draft to walk on.');
    const { intent } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    return { estate: intent.estate, site };
  }
}

/** Whether an AP hears nothing of the far end of its tunnel. @param to of that to another site, by its address. */
function isSilent(devices: readonly Device[], apId: string, to: string | undefined): boolean {
  const { tunnel, landings = [] } = devices.find(({ id }) => id === apId)?.report ?? {};
  const end = to === undefined ? tunnel : landings.find((each) => each.to === to);
  return end?.answers === false;
}

/** What the devices last reported of leases and uplinks. */
function factsOf(devices: readonly Device[]): Omit<WalkFacts, 'minute' | 'day'> {
  const taken = new Set<string>();
  const uplinks = new Map<string, UplinkFact>();
  for (const { id, online, report } of devices) {
    if (report?.address) taken.add(report.address);
    for (const lease of report?.leases ?? []) taken.add(lease.address);
    for (const { port, up, address } of report?.uplinks ?? []) {
      const path = report?.paths?.uplinks.find((each) => each.port === port);
      const { delay, jitter = 0, loss = 0 } = path ?? {};
      uplinks.set(`${id} ${port}`, {
        ...{ up: up && online, address },
        ...(path ? { good: path.state === 'good' } : {}),
        ...(path?.six?.address ? { six: path.six.prefix === undefined ? {} : { prefix: path.six.prefix } } : {}),
        ...(delay === undefined ? {} : { measure: { latency: delay, jitter, loss: loss * 100 } }),
      });
    }
  }
  return { taken, uplinks };
}
