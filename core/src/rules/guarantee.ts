import type { Decider } from './decider';
import { examplePacket } from './example-packet';
import { VERSIONS } from './layers';
import { boxesOf, type Packet, type PacketRule, type Verdict } from './packet-rule';
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
}

/** Why a guarantee does not hold: a packet that it is about, and the rule that decides it, null where none matches. */
export interface Breach {
  readonly packet: Packet;
  readonly rule: PacketRule | null;
}

/**
 * Proves a guarantee over all packets.
 * @returns null when it holds, else a packet for which it does not.
 */
export function breachOf(decider: Decider, guarantee: Guarantee, otherwise: Verdict): Breach | null {
  const { kind, from, to, services } = guarantee;
  for (const version of VERSIONS) {
    const space = decider.space(version);
    const about = (source: Place['addresses'], destination: Place['addresses']): Diagram =>
      boxesOf({ source, destination, services }, version).reduce(
        (sum, box) => space.unite(sum, space.box(box)),
        space.none,
      );
    const allowed = decider.allowed(version, otherwise);
    const meant = about(from.addresses, to.addresses);
    const wrong =
      kind === 'never'
        ? space.intersect(allowed, meant)
        : kind === 'always'
          ? space.subtract(meant, allowed)
          : space.intersect(allowed, space.subtract(about(null, to.addresses), meant));
    const packet = examplePacket(space, wrong);
    if (packet) return { packet, rule: decider.decide(packet) };
  }
  return null;
}
