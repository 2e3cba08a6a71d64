import { lockOutOf, type LockOut } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import {
  MOST_WAVES,
  wavesOf,
  type RolloutCheck,
  type SiteToTell,
  type Wave,
  type WaveForeseen,
  type WavePlan,
} from '@iron-lattice/core/rollout';
import { readTimes } from '@iron-lattice/core/rules';
import type { DraftReview, SeenSite } from '../intent/draft-review';
import { contestedSites, sitesToTell, sitesWatching } from '../intent/draft-sites';
import type { DraftService } from '../intent/draft.service';
import type { OpenedDraft } from '../intent/opened-draft';
import { Site } from '../intent/intent.model';
import { AppError } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
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
/** Sites that are read and looked at together. */
const SEEN_AT_ONCE = 50;

/** Somebody who waits for a plan. */
export interface Waiting {
  /** Hears how many of the sites have been looked at. */
  readonly seen: (done: number, of: number) => Promise<void>;
  readonly left: AbortSignal;
}

/** Plans rollouts: who is told what, in which wave, and what stands against it. */
export class WavePlanner {
  constructor(
    private readonly drafts: DraftService,
    private readonly reviews: DraftReview,
    private readonly rosters: RosterService,
    private readonly checks: WaveChecks,
    private readonly heavy: Heavy,
  ) {}

  /**
   * Every device that would be told something else, wave by wave.
   * @throws AppError `rollout.waves`; `rollout.left` when nobody waits for it any more.
   */
  async plan(opened: OpenedDraft, how: WavePlan, address: string, waiting: Waiting): Promise<RolloutPlan> {
    const told = new Map<string, Omit<PlannedStep, 'wave'>>();
    const toTell: Untagged[] = [];
    const check = nothingYet(opened);
    const broken: { siteId: string; words: string }[] = [];
    const sites = new Map<string, number>();
    const look = async (seen: SeenSite) => {
      const { changes } = seen.review;
      const { estate, site, roster } = seen.input;
      const ids = changes.map(({ deviceId }) => deviceId);
      const documents = ids.length > 0 ? await this.heavy.run('documents', { estate, site, roster }, ids) : null;
      return { seen, documents, against: await this.against(seen, address) };
    };
    for await (const { seen, documents, against } of this.all(opened, look, waiting)) {
      const { siteId, review, devices } = seen;
      sites.set(siteId, -1);
      add(check, seen, against);
      for (const { words } of review.broken) broken.push({ siteId, words });
      if (!documents) continue;
      const before = new Map(devices.map(({ id, wants }) => [id, wants]));
      for (const { deviceId, hash, told: key } of review.changes) {
        const { added, removed } = review.differences[key]!;
        const step = { deviceId, siteId, hash, beforeHash: before.get(deviceId) ?? null, added, removed };
        told.set(deviceId, { ...step, document: documents.get(deviceId)! });
      }
      toTell.push(toTellAt(seen));
    }
    for await (const { siteId, words } of this.watching(opened, check, waiting)) broken.push({ siteId, words });
    const waves = parted(await this.surrounded(toTell), how);
    const steps: PlannedStep[] = [];
    for (const [wave, { devices }] of waves.entries())
      for (const { siteId, deviceId } of devices) {
        steps.push({ ...told.get(deviceId)!, wave });
        sites.set(siteId, wave);
      }
    return { steps, waves, sites, check, broken };
  }

  /** What rolling a draft out comes to, and what stands against it. */
  async check(draftId: string, address: string): Promise<RolloutCheck> {
    const opened = await this.drafts.recent(draftId);
    const check = nothingYet(opened);
    const look = async (seen: SeenSite) => ({ seen, against: await this.against(seen, address) });
    for await (const { seen, against } of this.all(opened, look)) add(check, seen, against);
    for await (const _each of this.watching(opened, check));
    return check;
  }

  /** The waves in which a draft would be rolled out. @throws AppError `rollout.waves`. */
  async foreseen(draftId: string, how: WavePlan): Promise<WaveForeseen[]> {
    const opened = await this.drafts.recent(draftId);
    const toTell: Untagged[] = [];
    for await (const site of this.all(opened, async (seen) => toTellAt(seen)))
      if (site.devices.length > 0) toTell.push(site);
    const silent = new Set(toTell.flatMap((site) => site.devices.filter((each) => each.silent).map(({ id }) => id)));
    return parted(await this.surrounded(toTell), how).map(({ name, devices: told }) => {
      const ids = [...new Set(told.map(({ siteId }) => siteId))];
      return {
        name,
        devices: told.length,
        silent: told.filter(({ deviceId }) => silent.has(deviceId)).length,
        sites: ids.length,
        siteNames: ids.slice(0, NAMED).map((id) => opened.intent.sites.get(id)?.name ?? ''),
      };
    });
  }

  /** Looks at every site that a draft would tell something, some at a time. @throws AppError `rollout.left`. */
  private async *all<T>(
    opened: OpenedDraft,
    look: (seen: SeenSite) => Promise<T>,
    waiting?: Waiting,
  ): AsyncGenerator<T> {
    yield* this.some(opened, sitesToTell(opened), look, waiting);
  }

  /** Guarantees of sites that are told nothing, which would be broken at one that is; counted in a check as they come. */
  private async *watching(
    opened: OpenedDraft,
    check: Mutable<RolloutCheck>,
    waiting?: Waiting,
  ): AsyncGenerator<{ readonly siteId: string; readonly words: string }> {
    const told = sitesToTell(opened);
    const reached = new Set(told);
    const look = async ({ siteId, review, input }: SeenSite) =>
      review.broken.flatMap(({ words, packet = '', toSite }) =>
        toSite && reached.has(toSite) ? [{ siteId, siteName: input.site.name, words, packet }] : [],
      );
    for await (const found of this.some(opened, sitesWatching(opened, told), look, waiting))
      for (const { siteId, ...each } of found) {
        check.broken.push(each);
        check.errors++;
        yield { siteId, words: each.words };
      }
  }

  private async *some<T>(
    opened: OpenedDraft,
    siteIds: readonly string[],
    look: (seen: SeenSite) => Promise<T>,
    waiting?: Waiting,
  ): AsyncGenerator<T> {
    for (let at = 0; at < siteIds.length; at += SEEN_AT_ONCE) {
      if (at > 0) await waiting?.seen(at, siteIds.length);
      if (waiting) refuseLeft(waiting.left);
      yield* await this.reviews.seen(opened.intent, siteIds.slice(at, at + SEEN_AT_ONCE), look);
    }
    if (siteIds.length > SEEN_AT_ONCE) await waiting?.seen(siteIds.length, siteIds.length);
  }

  /** What the review of a site does not know: who asks, and what somebody changed by hand. */
  private async against({ input, estate, review, devices }: SeenSite, address: string): Promise<Against> {
    const told = new Map(review.changes.map(({ deviceId, hash }) => [deviceId, hash]));
    const lost = devices.filter(({ id, runs }) => told.has(id) && told.get(id) !== runs);
    return {
      drifted: (await this.rosters.changedByHand(lost)).map(({ name }) => name!),
      self: lockOutOf(estate, input.site, input.roster, address),
    };
  }

  /** The same sites with what waves are made by. */
  private async surrounded(sites: readonly Untagged[]): Promise<SiteToTell[]> {
    const ids = sites.map(({ id }) => id);
    const [clients, rows] = [await this.checks.clients(ids), await Site.findAll({ where: { id: ids } })];
    const tags = new Map(rows.map((row) => [row.id, row.tags]));
    return sites.map((site) => ({ ...site, tags: tags.get(site.id) ?? [], clients: clients.get(site.id) ?? 0 }));
  }
}

type Untagged = Omit<SiteToTell, 'clients' | 'tags'>;
interface Against {
  readonly drifted: readonly string[];
  /** Whoever asks would be cut off. */
  readonly self: LockOut | null;
}
type Mutable<T> = { -readonly [K in keyof T]: T[K] extends readonly (infer E)[] ? E[] : T[K] };

const nothingYet = (opened: OpenedDraft): Mutable<RolloutCheck> => ({
  ...{ devices: 0, silent: 0, errors: 0, broken: [], lockOuts: [], drifted: [] },
  held: contestedSites(opened).map((id) => ({
    siteName: opened.intent.sites.get(id)!.name,
    draftName: opened.held.get(id)!,
  })),
});

/** Adds what a site comes to. */
function add(check: Mutable<RolloutCheck>, { input, review, devices }: SeenSite, { drifted, self }: Against): void {
  const siteName = input.site.name;
  const silent = new Set(devices.filter(({ online }) => !online).map(({ id }) => id));
  check.devices += review.changes.length;
  check.silent += review.changes.filter(({ deviceId }) => silent.has(deviceId)).length;
  check.errors += review.counts.error;
  for (const { words, packet = '' } of review.broken) check.broken.push({ siteName, words, packet });
  for (const name of drifted) check.drifted.push({ siteName, name });
  for (const { name, packet, why } of [...review.lockOuts, ...(self ? [self] : [])])
    check.lockOuts.push({ siteName, name, packet, why });
}

/** The devices of a site that are told something, in the order in which they are. */
function toTellAt({ siteId, input, review, devices }: SeenSite): Untagged {
  const byId = new Map(devices.map((device) => [device.id, device]));
  const order = review.changes.flatMap(({ deviceId }) => byId.get(deviceId) ?? []);
  const mine = order.map((device) => ({ ...rosterOf(device), silent: !device.online }));
  return { id: siteId, name: input.site.name, devices: mine };
}

/** @throws AppError `rollout.left` when whoever asked does not wait any more. */
export function refuseLeft(left: AbortSignal): void {
  if (left.aborted) throw new AppError('rollout.left', 'Nobody waits for this rollout any more: it was not begun.');
}

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
