import { sameValue } from '../../base';
import { ETHERNET_MTU, OVERLAY_OCTETS, TUNNEL_OCTETS } from '../../document';
import { memberAt, type JoinedEstate } from '../member/told';
import type { EstatePart, Intent, SitePart } from '../part';
import { reaches } from '../reach';
import { inForce } from '../segment/in-force';
import { segmentNamed } from '../segment/named';
import { isRoutedByGateway } from '../segment/segment';
import { ssidAt } from './exception';
import type { Landed, Landing, LandingFrom, Landings, LandingSegment } from './landing-known';
import type { Ssid } from './ssid';

/** The other site that an SSID of a site carries its clients to; null: it does not. */
export const landingSite = ({ tunnel }: Pick<Ssid, 'tunnel'>, siteId: string): string | null =>
  tunnel && tunnel !== 'gateway' && tunnel !== siteId ? tunnel : null;

/** Whether it may carry anybody to another site. */
const leadsAway = ({ tunnel, exceptions }: Ssid): boolean =>
  [{ tunnel }, ...Object.values(exceptions ?? {})].some((said) => landingSite(said, '') !== null);

/**
 * An intent with what sites know of those to which their SSIDs carry clients, as it is now. The same intent comes back where nothing of that is otherwise.
 * @param from the intent that it was made of, in which they know it; absent: nothing is known of that.
 */
export function withLandings(intent: Intent, from?: Intent): Intent {
  const { landings: before, ...estate } = intent.estate;
  const carrying = estate.ssids.filter(leadsAway);
  if (carrying.length === 0) return before ? { ...intent, estate } : intent;
  if (from && isSameToLandings(from, intent)) return intent;
  const landings = landingsOf(intent, carrying);
  return sameValue(before, landings) ? intent : { ...intent, estate: { ...estate, landings } };
}

/** Whether all that landings follow from is the very same in both. */
function isSameToLandings({ estate: was, sites: before }: Intent, { estate, sites }: Intent): boolean {
  const fields = ['ssids', 'joins', 'members', 'overlay', 'landings'] as const;
  if (fields.some((field) => was[field] !== estate[field])) return false;
  for (const [id, site] of sites) {
    const old = before.get(id);
    if (old === site) continue;
    if (!old || (['segments', 'managementId', 'name'] as const).some((field) => old[field] !== site[field]))
      return false;
  }
  return true;
}

function landingsOf({ estate, sites }: Intent, carrying: readonly Ssid[]): Landings {
  const before = estate.landings ?? {};
  const wanted = new Map<string, Map<string, Set<string>>>();
  for (const ssid of carrying)
    for (const { id } of sites.values()) {
      if (!reaches(ssid.reach, id)) continue;
      const here = ssidAt(ssid, id);
      const to = landingSite(here, id);
      if (to === null || here.off) continue;
      const from = wanted.get(to) ?? new Map<string, Set<string>>();
      from.set(id, (from.get(id) ?? new Set()).add(here.segment.toLowerCase()));
      wanted.set(to, from);
    }
  const at = new Set([...wanted.keys(), ...Object.keys(before)]);
  const all = [...at].sort().flatMap((siteId): [string, Landing][] => {
    const made = landingAt({ estate, sites }, siteId, wanted.get(siteId) ?? new Map(), before[siteId]);
    return made ? [[siteId, before[siteId] && sameValue(before[siteId], made) ? before[siteId] : made]] : [];
  });
  return Object.fromEntries(all);
}

/** @param known what was known of it: of sites that are not looked at it stays as it was. */
function landingAt(
  { estate, sites }: Intent,
  siteId: string,
  wanted: ReadonlyMap<string, ReadonlySet<string>>,
  known: Landing | undefined,
): Landing | null {
  const site = sites.get(siteId);
  const unseen = Object.entries(known?.from ?? {}).filter(([id]) => !sites.has(id));
  const seen = [...wanted].map(([id, names]): [string, LandingFrom] => {
    const source = sites.get(id)!;
    const wants = [...names].sort();
    return [id, { name: source.name, subnet: managementOf(source).subnet, mtu: mtuBetween(estate, id, siteId), wants }];
  });
  const from = [...unseen, ...seen].sort(([a], [b]) => (a < b ? -1 : 1));
  if (from.length === 0 || (!site && !known)) return null;
  const said = site
    ? { name: site.name, to: managementOf(site).gateway, livesIn: site.managementId }
    : { name: known!.name, to: known!.to, livesIn: known!.livesIn };
  const names = new Set(from.flatMap(([, { wants }]) => wants));
  const segments = site ? segmentsAt(site, names) : known!.segments;
  return { ...said, segments, from: Object.fromEntries(from) };
}

const managementOf = ({ segments, managementId }: SitePart) => segments.find(({ id }) => id === managementId)!;

function segmentsAt(site: SitePart, names: ReadonlySet<string>): LandingSegment[] {
  const { segments } = inForce(site.segments);
  return [...names].sort().flatMap((wanted): LandingSegment[] => {
    const segment = segmentNamed(segments, wanted);
    if (!segment || !isRoutedByGateway(segment)) return [];
    const { id, name, vlan, isolation } = segment;
    return [{ id, name, vlan, ...(isolation?.clients ? { apart: true as const } : {}) }];
  });
}

/** Octets of the largest packet that goes in one piece into a tunnel inside those between two sites, whichever hub they go by. */
function mtuBetween(estate: JoinedEstate, from: string, to: string): number {
  const { members = [], joins = {} } = estate;
  const ends = [memberAt(estate, from), memberAt(estate, to)].flatMap((each) => each ?? []);
  const hubs = members.filter(({ role }) => role === 'hub');
  const mtus = [...ends, ...hubs].flatMap(({ id }) => joins[id]?.mtu ?? []);
  return Math.min(ETHERNET_MTU, ...mtus) - OVERLAY_OCTETS - TUNNEL_OCTETS;
}

/** Where an SSID, as a site has it, carries its clients at another site; null: nowhere else. */
export function landedAt({ landings = {} }: Pick<EstatePart, 'landings'>, ssid: Ssid, siteId: string): Landed | null {
  const to = landingSite(ssid, siteId);
  if (to === null) return null;
  const landing = landings[to];
  const mtu = landing?.from[siteId]?.mtu ?? ETHERNET_MTU - OVERLAY_OCTETS - TUNNEL_OCTETS;
  if (!landing) return { siteId: to, name: 'a site that is gone', to: '', mtu, segment: null };
  const wanted = ssid.segment.toLowerCase();
  const segment = landing.segments.find(({ name }) => name.toLowerCase() === wanted) ?? null;
  return { siteId: to, name: landing.name, to: landing.to, mtu, segment };
}

/**
 * What the segment of a client is called; without a name it is said by its VLAN.
 * @param client.to the address at another site that it is carried to, as its AP reports it; absent: it is in a segment of this one.
 */
export function segmentNameOf(
  { landings = {} }: Pick<EstatePart, 'landings'>,
  { segments }: Pick<SitePart, 'segments'>,
  { vlan, to }: { readonly vlan: number; readonly to?: string | undefined },
): string {
  const landing = to === undefined ? undefined : Object.values(landings).find((each) => each.to === to);
  const all: readonly { readonly vlan: number; readonly name: string }[] =
    to === undefined ? segments : (landing?.segments ?? []);
  const name = all.find((each) => each.vlan === vlan)?.name ?? `VLAN ${vlan}`;
  return to === undefined ? name : `${name}, ${landing?.name ?? 'another site'}`;
}
