import { inRange, type IpRange } from '../address';
import { matchedIn, passing } from './edge';
import { addressSpans, firstMatch, type Packet, type PacketRule } from './packet-rule';
import type { Diagram, PacketSpace } from './space';

/** Networks of a site that the gateway does not route: another router does, or nobody. */
export interface Quarter {
  /** Who routes them; of those that nobody does, which they are. */
  readonly name: string;
  readonly addresses: readonly IpRange[];
  /** What else its router reaches without the gateway, such as the internet by a line of its own; nothing begins there. */
  readonly beyond: readonly IpRange[];
  /** Whoever else is where its router meets the gateway: it sends there by itself, and their answers come back by the gateway, which saw no question. */
  readonly among: readonly IpRange[];
  /** What its router lets pass: the first that matches decides, and what none does passes. */
  readonly rules: readonly PacketRule[];
  /** Whether nobody routes them, so that nothing gets in or out. */
  readonly shut: boolean;
  /** Whether their router does not meet the gateway, so that nothing goes between the two. */
  readonly apart: boolean;
}

/** A router beside the gateway that decides a packet. */
export interface QuarterStop {
  readonly name: string;
  readonly rule: PacketRule | null;
  readonly passed: boolean;
  /** Whether nobody routes there. */
  readonly shut: boolean;
  /** Why it is stopped, where no rule does that. */
  readonly why?: string;
}

/** Some packets that a router beside the gateway decides alike. */
export interface QuarterMet {
  readonly quarter: Quarter;
  /** The rule that decides; null where none matches. */
  readonly rule: PacketRule | null;
  readonly met: Diagram;
  readonly passed: boolean;
  /** Why it is stopped, where no rule does that. */
  readonly why?: string;
}

/** The routers that a packet meets beside the gateway, and whether it meets that one. */
export interface QuarterWay {
  readonly before: readonly QuarterStop[];
  readonly after: readonly QuarterStop[];
  readonly byGateway: boolean;
}

/** What routers beside the gateway make of packets. */
export class Quarters {
  constructor(readonly list: readonly Quarter[]) {}

  /** Of what the gateway would let through, and of what does not come to it, what gets through. */
  through(space: PacketSpace, byGateway: Diagram): Diagram {
    return this.list.reduce((left, { addresses, beyond, among, rules, shut, apart }) => {
      const [from, to] = [sideOf(space, 0, addresses), sideOf(space, 1, addresses)];
      const met = space.unite(from, to);
      const rest = space.subtract(left, met);
      if (shut) return rest;
      const pass = passing(space, rules);
      const own = space.intersect(from, space.unite(to, sideOf(space, 1, beyond)));
      if (apart) return space.unite(rest, space.intersect(own, pass));
      const begunBeyond = space.intersect(sideOf(space, 0, beyond), to);
      const lost = space.intersect(from, sideOf(space, 1, among));
      const aside = space.unite(space.unite(own, begunBeyond), lost);
      const crossing = space.subtract(space.intersect(left, met), aside);
      return space.unite(rest, space.intersect(space.unite(own, crossing), pass));
    }, byGateway);
  }

  /** The packets that never come to the gateway. */
  past(space: PacketSpace): Diagram {
    return this.list.reduce<Diagram>((sum, { addresses, beyond, among, shut, apart }) => {
      const [from, to] = [sideOf(space, 0, addresses), sideOf(space, 1, addresses)];
      if (shut || apart) return space.unite(sum, space.unite(from, to));
      const own = space.intersect(
        from,
        [beyond, among].reduce((all, each) => space.unite(all, sideOf(space, 1, each)), to),
      );
      return space.unite(sum, space.unite(own, space.intersect(sideOf(space, 0, beyond), to)));
    }, space.none);
  }

  /** What each router beside the gateway decides of a set of packets, rule by rule. */
  met(space: PacketSpace, about: Diagram): readonly QuarterMet[] {
    return this.list.flatMap((quarter) => {
      const { addresses, rules, shut } = quarter;
      const sides = space.unite(sideOf(space, 0, addresses), sideOf(space, 1, addresses));
      let left = space.intersect(about, sides);
      const found: QuarterMet[] = [];
      for (const rule of shut ? [] : rules) {
        const met = space.intersect(left, matchedIn(space, rule));
        if (met === space.none) continue;
        left = space.subtract(left, met);
        found.push({ quarter, rule, met, passed: rule.verdict === 'allow' });
      }
      if (shut) return left === space.none ? [] : [{ quarter, rule: null, met: left, passed: false }];
      for (const [why, lost] of this.lost(space, quarter)) {
        const met = space.intersect(left, lost);
        left = space.subtract(left, met);
        if (met !== space.none) found.push({ quarter, rule: null, met, passed: false, why });
      }
      return left === space.none ? found : [...found, { quarter, rule: null, met: left, passed: true }];
    });
  }

  /** What a router stops though no rule of its does, and why. */
  private lost(space: PacketSpace, { addresses, beyond, among, apart }: Quarter): [why: string, lost: Diagram][] {
    const [from, to] = [sideOf(space, 0, addresses), sideOf(space, 1, addresses)];
    const begun: [string, Diagram] = [BEGUN, space.intersect(sideOf(space, 0, beyond), to)];
    if (!apart) return [begun, [AMONG, space.intersect(from, sideOf(space, 1, among))]];
    const own = space.intersect(from, space.unite(to, sideOf(space, 1, beyond)));
    return [begun, [APART, space.subtract(space.unite(from, to), own)]];
  }

  /** What a packet meets, or null where it meets the gateway alone. */
  wayOf(packet: Packet): QuarterWay | null {
    const holds = (ranges: readonly IpRange[], value: bigint): boolean =>
      ranges.some((range) => inRange(range, { version: packet.version, value }));
    const at = (value: bigint): Quarter | undefined => this.list.find(({ addresses }) => holds(addresses, value));
    const [home, there] = [at(packet.source), at(packet.destination)];
    if (!home && !there) return null;
    const stop = ({ name, rules, shut }: Quarter, why?: string): QuarterStop => {
      const rule = shut ? null : firstMatch(rules, packet);
      const denied = shut || rule?.verdict === 'deny';
      const passed = !denied && why === undefined;
      return {
        name,
        rule: why === undefined || denied ? rule : null,
        passed,
        shut,
        ...(denied || !why ? {} : { why }),
      };
    };
    if (home && !home.shut && (home === there || (!there && holds(home.beyond, packet.destination))))
      return { before: [stop(home)], after: [], byGateway: false };
    if (home && !home.shut && !there && holds(home.among, packet.destination))
      return { before: [stop(home, AMONG)], after: [], byGateway: false };
    if (there && !home && holds(there.beyond, packet.source))
      return { before: [stop(there, BEGUN)], after: [], byGateway: false };
    const reached = (quarter: Quarter | undefined): boolean => !quarter?.shut && !quarter?.apart;
    const met = (quarter: Quarter | undefined): QuarterStop[] =>
      quarter ? [quarter.apart ? stop(quarter, APART) : stop(quarter)] : [];
    return { before: met(home), after: met(there), byGateway: reached(home) && reached(there) };
  }
}

/** Why routers stop what no rule does. */
const AMONG =
  'It sends this there by itself, and the answer comes back by the gateway, which saw no question and drops it.';
const BEGUN = 'Nothing that begins outside comes in by its own line.';
const APART = 'It does not meet the gateway.';

function sideOf(space: PacketSpace, side: 0 | 1, ranges: readonly IpRange[]): Diagram {
  const spans = addressSpans(space.version, ranges);
  if (!spans || spans.length === 0) return space.none;
  return space.box(side === 0 ? [spans, null, null, null] : [null, spans, null, null]);
}
