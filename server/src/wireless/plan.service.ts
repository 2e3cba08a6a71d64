import { meshTree, type MeshTree } from '@iron-lattice/core/assess';
import type { Band } from '@iron-lattice/core/hardware';
import { bandSetting, radioSetting, resolve, type RosterDevice, type SitePart } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import {
  hostapdOf,
  type AirHeard,
  type BandPlan,
  type BandPlanInput,
  type PlanRadio,
  type SitePlan,
  type Tuned,
} from '@iron-lattice/core/wireless';
import type { Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import type { Heavy } from '../platform/heavy';
import type { Device } from '../roster/device.model';
import { sitesInRollout } from '../roster/in-rollout';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { ourNetworks, type AirService } from './air.service';
import { DONE, STOP } from './wireless.heavy';

/** Plans that are worked out at the same time here. */
const MOST_RUNNING = 2;
/** How often it is told how far one is, in milliseconds. */
const TELL_MS = 250;

/** What a plan is asked of. */
export interface PlanAsked {
  readonly bands: readonly Band[];
  /** APs that may be moved; null: every one. The others are reckoned with where they are. */
  readonly deviceIds: readonly string[] | null;
}

/** Plans of channels, worked out on worker threads from what APs heard. */
export class PlanService {
  private running = 0;

  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly airs: AirService,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
  ) {}

  /**
   * A plan for radios of a site, as a draft has it. Nothing is changed.
   * @param left tells that nobody waits any more.
   * @throws AppError while the site is being rolled out, or nothing was ever heard there.
   */
  async plan(draftId: string, siteId: string, asked: PlanAsked, left: AbortSignal): Promise<SitePlan> {
    const { intent } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    return this.planFor(site, asked, left);
  }

  /** A radio as a draft has it, for hostapd. @throws AppError where it sends nothing. */
  async hostapd(
    draftId: string,
    siteId: string,
    deviceId: string,
    band: Band,
  ): Promise<{ name: string; text: string }> {
    const { intent, roster } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    const mine = roster.filter((each) => each.siteId === siteId && !each.expected);
    const device = mine.find(({ id }) => id === deviceId);
    if (!site || !device) throw unknown('access point here');
    const document = compileSite(resolve(intent.estate, site), mine).get(deviceId);
    const text = document?.kind === 'ap' ? hostapdOf(site, device, document, band) : null;
    if (text === null) throw new AppError('plan.refused', `${device.name} sends nothing at ${band} GHz.`);
    return { name: `${device.name}-${band}ghz.conf`, text };
  }

  /** The same for what is said of a site. */
  async planFor(site: SitePart, { bands, deviceIds }: PlanAsked, left: AbortSignal): Promise<SitePlan> {
    const underWay = (await sitesInRollout(this.database, null)).get(site.id);
    if (underWay !== undefined)
      throw new AppError(
        'plan.refused',
        `“${underWay}” is being rolled out at ${site.name}: what is on the air changes meanwhile. Ask again when it is through.`,
      );
    if (this.running >= MOST_RUNNING)
      throw new AppError('controller.busy', 'Other plans are being worked out. Try again in a moment.');
    this.running++;
    try {
      const inputs = await this.inputs(site, bands, deviceIds);
      const plans = await this.work(site.id, inputs, left);
      if (left.aborted) throw new AppError('plan.left', 'Nobody waits for this plan any more.');
      const radios = plans.flatMap((plan) => plan.radios);
      return {
        bands: plans,
        moved: radios.filter(({ moves }) => moves).reduce((sum, { clients }) => sum + clients, 0),
      };
    } finally {
      this.running--;
    }
  }

  private async inputs(
    site: SitePart,
    bands: readonly Band[],
    deviceIds: readonly string[] | null,
  ): Promise<BandPlanInput[]> {
    const [devices, heard] = await Promise.all([this.rosters.devices(site.id), this.airs.heard(site.id)]);
    if (heard.length === 0)
      throw new AppError('plan.refused', `Nobody has listened to the air of ${site.name} yet. Scan it first.`);
    const { losses } = await this.airs.losses(site.id);
    const ours = [...ourNetworks(devices).keys()];
    const tree = meshTree(site, devices.map(rosterOf), this.rosters.linksAmong(devices), losses);
    return bands.map((band) => ({
      ...{ band, country: site.country, policy: bandSetting(site, band), losses, ours },
      radios: planRadios(site, band, devices, heard, deviceIds, tree),
    }));
  }

  /** Bands side by side, since none is in the way of another. */
  private async work(siteId: string, inputs: readonly BandPlanInput[], left: AbortSignal): Promise<BandPlan[]> {
    const shared = inputs.map(() => new Int32Array(new SharedArrayBuffer(8)));
    const stop = (): void => shared.forEach((each) => Atomics.store(each, STOP, 1));
    left.addEventListener('abort', stop);
    if (left.aborted) stop();
    const tell = setInterval(() => {
      const done = shared.reduce((sum, each) => sum + Atomics.load(each, DONE), 0) / 1000 / inputs.length;
      void this.bus.send('live', { type: 'air-plan', siteId, done }).catch(() => undefined); // the next tells
    }, TELL_MS);
    try {
      const plans = await Promise.all(inputs.map((input, i) => this.heavy.run('band-plan', input, shared[i]!)));
      return plans.filter((plan) => plan !== null);
    } finally {
      clearInterval(tell);
      left.removeEventListener('abort', stop);
    }
  }
}

/**
 * Radios of a band as they are said and as they report. One that hangs by radio at the band sends where its parent does: it is none of
 * its own, its clients count as that one's, whose power stays.
 */
export function planRadios(
  site: SitePart,
  band: Band,
  devices: readonly Device[],
  heard: readonly AirHeard[],
  deviceIds: readonly string[] | null,
  tree: Pick<MeshTree, 'hangs'>,
): PlanRadio[] {
  const rootOf = (id: string): string => {
    const hang = tree.hangs.get(id);
    return hang?.band === band ? rootOf(hang.parentId) : id;
  };
  const carrying = new Set(
    [...tree.hangs.values()].flatMap((hang) => (hang.band === band ? [rootOf(hang.deviceId)] : [])),
  );
  const rosters = new Map(devices.map((each) => [each.id, rosterOf(each)] as const));
  return devices.flatMap((device): PlanRadio[] => {
    const sheet = device.hardware?.radios.find((radio) => radio.band === band);
    const roster = rosters.get(device.id);
    if (!sheet || !roster || rootOf(device.id) !== device.id) return [];
    const setting = radioSetting(site, roster, band);
    const report = device.report?.radios?.find((each) => each.band === band);
    const { on, fixed } = setting;
    // What is said counts, also while the radio is elsewhere since radar was heard; of one that chooses, where it is.
    const now: Tuned | null =
      saidOf(site, roster, band) ??
      (setting.channel === null && report?.channel !== undefined && report.width !== undefined
        ? { channel: report.channel, width: report.width as Tuned['width'], power: report.power ?? 0 }
        : null);
    const power = carrying.has(device.id) ? (setting.power ?? now?.power ?? null) : setting.power;
    const all = devices.filter((each) => rootOf(each.id) === device.id).flatMap((each) => each.report?.clients ?? []);
    const mine = heard.find(({ deviceId }) => deviceId === device.id) ?? null;
    return [
      {
        ...{ deviceId: device.id, name: device.name!, sheet, on, now, power },
        stays: fixed || (deviceIds !== null && !deviceIds.includes(device.id)),
        clients: all.flatMap((client) => (client.band === band && client.signal !== undefined ? [client.signal] : [])),
        heard: mine,
      },
    ];
  });
}

/** Where a radio is said to send; null where it takes a channel by itself. */
function saidOf(site: SitePart, device: RosterDevice, band: Band): Tuned | null {
  const { at, eirp } = radioSetting(site, device, band);
  return at && eirp !== null ? { channel: at.channel, width: at.width, power: eirp } : null;
}
