import {
  DIRECT_PORT,
  HUBS_PORT,
  OVERLAY_OCTETS,
  OVERLAY_PORT,
  type OverlayDocument,
  type OverlayPeer,
  type OverlaySite,
} from '../../document';
import type { EstatePart } from '../part';
import type { Join, Member } from './member';

/** What of the shared intent says how sites are joined. */
export type JoinedEstate = Pick<EstatePart, 'overlay' | 'members' | 'joins'>;

/** The joined sites by what is looked up of them: worked out once for all that ask of one list. */
interface Book {
  readonly byId: ReadonlyMap<string, Member>;
  readonly bySite: ReadonlyMap<string, Member>;
  /** Spokes by each of their hubs, and by those that have a tunnel of their own to them. */
  readonly spokesOf: ReadonlyMap<string, readonly Member[]>;
  readonly hubs: readonly Member[];
}
const books = new WeakMap<readonly Member[], Book>();

function bookOf(members: readonly Member[]): Book {
  let book = books.get(members);
  if (book) return book;
  const spokesOf = new Map<string, Member[]>();
  const add = (id: string, spoke: Member): void => {
    const known = spokesOf.get(id);
    if (!known) spokesOf.set(id, [spoke]);
    else if (!known.includes(spoke)) known.push(spoke);
  };
  const byId = new Map(members.map((each) => [each.id, each]));
  for (const member of members) {
    for (const id of member.hubs) add(id, member);
    for (const id of member.direct) {
      add(id, member);
      const other = byId.get(id);
      if (other) add(member.id, other);
    }
  }
  const bySite = new Map(members.map((each) => [each.siteId, each]));
  books.set(members, (book = { byId, bySite, spokesOf, hubs: members.filter(({ role }) => role === 'hub') }));
  return book;
}

/** The member that a site is; undefined: it is not joined. */
export const memberAt = ({ members }: JoinedEstate, siteId: string): Member | undefined =>
  members && bookOf(members).bySite.get(siteId);

/** Sites that are joined, as ways between them ask; see `joinedWay`. */
export const joinedEnds = ({ members = [], joins = {} }: JoinedEstate) =>
  members.flatMap(({ id, role, hubs, direct, takes }) => {
    const join = joins[id];
    return join ? [{ id, name: join.name, role, hubs, direct, takes, carries: join.carries }] : [];
  });

/** Ids of the sites that have a tunnel to a member, or that it names, and its own. */
export function* sitesAround({ members = [] }: JoinedEstate, id: string): Iterable<string> {
  const { byId, spokesOf } = bookOf(members);
  const member = byId.get(id);
  if (!member) return;
  yield member.siteId;
  for (const other of [...member.hubs, ...member.direct]) {
    const found = byId.get(other);
    if (found) yield found.siteId;
  }
  for (const { siteId } of spokesOf.get(id) ?? []) yield siteId;
}

/** What a site’s page needs of how sites are joined: of a spoke its own tunnels, and those to where clients are carried; of a hub all. */
export function joinedSeenAt<E extends JoinedEstate & Pick<EstatePart, 'landings'>>(estate: E, siteId: string): E {
  const { members, joins = {}, landings = {} } = estate;
  const own = memberAt(estate, siteId);
  if (!members || own?.role === 'hub') return estate;
  const sites = new Set(own ? sitesAround(estate, own.id) : []);
  for (const [id, { from }] of Object.entries(landings)) {
    const end = siteId in from ? memberAt(estate, id) : undefined;
    if (end) for (const each of sitesAround(estate, end.id)) sites.add(each);
  }
  const seen = members.filter((each) => sites.has(each.siteId));
  return { ...estate, members: seen, joins: Object.fromEntries(seen.map(({ id }) => [id, joins[id]])) };
}

/** Whether two ends can have a tunnel: one of them has to know where the other is. */
export const canMeet = (a: Join | undefined, b: Join | undefined): boolean =>
  a !== undefined && b !== undefined && (a.at.length > 0 || b.at.length > 0);

/** What was worked out of one state: parts never change, and many ask the same of it. */
const worked = new WeakMap<
  object,
  { readonly of: readonly unknown[]; readonly at: Map<string, OverlayDocument | null> }
>();

/** How a site’s gateway is joined to those of others; null: it is not. The same state gives the same object. */
export function overlayAt(estate: JoinedEstate, siteId: string): OverlayDocument | null {
  const { overlay, members, joins } = estate;
  if (!overlay || !members || !joins) return null;
  let known = worked.get(joins);
  if (!known || known.of[0] !== overlay || known.of[1] !== members)
    worked.set(joins, (known = { of: [overlay, members], at: new Map() }));
  let told = known.at.get(siteId);
  if (told === undefined) known.at.set(siteId, (told = toldAt(estate, siteId)));
  return told;
}

function toldAt(estate: JoinedEstate, siteId: string): OverlayDocument | null {
  const { overlay, members = [], joins = {} } = estate;
  const own = memberAt(estate, siteId);
  const mine = own && joins[own.id];
  if (!overlay || !own || !mine) return null;
  const { byId, spokesOf, hubs } = bookOf(members);
  const peer = (other: Member, more: Partial<OverlayPeer> = {}): OverlayPeer[] => {
    const join = joins[other.id];
    // What neither can call is no tunnel, and a finding.
    if (!join || !canMeet(mine, join)) return [];
    const { name, at, carries, mtu } = join;
    const { role, key } = other;
    return [
      { ...{ name, role, public: key.public, at, mtu: Math.min(mtu, mine.mtu) - OVERLAY_OCTETS, carries }, ...more },
    ];
  };
  const hubNames = (spoke: Member): string[] =>
    spoke.hubs.flatMap((id) => {
      const hub = joins[id];
      return id === own.id || byId.get(id)?.role !== 'hub' || !canMeet(joins[spoke.id], hub) ? [] : [hub!.name];
    });
  const peers: OverlayPeer[] = [];
  const sites: OverlaySite[] = [];
  if (own.role === 'spoke') {
    for (const [turn, id] of own.hubs.entries()) {
      const hub = byId.get(id);
      // Each of its hubs is at an interface of its own.
      const here = turn > 0 ? { here: OVERLAY_PORT + turn } : {};
      if (hub?.role === 'hub') peers.push(...peer(hub, { turn, carries: [], ...here }));
    }
    for (const spoke of spokesOf.get(own.id) ?? [])
      if (spoke.role === 'spoke') peers.push(...peer(spoke, { here: DIRECT_PORT, port: DIRECT_PORT }));
  } else {
    const at = hubs.indexOf(own);
    for (const [i, hub] of hubs.entries())
      if (hub !== own) peers.push(...peer(hub, { here: HUBS_PORT + i, port: HUBS_PORT + at }));
    for (const spoke of members) {
      if (spoke.role === 'hub') continue;
      const others = hubNames(spoke);
      const turn = spoke.hubs.indexOf(own.id);
      const port = turn > 0 ? { port: OVERLAY_PORT + turn } : {};
      const found = turn >= 0 ? peer(spoke, { ...port, ...(others.length > 0 ? { hubs: others } : {}) }) : [];
      peers.push(...found);
      if (found.length > 0 || others.length === 0) continue;
      const { name, carries } = joins[spoke.id]!;
      sites.push({ name, carries, hubs: others });
    }
  }
  return {
    ...{ role: own.role, name: mine.name, key: { secret: own.key.secret }, public: own.key.public },
    ...{ shares: mine.carries, spans: overlay.spans },
    ...(own.takes ? { takes: own.takes } : {}),
    ...(own.leaves === 'hub' ? { leaves: 'hub' as const } : {}),
    peers: peers.sort(byName),
    ...(sites.length > 0 ? { sites: sites.sort(byName) } : {}),
  };
}

const byName = (a: { readonly name: string }, b: { readonly name: string }): number =>
  a.name < b.name ? -1 : a.name > b.name ? 1 : 0;
