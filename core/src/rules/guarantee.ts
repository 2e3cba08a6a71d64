import { examplePacket } from './example-packet';
import { VERSIONS } from './layers';
import { addressSpans, boxesOf, type Packet, type PacketRule } from './packet-rule';
import type { Passage } from './passage';
import type { Place } from './reach';
import type { Service } from './service';
import type { Diagram } from './space';

/**
 * What has to hold whatever the rules are. `never`: nothing of the services gets from one place to the other; `always`:
 * all of it does; `only`: from nowhere but the one place to the other.
 */
export interface Guarantee {
  readonly kind: 'never' | 'always' | 'only';
  readonly from: Place;
  readonly to: Place;
  readonly services: readonly Service[];
  /** Destinations that do not count. */
  readonly besides?: Place['addresses'];
}

/** Why a guarantee does not hold: a packet that it is about, and the rule that decides it; null where none does. */
export interface Breach {
  readonly packet: Packet;
  readonly rule: PacketRule | null;
}

/**
 * Proves a guarantee over all packets.
 * @returns null when it holds, else a packet for which it does not.
 */
export function breachOf(passage: Passage, guarantee: Guarantee): Breach | null {
  const { kind, from, to, services, besides } = guarantee;
  const { decider } = passage;
  for (const version of VERSIONS) {
    const space = decider.space(version);
    const spared = besides ? addressSpans(version, besides) : null;
    const counted = (set: Diagram): Diagram =>
      spared ? space.subtract(set, space.box([null, spared, null, null])) : set;
    const about = (source: Place['addresses'], destination: Place['addresses']): Diagram =>
      counted(
        boxesOf({ source, destination, services }, version).reduce(
          (sum, box) => space.unite(sum, space.box(box)),
          space.none,
        ),
      );
    const allowed = passage.allowed(version);
    const meant = about(from.addresses, to.addresses);
    const wrong =
      kind === 'never'
        ? space.intersect(allowed, meant)
        : kind === 'always'
          ? space.subtract(meant, allowed)
          : space.intersect(allowed, space.subtract(about(null, to.addresses), meant));
    const packet = examplePacket(space, wrong);
    if (packet) return { packet, rule: passage.among(packet) === null ? decider.decide(packet) : null };
  }
  return null;
}
