import type { SecretRef } from '../base';

/** UDP port of tunnels between sites: of a spoke’s first hub, and of a hub’s spokes. */
export const OVERLAY_PORT = 51_820;
/** The same between hubs, for the first of them; further ones have the next. */
export const HUBS_PORT = OVERLAY_PORT + 20;
/** The same between spokes. */
export const DIRECT_PORT = OVERLAY_PORT + 10;
/** Octets that a tunnel of WireGuard adds to a packet: headers of IPv4 and UDP, type, receiver, counter and tag (16 + 16). */
export const OVERLAY_OCTETS = 20 + 8 + 16 + 16;
/** Seconds between packets that keep translation in front of a gateway open. */
export const KEEPALIVE_SECONDS = 25;

/** Seconds between two questions to the other end of a tunnel, and how many without an answer make it one that is down. */
export const [TUNNEL_ASKS_SECONDS, TUNNEL_LOSSES] = [2, 3];

/** Whether a gateway hands on what is for other sites, or sends it to those that do. */
export type OverlayRole = 'hub' | 'spoke';

/** The other end of a tunnel. */
export interface OverlayPeer {
  /** Name of its site. */
  readonly name: string;
  readonly role: OverlayRole;
  /** Its public key (Curve25519), in base64. */
  readonly public: string;
  /** Addresses at which it is found, the first first; none: it is the one that calls. */
  readonly at: readonly string[];
  /** UDP ports of this tunnel, there and here; absent: the usual one. */
  readonly port?: number;
  readonly here?: number;
  /** Octets of the largest packet in this tunnel. */
  readonly mtu: number;
  /** Prefixes that are behind it. */
  readonly carries: readonly string[];
  /** Of a hub, told to a spoke: its turn, from 0. */
  readonly turn?: number;
  /** Of a spoke, told to a hub: other hubs that have a tunnel to it, the preferred first. */
  readonly hubs?: readonly string[];
}

/** A site that a hub has no tunnel to, and the hubs that have one, the preferred first. */
export interface OverlaySite {
  readonly name: string;
  readonly carries: readonly string[];
  readonly hubs: readonly string[];
}

/** How a gateway is joined to those of other sites. Ordered by name. */
export interface OverlayDocument {
  readonly role: OverlayRole;
  /** What others call it: its site. */
  readonly name: string;
  readonly key: SecretRef;
  readonly public: string;
  /** What others reach behind it. */
  readonly shares: readonly string[];
  /** Where networks of all sites are: what is for there goes into tunnels or nowhere. */
  readonly spans: readonly string[];
  /** What of the others it speaks with; absent: all. */
  readonly takes?: readonly string[];
  /** Whether all that leaves does so by its hub. */
  readonly leaves?: 'hub';
  readonly peers: readonly OverlayPeer[];
  readonly sites?: readonly OverlaySite[];
}

/** One line of a gateway’s table that the overlay makes. */
export interface OverlayLine {
  readonly prefix: string;
  /** The site that has it, or the hub that is asked for it. */
  readonly name: string;
  /** The other end of the tunnel; null: it is dropped. */
  readonly peer: string | null;
  /** The site that the other end, a hub, has to have a tunnel to that is up; absent: it is asked for whatever it has. */
  readonly asks?: string;
  /** The lowest counts that is up. */
  readonly metric: number;
}

/** What comes after every tunnel. */
export const DROPPED_METRIC = 9999;

/**
 * The lines that tunnels make in a gateway’s table. A spoke sends what is for other sites to its hubs in their order, and to spokes that it has a tunnel of
 * its own to; a hub sends it to the site, else by the other hubs in that site’s order. What is for no site is dropped: it never leaves by an uplink.
 */
export function overlayLines({
  role,
  peers,
  sites = [],
  spans,
  takes = spans,
  leaves,
}: Pick<OverlayDocument, 'role' | 'peers' | 'sites' | 'spans' | 'takes' | 'leaves'>): OverlayLine[] {
  const lines: OverlayLine[] = [];
  const all = leaves === 'hub' ? [...takes, '0.0.0.0/0', '::/0'] : takes;
  for (const peer of peers) {
    if (role === 'spoke' && peer.role === 'hub') {
      for (const prefix of all)
        lines.push({ prefix, name: `sites by ${peer.name}`, peer: peer.name, metric: peer.turn ?? 0 });
      continue;
    }
    for (const line of linesTo(peer, true)) lines.push(line);
  }
  for (const site of sites) for (const line of linesTo(site, false)) lines.push(line);
  for (const prefix of spans) lines.push({ prefix, name: 'no site', peer: null, metric: DROPPED_METRIC });
  return lines;
}

/** What leads to a site, and by which hubs else. @param own whether there is a tunnel to it. */
function linesTo(
  { name, carries, hubs = [] }: Pick<OverlayPeer, 'name' | 'carries' | 'hubs'>,
  own: boolean,
): readonly OverlayLine[] {
  const known = linesKnown.get(carries) ?? new Map<string, readonly OverlayLine[]>();
  linesKnown.set(carries, known);
  const how = `${own} ${name}\n${hubs.join('\n')}`;
  let lines = known.get(how);
  if (!lines) known.set(how, (lines = carries.flatMap((prefix) => linesFor(prefix, { name, hubs, own }))));
  return lines;
}
const linesFor = (
  prefix: string,
  { name, hubs, own }: { readonly name: string; readonly hubs: readonly string[]; readonly own: boolean },
): OverlayLine[] => [
  ...(own ? [{ prefix, name, peer: name, metric: 0 }] : []),
  ...hubs.map((hub, i) => ({ prefix, name: `${name} by ${hub}`, peer: hub, asks: name, metric: i + 1 })),
];
/** Of thousands of sites an edit changes what one carries: of the others the lines are the same objects. */
const linesKnown = new WeakMap<readonly string[], Map<string, readonly OverlayLine[]>>();

/** An interface at which tunnels end. */
export interface OverlayInterface {
  /** UDP port that it listens at. */
  readonly port: number;
  readonly peers: readonly {
    readonly peer: OverlayPeer;
    /** Prefixes that it may send from; at one interface each is at one other end alone. */
    readonly carries: readonly string[];
    /** What is led to it, and with which metric. */
    readonly leads: readonly { readonly prefix: string; readonly metric: number }[];
  }[];
}

/**
 * A gateway’s tunnels by interface. At one interface a prefix is at one other end alone, and what comes from elsewhere is dropped (cryptokey routing): whoever
 * hands on what is of others has an interface of its own, a spoke’s hubs and a hub’s other hubs; all spokes of a hub share one.
 */
export function overlayInterfaces(overlay: OverlayDocument): OverlayInterface[] {
  const { role, spans, takes = spans, leaves, peers } = overlay;
  const all = leaves === 'hub' ? [...takes, '0.0.0.0/0', '::/0'] : takes;
  const leads = new Map<string, { prefix: string; metric: number }[]>(peers.map(({ name }) => [name, []]));
  for (const { prefix, peer, metric } of overlayLines(overlay))
    if (peer !== null) leads.get(peer)?.push({ prefix, metric });
  const ports = [...new Set(peers.map(({ here = OVERLAY_PORT }) => here))].sort((a, b) => a - b);
  return ports.map((port) => ({
    port,
    peers: peers
      .filter(({ here = OVERLAY_PORT }) => here === port)
      .map((peer) => ({
        peer,
        carries: peer.role === 'hub' ? (role === 'hub' ? spans : all) : peer.carries,
        leads: leads.get(peer.name)!,
      })),
  }));
}
