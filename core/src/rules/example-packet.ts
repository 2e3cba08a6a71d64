import { formatIp, type IpVersion } from '../address';
import type { Packet } from './packet-rule';
import { PROTOCOL, serviceAt } from './service';
import { PORTED_END, type Axis, type Coordinate, type Diagram, type PacketSpace, type Point, type Span } from './space';

/** Services people know, in the order in which an example takes them: HTTPS, HTTP, SSH, DNS. */
const KNOWN_SERVICES = [443, 80, 22, 65_536 + 53];
/** First port that clients take as source (RFC 6335 §6). */
const EPHEMERAL = 49_152;
/** A host some way into a subnet looks like one. */
const INTO = 10;

/** A packet of a set as somebody would send it; null where the set is empty. */
export function examplePacket(space: PacketSpace, set: Diagram): Packet | null {
  const point = space.example(set, (value) => value > 0, usual);
  return point && packetAt(space.version, point);
}

function usual(axis: Axis, { first, end }: Span): Coordinate {
  const within = (at: Coordinate): boolean => at >= first && at < end;
  if (axis === 'service') return KNOWN_SERVICES.find(within) ?? first;
  if (axis === 'sourcePort') return within(EPHEMERAL) ? EPHEMERAL : first;
  const into = typeof first === 'bigint' ? first + BigInt(INTO) : first + INTO;
  return within(into) ? into : first;
}

/** The packet that stands at a point. */
export function packetAt(version: IpVersion, [source, destination, place, sourcePort]: Point): Packet {
  const { protocol, port } = serviceAt(place, version === 6);
  const ends = { version, source: BigInt(source), destination: BigInt(destination), protocol };
  if (place < PORTED_END) return { ...ends, port, sourcePort };
  const isIcmp = protocol === (version === 6 ? PROTOCOL.icmp6 : PROTOCOL.icmp);
  return isIcmp ? { ...ends, type: port >> 8, code: port & 255 } : ends;
}

/** A packet in words: `10.12.10.14 → 10.12.20.5, TCP 631`. */
export function packetWords({ version, source, destination, protocol, port, type, code }: Packet): string {
  const [from, to] = [source, destination].map((value) => formatIp({ version, value }));
  const what =
    protocol === PROTOCOL.tcp
      ? `TCP ${port}`
      : protocol === PROTOCOL.udp
        ? `UDP ${port}`
        : type !== undefined
          ? `${version === 6 ? 'ICMPv6' : 'ICMP'} type ${type}${code ? ` code ${code}` : ''}`
          : `protocol ${protocol}`;
  return `${from} → ${to}, ${what}`;
}
