import type { JoinableSite, JoinedView } from '@iron-lattice/core/assess';
import { OVERLAY_OCTETS } from '@iron-lattice/core/document';
import { canMeet, overlayAt, type EstatePart, type Join, type Member } from '@iron-lattice/core/intent';
import type { PeerReport } from '@iron-lattice/core/paths';
import { counted } from '../../ui/counted';

type Joined = Pick<EstatePart, 'overlay' | 'members' | 'joins'>;

/** How a tunnel fares: as an end told it last; not told of yet; or there can be none, since neither end could call the other. */
export type TunnelState = 'up' | 'down' | 'untold' | 'never';

/** A tunnel of a joined site, to another one. */
export interface TunnelRow {
  readonly peerId: string;
  readonly name: string;
  readonly state: TunnelState;
  readonly fact: PeerReport | null;
  /** Octets of the largest packet in it. */
  readonly mtu: number;
}

/** A joined site, as the table and the map show it. */
export interface JoinedRow {
  readonly id: string;
  readonly member: Member;
  readonly join: Join;
  readonly gateway: string;
  readonly site: JoinableSite | undefined;
  /** Names of its hubs, the preferred first. */
  readonly hubs: readonly string[];
  readonly tunnels: readonly TunnelRow[];
}

/** Joined sites by name, hubs first, with how their tunnels fare. */
export function joinedRows(estate: Joined, view: JoinedView | null): JoinedRow[] {
  const { members = [], joins = {} } = estate;
  const sites = new Map((view?.sites ?? []).map((site) => [site.id, site]));
  const idOf = new Map(members.map(({ id }) => [joins[id]?.name ?? '', id]));
  const rows = members.flatMap((member): JoinedRow[] => {
    const join = joins[member.id];
    if (!join) return [];
    const site = sites.get(member.siteId);
    const told = new Map((liveAt(view, member)?.tunnels ?? []).map((each) => [each.peer, each]));
    const peers = overlayAt(estate, member.siteId)?.peers ?? [];
    const lost = [...member.hubs, ...member.direct].filter((id) => joins[id] && !canMeet(join, joins[id]));
    const tunnels = [
      ...peers.map(({ name, mtu }): TunnelRow => {
        const fact = told.get(name) ?? null;
        const state = fact ? (fact.up ? 'up' : 'down') : 'untold';
        return { peerId: idOf.get(name)!, name, state, fact, mtu };
      }),
      ...lost.map((peerId): TunnelRow => {
        const { name, mtu } = joins[peerId]!;
        return { peerId, name, state: 'never', fact: null, mtu: mtu - OVERLAY_OCTETS };
      }),
    ];
    const gateway = site?.gateways.find(({ id }) => id === member.deviceId)?.name ?? '';
    const hubs = member.hubs.map((id) => joins[id]?.name ?? 'one that is gone');
    return [{ id: member.id, member, join, gateway, site, hubs, tunnels }];
  });
  return rows.sort(
    (a, b) =>
      Number(b.member.role === 'hub') - Number(a.member.role === 'hub') || a.join.name.localeCompare(b.join.name),
  );
}

/** How the tunnel between two joined sites fares, as either end told it; undefined: there is none. */
export function tunnelBetween(rows: ReadonlyMap<string, JoinedRow>, a: string, b: string): TunnelRow | undefined {
  const [one, other] = [
    rows.get(a)?.tunnels.find(({ peerId }) => peerId === b),
    rows.get(b)?.tunnels.find(({ peerId }) => peerId === a),
  ];
  // Who calls knows more than who waits; what one end holds for down is.
  return [one, other].find((each) => each?.state === 'down') ?? (one?.fact ? one : (other ?? one));
}

/** What people read of a tunnel. */
export function tunnelWords({ state, fact }: Pick<TunnelRow, 'state' | 'fact'>): string {
  if (state === 'never') return 'cannot be: neither end could call the other';
  if (!fact) return 'not told of yet';
  if (!fact.up) return `down: ${fact.why ?? 'nothing comes back'}`;
  const delay = fact.delay === undefined ? '' : ` · ${Math.round(fact.delay)} ms`;
  const loss = fact.loss ? ` · ${Math.round(fact.loss * 100)} % lost` : '';
  return `up by ${fact.by ?? 'an uplink'}${delay}${loss}`;
}

/** How the tunnels of a site fare, in a few words, with how much of a worry that is. */
export function faresWords({ tunnels }: JoinedRow): { readonly words: string; readonly tone: '' | 'bad' | 'caution' } {
  const up = tunnels.filter(({ state }) => state === 'up').length;
  const untold = tunnels.filter(({ state }) => state === 'untold').length;
  if (tunnels.length === 0) return { words: 'none', tone: 'bad' };
  if (untold === tunnels.length) return { words: 'after the rollout', tone: '' };
  const words = up === tunnels.length ? (up === 1 ? 'up' : `all ${up} up`) : `${up} of ${tunnels.length} up`;
  return { words, tone: up === tunnels.length ? '' : up === 0 ? 'bad' : 'caution' };
}

/** What a site shares, in words. */
export const sharesWords = ({ join, member }: JoinedRow): string =>
  `${counted(join.carries.length, 'network')}${member.segments === 'all' ? '' : ', chosen'}`;

/** What was last told of a member’s tunnels: of a pair by whichever of the two has them. */
function liveAt(view: JoinedView | null, { siteId, deviceId }: Member): JoinedView['live'][string] | undefined {
  const gateways = view?.sites.find(({ id }) => id === siteId)?.gateways ?? [];
  const told = [deviceId, ...gateways.map(({ id }) => id)].flatMap((id) => view?.live[id] ?? []);
  return told.filter(({ tunnels }) => tunnels.length > 0).sort((a, b) => (a.at < b.at ? 1 : -1))[0] ?? told[0];
}
