import { meetsAny, type IpRange } from '../address';
import { unitedIn } from './carried';
import { examplePacket } from './example-packet';
import { VERSIONS } from './layers';
import { addressSpans, boxesOf, type Packet, type PacketRule } from './packet-rule';
import type { Attached } from './edge';
import type { Passage, PassageStop } from './passage';
import type { ReachEnd } from './reach';
import type { Service } from './service';
import { servicesText, type Shape } from './shape';
import type { Diagram } from './space';

/**
 * What has to hold whatever the rules are. `never`: nothing of the services gets from one place to the other; `always`:
 * all of it does; `only`: from nowhere but the one place to the other.
 */
export interface Guarantee {
  readonly kind: 'never' | 'always' | 'only';
  readonly from: ReachEnd;
  readonly to: ReachEnd;
  readonly services: readonly Service[];
  /** Destinations that do not count. */
  readonly besides?: ReachEnd['addresses'];
  /** Addresses of each segment: what stays in one does not count. */
  readonly homes?: readonly (readonly IpRange[])[];
}

/** Why a guarantee does not hold: a packet that it is about, and the rule that decides it; null where none does. */
export interface Breach {
  readonly packet: Packet;
  readonly rule: PacketRule | null;
  /** Where it is decided. */
  readonly at: PassageStop['at'];
}

/**
 * Proves a guarantee over all packets.
 * @returns null when it holds, else a packet for which it does not.
 */
export function breachOf(passage: Passage, guarantee: Guarantee): Breach | null {
  const { shape } = passage;
  const question = questionOf(guarantee, shape);
  if (question === null) return breachIn(passage, guarantee);
  let breach: Breach | null | undefined;
  const holds = shape.answer(question, () => (breach = breachIn(passage, guarantee)) === null);
  // Whether it holds is the same for all of a shape; which packet shows that it does not is another for each.
  return holds ? null : breach === undefined ? breachIn(passage, guarantee) : breach;
}

/** A guarantee by the ranks of its addresses; null where one lies where the shape knows nothing of. */
function questionOf({ kind, from, to, services, besides, homes = [] }: Guarantee, shape: Shape): string | null {
  const ranges = [from.addresses, to.addresses, besides ?? [], ...homes].map((each) => shape.textOf(each));
  if (ranges.includes(null)) return null;
  const ends = [from.attached ?? '', to.attached ?? '', besides === undefined];
  return `breach ${JSON.stringify([kind, ranges, servicesText(services), ends])}`;
}

function breachIn(passage: Passage, guarantee: Guarantee): Breach | null {
  const { kind, from, to, services, besides, homes = [] } = guarantee;
  const { decider } = passage;
  for (const version of VERSIONS) {
    const space = decider.space(version);
    const spared = besides ? addressSpans(version, besides) : null;
    const near = homes.flatMap((home) => {
      const spans = addressSpans(version, home) ?? [];
      const meant = [from.addresses, to.addresses].every(
        (ranges) => !ranges || ranges.some((range) => meetsAny(range, home)),
      );
      return spans.length > 0 && meant ? [spans] : [];
    });
    const within = (): Diagram =>
      unitedIn(
        space,
        near.map((spans) => [spans, spans, null, null]),
      );
    const counted = (set: Diagram): Diagram => {
      const told = spared ? space.subtract(set, space.box([null, spared, null, null])) : set;
      return near.length > 0 ? space.subtract(told, within()) : told;
    };
    const about = (source: ReachEnd['addresses'], destination: ReachEnd['addresses']): Diagram =>
      counted(
        boxesOf({ source, destination, services }, version).reduce(
          (sum, box) => space.unite(sum, space.box(box)),
          space.none,
        ),
      );
    // Something gets through when any client's does; all of it, when every client's does and is answered.
    const whose = attachedAs(guarantee);
    const allowed =
      kind === 'always'
        ? passage.answered(version, { who: 'every', ...whose })
        : passage.allowed(version, { who: 'some', ...whose });
    const meant = about(from.addresses, to.addresses);
    const wrong =
      kind === 'never'
        ? space.intersect(allowed, meant)
        : kind === 'always'
          ? space.subtract(meant, allowed)
          : space.intersect(allowed, space.subtract(about(null, to.addresses), meant));
    const packet = examplePacket(space, wrong);
    if (packet) return { packet, ...blamed(passage, packet) };
  }
  return null;
}

/** Of whose packets a guarantee speaks, where its ends are SSIDs. */
function attachedAs({ kind, from, to }: Guarantee): Attached {
  // What else gets there is asked of everybody.
  const source = kind === 'only' ? undefined : from.attached;
  return {
    ...(source === undefined ? {} : { from: source }),
    ...(to.attached === undefined ? {} : { to: to.attached }),
  };
}

/** What stops a packet or its answer for somebody; else the rule of the gateway that lets it through. */
export function blamed(passage: Passage, packet: Packet): Pick<Breach, 'rule' | 'at'> {
  const stop = passage.stopped(packet) ?? passage.cutAnswer(packet);
  if (stop) return { rule: stop.rule, at: stop.at };
  if (passage.among(packet) !== null) return { rule: null, at: 'within' };
  return { rule: passage.decider.decide(packet), at: 'gateway' };
}
