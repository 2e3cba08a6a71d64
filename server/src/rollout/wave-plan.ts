import { lockOutOf } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { resolve } from '@iron-lattice/core/intent';
import {
  compileSite,
  MOST_WAVES,
  rolloutOrder,
  wavesOf,
  type RolloutCheck,
  type SiteToTell,
  type Wave,
  type WaveForeseen,
  type WavePlan,
} from '@iron-lattice/core/rollout';
import { readTimes } from '@iron-lattice/core/rules';
import type { DraftReview } from '../intent/draft-review';
import type { Following } from '../intent/following';
import { contestedSites, sitesToTell } from '../intent/draft-sites';
import type { DraftService } from '../intent/draft.service';
import type { OpenedDraft } from '../intent/opened-draft';
import { Site } from '../intent/intent.model';
import { AppError } from '../platform/app-error';
import type { Device } from '../roster/device.model';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { WaveChecks } from './wave-checks';

/** What a device is told, and in which wave. */
export interface PlannedStep {
  readonly deviceId: string;
  readonly siteId: string;
  readonly wave: number;
  readonly document: DeviceDocument;
  readonly hash: string;
  readonly beforeHash: string | null;
  readonly added: number;
  readonly removed: number;
}

/** A rollout as it would go. */
export interface RolloutPlan {
  readonly steps: readonly PlannedStep[];
  readonly waves: readonly Wave[];
  /** Sites that it touches, with the wave in which each is told as a whole; -1 where no device is told anything. */
  readonly sites: ReadonlyMap<string, number>;
  readonly check: RolloutCheck;
  /** Guarantees that would be broken, with their site. */
  readonly broken: readonly { readonly siteId: string; readonly words: string }[];
}

/** Names of sites that are shown of a wave before it begins. */
const NAMED = 6;

/** Plans rollouts: who is told what, in which wave, and what stands against it. */
export class WavePlanner {
  constructor(
    private readonly drafts: DraftService,
    private readonly following: Following,
    private readonly reviews: DraftReview,
    private readonly rosters: RosterService,
    private readonly checks: WaveChecks,
  ) {}

  /** Every device that would be told something else, wave by wave. @throws AppError `rollout.waves`. */
  async plan(opened: OpenedDraft, how: WavePlan, address: string): Promise<RolloutPlan> {
    const { intent } = opened;
    const told = new Map<string, Omit<PlannedStep, 'wave'>>();
    const toTell: Omit<SiteToTell, 'clients' | 'tags'>[] = [];
    const check = nothingYet(opened);
    const broken: { siteId: string; words: string }[] = [];
    const sites = new Map<string, number>();
    for (const siteId of sitesToTell(opened)) {
      sites.set(siteId, -1);
      const site = intent.sites.get(siteId)!;
      const devices = await this.rosters.devices(siteId);
      const consequences = await this.following.at(intent, siteId, devices);
      for (const { state, words, packet = '' } of consequences.guarantees)
        if (state === 'broken') {
          check.broken.push({ siteName: site.name, words, packet });
          broken.push({ siteId, words });
        }
      const roster = devices.map(rosterOf);
      const self = lockOutOf(intent.estate, site, roster, address);
      for (const { name, packet, why } of [...consequences.lockOuts, ...(self ? [self] : [])])
        check.lockOuts.push({ siteName: site.name, name, packet, why });
      check.errors += consequences.findings.filter((finding) => finding.severity === 'error').length;
      if (consequences.changes.length === 0) continue;
      for (const name of await this.drifted(devices, consequences.changes))
        check.drifted.push({ siteName: site.name, name });
      const documents = compileSite(resolve(intent.estate, site), roster);
      const mine: { id: string; name: string; model: string; silent: boolean }[] = [];
      for (const change of consequences.changes) {
        const device = devices.find((each) => each.id === change.deviceId)!;
        const { added, removed } = change.difference;
        const of = { deviceId: device.id, siteId, hash: change.hash, beforeHash: device.wants, added, removed };
        told.set(device.id, { ...of, document: documents.get(device.id)! });
        mine.push({ ...rosterOf(device), silent: !device.online });
        if (!device.online) check.silent++;
      }
      toTell.push({ id: siteId, name: site.name, devices: rolloutOrder(mine) });
    }
    check.devices = told.size;
    const waves = parted(await this.surrounded(toTell), how);
    const steps: PlannedStep[] = [];
    for (const [wave, { devices }] of waves.entries())
      for (const { siteId, deviceId } of devices) {
        steps.push({ ...told.get(deviceId)!, wave });
        sites.set(siteId, wave);
      }
    return { steps, waves, sites, check, broken };
  }

  /** Names of devices that somebody changed by hand and that would be told another document than they run by now. */
  private async drifted(
    devices: readonly Device[],
    changes: readonly { readonly deviceId: string; readonly hash: string }[],
  ): Promise<string[]> {
    const told = new Map(changes.map(({ deviceId, hash }) => [deviceId, hash]));
    const lost = await this.rosters.changedByHand(
      devices.filter(({ id, runs }) => told.has(id) && told.get(id) !== runs),
    );
    return lost.map(({ name }) => name!);
  }

  /** What rolling a draft out comes to, and what stands against it. */
  async check(draftId: string, address: string): Promise<RolloutCheck> {
    const opened = await this.drafts.recent(draftId);
    const { intent } = opened;
    const { sites } = await this.reviews.touched(draftId);
    const check = nothingYet(opened);
    for (const { id, name: siteName } of sites) {
      const [review] = await this.reviews.at(draftId, [id]);
      const site = intent.sites.get(id);
      if (!review || !site) continue;
      const silent = new Set(review.silent);
      check.devices += review.changes.length;
      check.silent += review.changes.filter(({ deviceId }) => silent.has(deviceId)).length;
      check.errors += review.counts.error;
      for (const { words, packet = '' } of review.broken) check.broken.push({ siteName, words, packet });
      const devices = await this.rosters.devices(id);
      for (const name of await this.drifted(devices, review.changes)) check.drifted.push({ siteName, name });
      const self = lockOutOf(intent.estate, site, devices.map(rosterOf), address);
      for (const { name, packet, why } of [...review.lockOuts, ...(self ? [self] : [])])
        check.lockOuts.push({ siteName, name, packet, why });
    }
    return check;
  }

  /** The waves in which a draft would be rolled out. @throws AppError `rollout.waves`. */
  async foreseen(draftId: string, how: WavePlan): Promise<WaveForeseen[]> {
    const { devices, intent } = await this.drafts.recent(draftId);
    const { sites } = await this.reviews.touched(draftId);
    const byId = new Map(devices.map((device) => [device.id, device]));
    const toTell: Omit<SiteToTell, 'clients' | 'tags'>[] = [];
    for (const review of await this.reviews.at(
      draftId,
      sites.map(({ id }) => id),
    )) {
      const silent = new Set(review.silent);
      const mine = review.changes.flatMap(({ deviceId }) => {
        const device = byId.get(deviceId);
        return device ? [{ ...rosterOf(device), silent: silent.has(deviceId) }] : [];
      });
      toTell.push({ id: review.siteId, name: review.name, devices: rolloutOrder(mine) });
    }
    const silent = new Set(toTell.flatMap((site) => site.devices.filter((each) => each.silent).map(({ id }) => id)));
    return parted(await this.surrounded(toTell), how).map(({ name, devices: told }) => {
      const ids = [...new Set(told.map(({ siteId }) => siteId))];
      return {
        name,
        devices: told.length,
        silent: told.filter(({ deviceId }) => silent.has(deviceId)).length,
        sites: ids.length,
        siteNames: ids.slice(0, NAMED).map((id) => intent.sites.get(id)?.name ?? ''),
      };
    });
  }

  /** The same sites with what waves are made by. */
  private async surrounded(sites: readonly Omit<SiteToTell, 'clients' | 'tags'>[]): Promise<SiteToTell[]> {
    const ids = sites.map(({ id }) => id);
    const [clients, rows] = [await this.checks.clients(ids), await Site.findAll({ where: { id: ids } })];
    const tags = new Map(rows.map((row) => [row.id, row.tags]));
    return sites.map((site) => ({ ...site, tags: tags.get(site.id) ?? [], clients: clients.get(site.id) ?? 0 }));
  }
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] extends readonly (infer E)[] ? E[] : T[K] };

const nothingYet = (opened: OpenedDraft): Mutable<RolloutCheck> => ({
  ...{ devices: 0, silent: 0, errors: 0, broken: [], lockOuts: [], drifted: [] },
  held: contestedSites(opened).map((id) => ({
    siteName: opened.intent.sites.get(id)!.name,
    draftName: opened.held.get(id)!,
  })),
});

function parted(sites: readonly SiteToTell[], how: WavePlan): Wave[] {
  if (how.within !== undefined && (readTimes(how.within) ?? []).length === 0)
    throw new AppError('rollout.waves', 'Give hours such as 02:00-04:00, or Mon-Fri 22:00-05:00.');
  let waves: Wave[];
  try {
    waves = wavesOf(sites, how);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw new AppError('rollout.waves', 'Nothing would be told at the site of the canary. Choose another one.');
  }
  if (waves.length > MOST_WAVES)
    throw new AppError(
      'rollout.waves',
      `These would be ${waves.length} waves, more than ${MOST_WAVES}. Go by share or by tag instead.`,
    );
  return waves;
}
