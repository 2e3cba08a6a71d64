import type { SiteMends } from '@iron-lattice/core/assess';
import type { GuestNetwork, GuestNetworkWish } from '@iron-lattice/core/lattice';
import type { DraftReview } from '../intent/draft-review';
import type { DraftService } from '../intent/draft.service';
import { AppError } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';

/** A guest network as it would be made, and what would be mended at its sites so that it gets there. */
export interface ComposedGuests extends GuestNetwork {
  readonly mends: readonly SiteMends[];
}

/** Composes guest networks; nothing is changed by it. */
export class GuestNetworkService {
  constructor(
    private readonly drafts: DraftService,
    private readonly reviews: DraftReview,
    private readonly heavy: Heavy,
    private readonly portalUrl: () => string,
  ) {}

  /** @throws AppError `draft.refused` with what is wrong, by the fields that were typed. */
  async compose(draftId: string, wish: GuestNetworkWish): Promise<ComposedGuests> {
    const { intent } = await this.drafts.open(draftId);
    // Of other sites their segments alone are looked at.
    const wanted = new Set(wish.siteIds);
    const sites = new Map([...intent.sites].map(([id, site]) => [id, wanted.has(id) ? site : { ...site, ports: {} }]));
    const composed = await this.heavy.run('guest-network', { ...intent, sites }, wish, portOf(this.portalUrl()));
    if ('flaws' in composed) throw new AppError('draft.refused', composed.flaws[0]!.message, [...composed.flaws]);
    const siteIds = [...wish.siteIds];
    // What is wrong at these sites already is none of its business.
    const before = await this.reviews.mends(draftId, { siteIds, given: [] });
    const known = new Set(before.flatMap(({ steps }) => steps.map(({ finding }) => finding.key)));
    const after = await this.reviews.mends(draftId, { siteIds, given: composed.operations });
    const mends = after.map((site) => ({
      ...site,
      steps: site.steps.filter(({ finding }) => !known.has(finding.key)),
    }));
    return { ...composed, mends: mends.filter(({ steps }) => steps.length > 0) };
  }
}

/** TCP port of an address; null where it is none. */
function portOf(url: string): number | null {
  if (!URL.canParse(url)) return null;
  const { port, protocol } = new URL(url);
  return port === '' ? (protocol === 'https:' ? 443 : 80) : Number(port);
}
