import { parseVlanList } from '../address';
import type { EstatePart, SitePart, Ssid } from './nouns';
import type { Segment } from './segment';
import { reaches } from './ssid-check';

/** An SSID as one site sees it: with its own segments, none where the site has nothing of that name. */
export interface SiteSsid extends Ssid {
  /** The segment it names; null where it names a pool, or nothing that the site has. */
  readonly segmentId: string | null;
  /** The segments of the pool it names, by VLAN ID; pooled VLAN IDs without a segment are left out. */
  readonly pool?: { readonly id: string; readonly segmentIds: readonly string[] };
}

/** A site with what the estate shares with it; all that compiling needs of the intent. */
export interface ResolvedSite extends SitePart {
  readonly estate: EstatePart;
  readonly ssids: readonly SiteSsid[];
  readonly management: Segment;
}

/** What of the shared intent applies at a site, with names looked up among the site's own. */
export function resolve(estate: EstatePart, site: SitePart): ResolvedSite {
  const management = site.segments.find((segment) => segment.id === site.managementId);
  if (!management) throw new RangeError(`site ${site.id} has lost its management segment`);
  return { ...site, estate, ssids: ssidsAt(estate, site), management };
}

/** What was resolved last for a site's segments: edits of ports leave it alone, and much is remembered by it. */
const resolved = new WeakMap<
  SitePart['segments'],
  { readonly from: EstatePart['ssids']; readonly pools: SitePart['pools']; readonly ssids: readonly SiteSsid[] }
>();

function ssidsAt(estate: EstatePart, site: SitePart): readonly SiteSsid[] {
  const known = resolved.get(site.segments);
  if (known?.from === estate.ssids && known.pools === site.pools) return known.ssids;
  const ssids = estate.ssids
    .filter((ssid) => reaches(ssid.reach, site.id))
    .map((ssid): SiteSsid => ({ ...ssid, ...joined(site, ssid.segment) }));
  resolved.set(site.segments, { from: estate.ssids, pools: site.pools, ssids });
  return ssids;
}

/** What an SSID's clients join at a site: the segment of that name, else the pool. */
function joined(site: SitePart, name: string): Pick<SiteSsid, 'segmentId' | 'pool'> {
  const wanted = name.toLowerCase();
  const segment = site.segments.find((each) => each.name.toLowerCase() === wanted);
  if (segment) return { segmentId: segment.id };
  const pool = site.pools?.find((each) => each.name.toLowerCase() === wanted);
  if (!pool) return { segmentId: null };
  const list = parseVlanList(pool.vlans);
  const ids = new Set(list.ok ? list.ids : []);
  const segmentIds = site.segments.filter((each) => ids.has(each.vlan)).map((each) => each.id);
  return { segmentId: null, pool: { id: pool.id, segmentIds } };
}

/** The segments an SSID puts its clients into at its site. */
export const segmentsOfSsid = (ssid: SiteSsid): readonly string[] =>
  ssid.segmentId === null ? (ssid.pool?.segmentIds ?? []) : [ssid.segmentId];

/** Ids of the segments that a site's SSIDs put clients into. */
export function airedSegments(estate: EstatePart, site: SitePart): ReadonlySet<string> {
  return new Set(resolve(estate, site).ssids.flatMap(segmentsOfSsid));
}
