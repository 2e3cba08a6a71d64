import {
  type MendsAsked,
  type SiteFindings,
  type SiteMends,
  type SiteReview,
  type SiteReviewView,
  type TouchedSites,
} from '@iron-lattice/core/assess';
import { apply, type EstatePart, type Intent, type Operation, type SitePart } from '@iron-lattice/core/intent';
import type { Heavy } from '../platform/heavy';
import type { CabledRow } from '../roster/device.model';
import { sitesToTell, sitesWatching } from './draft-sites';
import type { DraftService } from './draft.service';
import type { Following } from './following';
import { rememberedReviews } from './remembered';
import type { SentInput } from './sent-input';

/** Sites of one question that are worked out side by side. */
const SIDE_BY_SIDE = 2;

/** A site that was looked at, with what its review follows from. */
export interface SeenSite {
  readonly siteId: string;
  readonly review: SiteReview;
  readonly input: SentInput;
  /** What sites share. */
  readonly estate: EstatePart;
  readonly devices: readonly CabledRow[];
}

/** What a draft means at all sites that it touches, looked at some at a time. */
export class DraftReview {
  /** By the hash of all that they follow from. */
  private readonly remembered = rememberedReviews();

  constructor(
    private readonly drafts: DraftService,
    private readonly following: Following,
    private readonly heavy: Heavy,
  ) {}

  /** The sites that a draft touches, and those of which a guarantee reaches one of them. */
  async touched(draftId: string): Promise<TouchedSites> {
    const opened = await this.drafts.recent(draftId);
    const told = sitesToTell(opened);
    const named = (id: string) => ({ id, name: opened.intent.sites.get(id)!.name });
    return {
      head: opened.draft.head,
      baseRevision: opened.liveRevision,
      sites: [
        ...told.map(named),
        ...sitesWatching(opened, told).map((id) => ({ ...named(id), watches: true as const })),
      ],
    };
  }

  /** What it means at some of those; of one that is only watching, what guarantees of it that reach others come to. */
  async touchedAt(draftId: string, siteIds: readonly string[]): Promise<SiteReviewView[]> {
    const opened = await this.drafts.recent(draftId);
    const told = new Set(sitesToTell(opened));
    const reviews = await this.at(draftId, siteIds);
    return reviews.map((review) => (told.has(review.siteId) ? review : watched(review, told)));
  }

  /**
   * What a draft means at some sites, a few side by side: whoever edits meanwhile waits for these at the most. Sites that are not
   * there are left out.
   */
  async at(draftId: string, siteIds: readonly string[]): Promise<SiteReviewView[]> {
    const { intent } = await this.drafts.recent(draftId);
    const seen = await this.seen(intent, siteIds, async (site) => site);
    return seen.map(({ review, input: { site }, devices }) => {
      const silent = devices.filter(({ online, expected }) => !online && !expected).map(({ id }) => id);
      return { ...review, name: site.name, silent, segments: feltAt(review, site) };
    });
  }

  /**
   * What an intent means at some sites, a few side by side, each with what it follows from.
   * @param then what else is found out of each while it is at hand.
   */
  async seen<T>(intent: Intent, siteIds: readonly string[], then: (site: SeenSite) => Promise<T>): Promise<T[]> {
    const bases = await this.following.basesAt(intent, siteIds);
    const found = new Map<string, T>();
    const waiting = [...bases];
    const work = async (): Promise<void> => {
      for (let next = waiting.shift(); next; next = waiting.shift()) {
        const { siteId, key, input, devices } = next;
        found.set(
          siteId,
          await then({ siteId, input, devices, estate: intent.estate, review: await this.review(key, input) }),
        );
      }
    };
    await Promise.all(Array.from({ length: SIDE_BY_SIDE }, work));
    return bases.map(({ siteId }) => found.get(siteId)!);
  }

  /** What sites come to in the draft people work in, in numbers. Sites that are not there are left out. */
  async findings(siteIds: readonly string[]): Promise<SiteFindings[]> {
    const opened = await this.drafts.recent();
    const toTell = new Set(sitesToTell(opened));
    const reviews = await this.at(opened.draft.id, siteIds);
    return reviews.map(({ siteId, counts, broken, changes }) => {
      const found = { errors: counts.error, warnings: counts.warning };
      const sharedBroken = broken.filter(({ shared }) => shared).map(({ id }) => id);
      return {
        siteId,
        ...found,
        broken: broken.length,
        sharedBroken,
        changes: toTell.has(siteId) ? changes.length : 0,
      };
    });
  }

  /**
   * What all mends at some sites would do together, one site after the other, since a mend may change what sites share. Nothing is
   * changed by it; sites that are not there are left out.
   */
  async mends(draftId: string, { siteIds, given }: MendsAsked): Promise<SiteMends[]> {
    const { intent, roster } = await this.drafts.recent(draftId);
    const devices = new Map(roster.map((device) => [device.id, device]));
    let now = intent;
    const make = (operations: readonly Operation[]): void => {
      for (const operation of operations) {
        const done = apply(now, operation, (id) => devices.get(id));
        if (done.ok) now = done.intent;
      }
    };
    make(given);
    const found: SiteMends[] = [];
    for (const { siteId, input } of await this.following.basesAt(intent, siteIds)) {
      const { told: _told, toldHashes: _hashes, beyond: _beyond, ...facts } = input;
      const site = now.sites.get(siteId)!;
      const { steps, left } = await this.heavy.run('mends', { ...facts, estate: now.estate, site });
      make(steps.flatMap(({ operations }) => operations));
      found.push({ siteId, name: site.name, steps, left: left.length });
    }
    return found;
  }

  private async review(key: string, input: SentInput): Promise<SiteReview> {
    const review = this.remembered.get(key) ?? (await this.heavy.run('review', input));
    this.remembered.set(key, review);
    return review;
  }
}

/** Of a site that is told nothing: what is broken of it by what is told to others. */
function watched(review: SiteReviewView, told: ReadonlySet<string>): SiteReviewView {
  const broken = review.broken.filter(({ toSite }) => toSite !== undefined && told.has(toSite));
  const ids = new Set(broken.map(({ id }) => id));
  const findings = review.findings.filter(({ place }) => place.kind === 'guarantee' && ids.has(place.id));
  return {
    ...{ ...review, broken, findings, counts: { error: broken.length, warning: 0, info: 0 } },
    ...{ lockOuts: [], changes: [], differences: {}, outages: {}, silent: [], segments: {} },
  };
}

/** Names of the segments of a site that feel something, by VLAN ID. */
function feltAt({ outages }: SiteReview, { segments }: SitePart): Record<number, string> {
  const felt = new Set(Object.values(outages).flatMap((all) => all.flatMap(({ vlans }) => vlans)));
  return Object.fromEntries(segments.filter(({ vlan }) => felt.has(vlan)).map(({ vlan, name }) => [vlan, name]));
}
