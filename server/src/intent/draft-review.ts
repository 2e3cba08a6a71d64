import { reviewOf, type SiteReview, type SiteReviewView, type TouchedSites } from '@iron-lattice/core/assess';
import { touchedSites } from '@iron-lattice/core/intent';
import type { Heavy } from '../platform/heavy';
import type { RosterService } from '../roster/roster.service';
import type { DraftService } from './draft.service';

/** Of how many sites it is remembered what a draft means there. */
const REMEMBERED = 2000;

/** What a draft means at all sites that it touches, looked at some at a time. */
export class DraftReview {
  /** By the hash of all that they follow from, the latest last. */
  private readonly remembered = new Map<string, SiteReview>();

  constructor(
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly heavy: Heavy,
  ) {}

  /** The sites that a draft touches. */
  async touched(draftId: string): Promise<TouchedSites> {
    const { draft, intent, live, liveRevision } = await this.drafts.recent(draftId);
    const ids = touchedSites(live, intent);
    return {
      head: draft.head,
      baseRevision: liveRevision,
      sites: ids.map((id) => ({ id, name: intent.sites.get(id)!.name })),
    };
  }

  /**
   * What a draft means at some sites, one after the other: whoever edits meanwhile waits for one at the most. Sites that are not
   * there are left out.
   */
  async at(draftId: string, siteIds: readonly string[]): Promise<SiteReviewView[]> {
    const { intent } = await this.drafts.recent(draftId);
    const views: SiteReviewView[] = [];
    for (const siteId of siteIds) {
      const site = intent.sites.get(siteId);
      if (!site) continue;
      const devices = await this.rosters.devices(siteId);
      const [key, input] = await this.drafts.basisAt(intent, siteId, devices);
      const consequences = this.drafts.known(key);
      const review =
        this.remembered.get(key) ?? (consequences ? reviewOf(consequences) : await this.heavy.run('review', input));
      this.remembered.delete(key);
      if (this.remembered.size >= REMEMBERED) this.remembered.delete(this.remembered.keys().next().value!);
      this.remembered.set(key, review);
      const silent = devices.filter(({ online }) => !online).map(({ id }) => id);
      views.push({ ...review, name: site.name, silent });
    }
    return views;
  }
}
