import type { IpRange, IpVersion } from '../address';
import { joined, serviceOf, spansOfService, type Service } from './service';
import { PORTED_END, type Box, type Coordinate, type Point, type Span } from './space';

/** What a rule does with the packets it matches. */
export type Verdict = 'allow' | 'deny';

/** One rule of an ordered list, its ends as addresses; null stands for every address. First match decides (RFC 8519 §3). */
export interface PacketRule {
  readonly id: string;
  readonly verdict: Verdict;
  /** Both versions may stand side by side; one that is not named is not matched. An empty list matches nothing. */
  readonly source: readonly IpRange[] | null;
  readonly destination: readonly IpRange[] | null;
  readonly services: readonly Service[];
}

/** One packet. */
export interface Packet {
  readonly version: IpVersion;
  readonly source: bigint;
  readonly destination: bigint;
  /** IANA protocol number. */
  readonly protocol: number;
  /** Of TCP and UDP. */
  readonly sourcePort?: number;
  readonly port?: number;
  /** Of ICMP. */
  readonly type?: number;
  readonly code?: number;
}

/** An address as a coordinate: exact as a double in IPv4. */
export const coordinate = (version: IpVersion, value: bigint): Coordinate => (version === 4 ? Number(value) : value);

/** Address ranges of one version as spans; null for the whole axis. */
export function addressSpans(version: IpVersion, ranges: readonly IpRange[] | null): Span[] | null {
  if (ranges === null) return null;
  const spans = ranges
    .filter((range) => range.version === version)
    .map((range) => ({ first: coordinate(version, range.first), end: coordinate(version, range.last + 1n) }));
  return joined(spans);
}

/** The boxes of packets of one version that a rule matches: one for each of its services. */
export function boxesOf(
  { source, destination, services }: Pick<PacketRule, 'source' | 'destination' | 'services'>,
  version: IpVersion,
): Box[] {
  const [from, to] = [addressSpans(version, source), addressSpans(version, destination)];
  if (from?.length === 0 || to?.length === 0) return [];
  return services.flatMap((service): Box[] => {
    const spans = spansOfService(service, version === 6);
    if (spans?.length === 0) return [];
    if (!service.sourcePorts) return [[from, to, spans, null]];
    // Only TCP and UDP have source ports.
    const ported = (spans ?? [{ first: 0, end: PORTED_END }]).filter((span) => span.first < PORTED_END);
    const ports = joined(service.sourcePorts.map(({ first, last }) => ({ first, end: last + 1 })));
    return ported.length === 0 || ports.length === 0 ? [] : [[from, to, ported, ports]];
  });
}

/** Where a packet stands on each axis. */
export function pointOf({ version, source, destination, protocol, sourcePort, port, type, code }: Packet): Point {
  const number = type === undefined ? (port ?? 0) : type * 256 + (code ?? 0);
  const service = serviceOf(protocol, number, version === 6);
  return [
    coordinate(version, source),
    coordinate(version, destination),
    service,
    service < PORTED_END ? (sourcePort ?? 0) : 0,
  ];
}

/** Whether a box holds a point. */
const inBox = (box: Box, point: Point): boolean =>
  box.every((spans, axis) => !spans || spans.some(({ first, end }) => point[axis]! >= first && point[axis]! < end));

/** Tells whether a packet is matched by a rule; for one that is asked again and again. */
export function matcherOf(rule: Pick<PacketRule, 'source' | 'destination' | 'services'>): (packet: Packet) => boolean {
  const boxes = { 4: boxesOf(rule, 4), 6: boxesOf(rule, 6) };
  return (packet) => {
    const point = pointOf(packet);
    return boxes[packet.version].some((box) => inBox(box, point));
  };
}

/**
 * The first rule that matches a packet, by trying one after the other; null where none does. The definition that the
 * diagrams are held against.
 */
export function firstMatch(rules: readonly PacketRule[], packet: Packet): PacketRule | null {
  return rules.find((rule) => matcherOf(rule)(packet)) ?? null;
}
