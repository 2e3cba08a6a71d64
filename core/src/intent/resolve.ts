import { parseVlanList } from '../address';
import { pick, sameAll } from '../base';
import { asksWho } from '../document';
import type { CapPair, CapWay } from '../traffic';
import type { AccessClass } from './class/class';
import type { Hours } from './hours/hours';
import type { EstatePart, SitePart } from './part';
import type { Portal } from './portal/portal';
import type { RadiusServer } from './radius/radius';
import { reaches } from './reach';
import { inForce } from './segment/in-force';
import { segmentNamed } from './segment/named';
import type { Segment } from './segment/segment';
import { ssidAt } from './ssid/exception';
import { landedAt } from './ssid/landing';
import type { Landed } from './ssid/landing-known';
import type { Ssid } from './ssid/ssid';

/** An SSID as one site sees it: with its own segments, none where the site has nothing of that name. */
export interface SiteSsid extends Ssid {
  /** The segment it names; null where it names a pool, or nothing that the site has. */
  readonly segmentId: string | null;
  /** Where its clients are carried at another site: then they join no segment of this one. */
  readonly landed?: Landed;
  /** The segments of the pool it names, by VLAN ID; pooled VLAN IDs without a segment are left out. */
  readonly pool?: { readonly id: string; readonly segmentIds: readonly string[] };
  /** Where the keys of its ring may lead here, by name; what they name that the site has not is left out. */
  readonly ringSegments?: readonly { readonly name: string; readonly segmentId: string }[];
  /** Ids of the APs that send it here; absent: all that can. */
  readonly senders?: readonly string[];
  /** The hours that it is sent at; absent: always. */
  readonly within?: Hours;
  /** The portal that holds its clients; absent: none. */
  readonly held?: Portal;
  /** The hours at which that lets them in; absent: all. */
  readonly heldWithin?: Hours;
  /** The site's classes, where it puts clients into theirs. */
  readonly classes?: readonly SiteClass[];
}

/** A class as one site sees it. */
export interface SiteClass extends AccessClass {
  /** The segment of that name; null where the site has none: its clients are not let in. */
  readonly segmentId: string | null;
}

/** A site with what the estate shares with it; all that compiling needs of the intent. */
export interface ResolvedSite extends SitePart {
  /** Segments that are switched off: names of them stand for nothing, and `segments` has the others. */
  readonly off: readonly Segment[];
  /** Segments whose address service is switched off, as they are kept; in `segments` they have none. */
  readonly quiet: readonly Segment[];
  readonly estate: EstatePart;
  readonly ssids: readonly SiteSsid[];
  readonly accessClasses: readonly SiteClass[];
  /** RADIUS servers that reach it, in the order they are asked. */
  readonly radiusServers: readonly RadiusServer[];
  readonly management: Segment;
}

/** What of the shared intent applies at a site, with names looked up among the site's own. */
export function resolve(estate: EstatePart, site: SitePart): ResolvedSite {
  const { segments, off, quiet } = inForce(site.segments);
  const management = segments.find((segment) => segment.id === site.managementId);
  if (!management) throw new RangeError(`site ${site.id} has lost its management segment`);
  const here = segments === site.segments ? site : { ...site, segments };
  return { ...here, off, quiet, estate, ...sharedAt(estate, here), management };
}

/** What sites share, as one has it. */
type Shared = Pick<ResolvedSite, 'ssids' | 'accessClasses' | 'radiusServers'>;

/** What that is worked out of; nothing else is seen, so that it holds as long as these stay. */
const OF_ESTATE = ['ssids', 'classes', 'hours', 'portals', 'radius', 'landings'] as const;
const OF_SITE = ['id', 'segments', 'pools'] as const;
type SharingEstate = Pick<EstatePart, (typeof OF_ESTATE)[number]>;
type SharingSite = Pick<SitePart, (typeof OF_SITE)[number]>;

/** What was resolved last for a site's segments: edits of ports leave it alone, and much is remembered by it. */
const resolved = new WeakMap<SitePart['segments'], { readonly from: readonly unknown[]; readonly shared: Shared }>();

function sharedAt(estate: EstatePart, site: SitePart): Shared {
  const from = [...OF_ESTATE.map((field) => estate[field]), ...OF_SITE.map((field) => site[field])];
  const known = resolved.get(site.segments);
  if (known && sameAll(known.from, from)) return known.shared;
  const shared = shareWith(pick(estate, OF_ESTATE), pick(site, OF_SITE));
  resolved.set(site.segments, { from, shared });
  return shared;
}

function shareWith(estate: SharingEstate, site: SharingSite): Shared {
  const accessClasses = (estate.classes ?? [])
    .filter(({ reach }) => reaches(reach, site.id))
    .map((one): SiteClass => ({ ...one, segmentId: segmentNamed(site.segments, one.segment)?.id ?? null }));
  const ssids = estate.ssids
    .filter((ssid) => reaches(ssid.reach, site.id))
    .map((ssid) => ssidAt(ssid, site.id))
    .filter(({ off }) => !off)
    .map((ssid): SiteSsid => {
      const within = estate.hours?.find(({ id }) => id === ssid.hours);
      const held = estate.portals?.find(({ id }) => id === ssid.portal);
      const heldWithin = held?.hours ? estate.hours?.find(({ id }) => id === held.hours) : undefined;
      const { caps } = ssid;
      const landed = landedAt(estate, ssid, site.id);
      const here: SiteSsid = {
        ...ssid,
        ...(landed ? { segmentId: null, landed } : { ...joined(site, ssid.segment), ...ringAt(site, ssid) }),
        // At the site where others’ clients come out its own go the short way.
        ...(ssid.tunnel === site.id ? { tunnel: 'gateway' as const } : {}),
        ...(within ? { within } : {}),
        ...(held ? { held } : {}),
        ...(heldWithin ? { heldWithin } : {}),
        ...(held?.rate ? { caps: { ...caps, client: lesser(caps?.client, held.rate) } } : {}),
        ...sendersAt(ssid, site),
      };
      // One that has no segment is not sent. Where servers say who somebody is, a class that is not here lets nobody in: none falls elsewhere.
      const counts = accessClasses.length > 0 || asksWho(ssid.security);
      const asks = ssid.byClass && counts && plainSegmentsOfSsid(here).length > 0;
      return asks ? { ...here, classes: accessClasses } : here;
    });
  const radiusServers = (estate.radius ?? []).filter(({ reach }) => reaches(reach, site.id));
  return { ssids, accessClasses, radiusServers };
}

function ringAt(site: SharingSite, { ring }: Ssid): Pick<SiteSsid, 'ringSegments'> {
  if (!ring) return {};
  // Hundreds of names of hundreds of segments: looked up once.
  const byName = new Map(site.segments.map((segment) => [segment.name.toLowerCase(), segment.id]));
  const ringSegments = [...ring].sort().flatMap((name) => {
    const segmentId = byName.get(name.toLowerCase());
    return segmentId === undefined ? [] : [{ name, segmentId }];
  });
  return { ringSegments };
}

/** Of two limits each way the lesser. */
function lesser(one: CapPair | null | undefined, other: CapPair): CapPair {
  const of = (way: CapWay): number | null => {
    const [a, b] = [one?.[way] ?? null, other[way] ?? null];
    return a === null || b === null ? (a ?? b) : Math.min(a, b);
  };
  return { down: of('down'), up: of('up') };
}

const sendersAt = ({ aps }: Ssid, { id }: SharingSite): Pick<SiteSsid, 'senders'> => {
  const senders = aps?.[id];
  return senders ? { senders } : {};
};

/** Whether an AP is one that sends an SSID. */
export const sends = ({ senders }: Pick<SiteSsid, 'senders'>, deviceId: string): boolean =>
  !senders || senders.includes(deviceId);

/** What an SSID's clients join at a site: the segment of that name, else the pool. */
function joined(site: SharingSite, name: string): Pick<SiteSsid, 'segmentId' | 'pool'> {
  const wanted = name.toLowerCase();
  const segment = segmentNamed(site.segments, name);
  if (segment) return { segmentId: segment.id };
  const pool = site.pools?.find((each) => each.name.toLowerCase() === wanted);
  if (!pool) return { segmentId: null };
  const list = parseVlanList(pool.vlans);
  const ids = new Set(list.ok ? list.ids : []);
  const segmentIds = site.segments.filter((each) => ids.has(each.vlan)).map((each) => each.id);
  return { segmentId: null, pool: { id: pool.id, segmentIds } };
}

/** The segment that an SSID names itself at its site, or those of the pool; none: it is not sent there. */
export const ownSegmentsOfSsid = (ssid: SiteSsid): readonly string[] =>
  ssid.segmentId === null ? (ssid.pool?.segmentIds ?? []) : [ssid.segmentId];

/** The segments an SSID puts clients into at its site that have no class there; those of its keys included. */
export function plainSegmentsOfSsid(ssid: SiteSsid): readonly string[] {
  const own = ownSegmentsOfSsid(ssid);
  if (!ssid.ringSegments?.length || own.length === 0) return own;
  return [...new Set([...own, ...ssid.ringSegments.map(({ segmentId }) => segmentId)])];
}

/** The segments an SSID puts clients into at its site, those of classes included. */
export const segmentsOfSsid = (ssid: SiteSsid): readonly string[] =>
  ssid.classes
    ? [...new Set([...plainSegmentsOfSsid(ssid), ...ssid.classes.flatMap(({ segmentId }) => segmentId ?? [])])]
    : plainSegmentsOfSsid(ssid);

/** The same of those that come there over cables, and not in a tunnel. */
export const cabledSegmentsOfSsid = (ssid: SiteSsid): readonly string[] => (ssid.tunnel ? [] : segmentsOfSsid(ssid));

/** Ids of the segments that a site's SSIDs put clients into over cables. */
export function airedSegments(estate: EstatePart, site: SitePart): ReadonlySet<string> {
  return new Set(resolve(estate, site).ssids.flatMap(cabledSegmentsOfSsid));
}
