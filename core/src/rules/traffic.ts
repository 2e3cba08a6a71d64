import type { IpRange } from '../address';
import { serviceWords } from './service';
import { PORTED_END, type Box, type Diagram, type PacketSpace, type Span } from './space';

/** One line of a set of packets, to be read: from any of the sources to any of the destinations, any of the services. */
export interface Traffic {
  readonly sources: readonly IpRange[];
  readonly destinations: readonly IpRange[];
  /** In words. */
  readonly services: readonly string[];
  /** Ports it has to come from, in words; absent: any. */
  readonly sourcePorts?: string;
  /** Exactly the packets of the line. */
  readonly box: Box;
}

/** A set of packets as few lines that together are exactly it: what leads to the same is one line. */
export function trafficOf(space: PacketSpace, set: Diagram): Traffic[] {
  const { version } = space;
  const ranges = (spans: readonly Span[]): IpRange[] =>
    spans.map(({ first, end }) => ({ version, first: BigInt(first), last: BigInt(end) - 1n }));
  const lines: Traffic[] = [];
  for (const [toDestinations, sources] of grouped(space, set, 'source'))
    for (const [toServices, destinations] of grouped(space, toDestinations, 'destination'))
      for (const [toPorts, services] of grouped(space, toServices, 'service'))
        for (const [, ports] of grouped(space, toPorts, 'sourcePort')) {
          const any = space.constant(toPorts) !== null;
          // A service without ports does not depend on where it comes from.
          const kept = any ? services : services.filter(({ first }) => first < PORTED_END);
          lines.push({
            sources: ranges(sources),
            destinations: ranges(destinations),
            services: kept.map((span) => serviceWords(span, version === 6)),
            ...(any ? {} : { sourcePorts: ports.map(portWords).join(', ') }),
            box: [sources, destinations, kept, any ? null : ports],
          });
        }
  return lines;
}

/** The stretches of an axis that lead to the same, by what they lead to; what leads to nothing is left out. */
function grouped(space: PacketSpace, set: Diagram, axis: Parameters<PacketSpace['parts']>[1]): Map<Diagram, Span[]> {
  const groups = new Map<Diagram, Span[]>();
  for (const { span, then } of space.parts(set, axis)) {
    if (then === space.none) continue;
    const group = groups.get(then);
    if (group) group.push(span);
    else groups.set(then, [span]);
  }
  return groups;
}

const portWords = ({ first, end }: Span): string =>
  Number(end) - Number(first) === 1 ? `${first}` : `${first} to ${Number(end) - 1}`;
