import { isUnanswered, parseIp } from '../../address';
import { ETHERNET_MTU } from '../../document';
import { sameValue } from '../../base';
import type { Intent, SitePart } from '../part';
import { isIn } from '../overlay/spans';
import { inForce } from '../segment/in-force';
import { isReachedByGateway } from '../router/here';
import type { UplinkEntry } from '../uplink/uplink';
import { foundKey, type Join, type Joins, type Member } from './member';

/** Octets of a packet inside PPPoE (RFC 2516 §7). */
const PPPOE_MTU = 1492;

/**
 * What others know of a member: it follows from its site. A segment’s IPv6 that is not where networks of all sites are is no part of it: it is reached as
 * the internet is.
 * @param spans where networks of all sites are.
 */
export function joinOf(member: Member, site: SitePart, spans: readonly string[]): Join {
  const { segments: said, prefixes, deviceId } = member;
  const shared = inForce(site.segments).segments.filter(
    (segment) =>
      isReachedByGateway(site, segment) && (said === 'all' ? !segment.isolation?.segments : said.includes(segment.id)),
  );
  const subnets = shared.flatMap(({ subnet, v6 }) => [subnet, ...(v6 && isIn(v6.prefix, spans) ? [v6.prefix] : [])]);
  // Whichever of a pair routes holds the tunnels, and is found at its own uplinks.
  const pair = site.pair && [site.pair.firstId, site.pair.secondId];
  const ends = pair?.includes(deviceId) ? pair : [deviceId];
  const uplinks = ends.flatMap((id) => uplinksAt(site, id));
  const at = ends.flatMap((id) => addressesAt(member, site, id));
  const mtus = uplinks.map(([, { mtu, way }]) => mtu ?? (way === 'pppoe' ? PPPOE_MTU : ETHERNET_MTU));
  return {
    name: site.name,
    carries: [...new Set([...subnets, ...prefixes])].sort(),
    at,
    mtu: Math.min(ETHERNET_MTU, ...mtus),
  };
}

const uplinksAt = (site: SitePart, deviceId: string): readonly (readonly [port: string, entry: UplinkEntry])[] =>
  Object.entries(site.uplinks?.[deviceId] ?? {}).filter(([, { on }]) => on !== false);

/** The addresses at which a member is found while its tunnels end at one of its gateways. */
export function addressesAt(member: Member, site: SitePart, gatewayId: string): string[] {
  const own = foundKey(member, gatewayId, '');
  const entries = new Map(uplinksAt(site, gatewayId));
  const said = Object.entries(member.found).flatMap(([key, address]): [string, string][] => {
    if (own === '') return key.includes(' ') ? [] : [[key, address]];
    return key.startsWith(own) ? [[key.slice(own.length), address]] : [];
  });
  const found = new Map(said);
  const ports = [...new Set([...entries.keys(), ...found.keys()])].sort();
  return ports.flatMap((port) => found.get(port) ?? ownAddress(entries.get(port)) ?? []);
}

/** The address of an uplink that is its own for good, and that others can send to. */
function ownAddress({ way, fixed }: UplinkEntry = {}): string | null {
  const text = way === 'static' ? fixed?.address.split('/')[0] : undefined;
  const ip = text === undefined ? null : parseIp(text);
  return ip && !isUnanswered(ip) ? text! : null;
}

/**
 * An intent with what members know of each other as it is now. The same intent comes back where nothing of that is otherwise, so that an edit of something
 * else leaves what sites share alone.
 * @param from the intent that it was made of, in which members know each other; absent: nothing is known of that.
 */
export function withJoins(intent: Intent, from?: Intent): Intent {
  if (from && isSameToMembers(from, intent)) return intent;
  const { joins: before, ...estate } = intent.estate;
  const { members = [], overlay } = estate;
  if (members.length === 0) return before ? { ...intent, estate } : intent;
  let [same, left] = [true, sizeOf(before)];
  const all = members.map((member): Join | undefined => {
    const site = intent.sites.get(member.siteId);
    const known = before?.[member.id];
    // Of a site that is not looked at it stays as it was.
    const join = site ? rememberedJoin(member, site, overlay?.spans ?? NONE) : known;
    if (!join) return undefined;
    if (known) left--;
    if (known && (known === join || sameValue(known, join))) return known;
    same = false;
    return join;
  });
  if (same && left === 0) return intent;
  const joins: Record<string, Join> = {};
  for (const [i, { id }] of members.entries()) if (all[i]) joins[id] = all[i];
  sizes.set(joins, Object.keys(joins).length);
  return { ...intent, estate: { ...estate, joins: joins satisfies Joins } };
}

/** Whether members and their sites are the very same in both. */
function isSameToMembers(from: Intent, { estate, sites }: Intent): boolean {
  const { members, overlay, joins } = from.estate;
  if (members !== estate.members || overlay !== estate.overlay || joins !== estate.joins) return false;
  if (!members) return true;
  let joined = sitesOf.get(members);
  if (!joined) sitesOf.set(members, (joined = new Set(members.map(({ siteId }) => siteId))));
  for (const [id, site] of sites) if (from.sites.get(id) !== site && joined.has(id)) return false;
  return true;
}
const sitesOf = new WeakMap<readonly Member[], ReadonlySet<string>>();

/** Joins never change once they are there. */
const sizes = new WeakMap<Joins, number>();
function sizeOf(joins: Joins | undefined): number {
  if (!joins) return 0;
  let size = sizes.get(joins);
  if (size === undefined) sizes.set(joins, (size = Object.keys(joins).length));
  return size;
}

const NONE: readonly string[] = [];
/** Parts and members never change once they are there. */
const remembered = new WeakMap<
  Member,
  Pick<SitePart, 'segments' | 'uplinks' | 'name' | 'pair' | 'routers'> & {
    readonly spans: readonly string[];
    readonly join: Join;
  }
>();

function rememberedJoin(member: Member, site: SitePart, spans: readonly string[]): Join {
  const { segments, uplinks, name, pair, routers } = site;
  const known = remembered.get(member);
  if (
    known?.segments === segments &&
    known.uplinks === uplinks &&
    known.pair === pair &&
    known.routers === routers &&
    known.name === name &&
    known.spans === spans
  )
    return known.join;
  const join = joinOf(member, site, spans);
  const optional = { ...(uplinks ? { uplinks } : {}), ...(pair ? { pair } : {}), ...(routers ? { routers } : {}) };
  remembered.set(member, { segments, ...optional, name, spans, join });
  return join;
}
