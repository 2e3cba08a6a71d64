import type { EstatePart, Segment, SitePart, Ssid } from './nouns';
import { reaches } from './ssid-check';

/** An SSID as one site sees it: with its own segment, or null where the site has none of that name. */
export interface SiteSsid extends Ssid {
  readonly segmentId: string | null;
}

/** A site with what the estate shares with it; all that compiling needs of the intent. */
export interface ResolvedSite extends SitePart {
  readonly ssids: readonly SiteSsid[];
  readonly management: Segment;
}

/** What of the shared intent applies at a site, with names looked up among the site's own. */
export function resolve(estate: EstatePart, site: SitePart): ResolvedSite {
  const management = site.segments.find((segment) => segment.id === site.managementId);
  if (!management) throw new RangeError(`site ${site.id} has lost its management segment`);
  const idOf = (name: string): string | null =>
    site.segments.find((segment) => segment.name.toLowerCase() === name.toLowerCase())?.id ?? null;
  const ssids = estate.ssids
    .filter((ssid) => reaches(ssid.reach, site.id))
    .map((ssid) => ({ ...ssid, segmentId: idOf(ssid.segment) }));
  return { ...site, ssids, management };
}
