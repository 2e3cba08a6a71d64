import type { IpVersion } from '../address';

/** Axes a packet is placed on, in the order in which a diagram asks for them. */
export const AXES = ['source', 'destination', 'service', 'sourcePort'] as const;
export type Axis = (typeof AXES)[number];
/** A place on an axis: addresses of IPv6 need 128 bits, everything else is an exact double. */
export type Coordinate = number | bigint;
/** Coordinates from `first` up to but without `end`. */
export interface Span {
  readonly first: Coordinate;
  readonly end: Coordinate;
}
/** A packet by its place on each axis. */
export type Point = readonly [source: Coordinate, destination: Coordinate, service: number, sourcePort: number];
/** A box: any of the spans on each axis; null for the whole axis. Spans ascend and do not touch. */
export type Box = readonly (readonly Span[] | null)[];
/** A function from packets to whole numbers from 0 on, as an id within its space. Equal functions have equal ids. */
export type Diagram = number;

/** End of the axis of services; what its numbers mean is said in service.ts. */
export const SERVICE_END = 196_861;
/** Services below this have a source port. */
export const PORTED_END = 131_072;
const SOURCE_PORT_END = 65_536;

interface Node {
  readonly axis: number;
  /** Where each part of the axis starts; the first is 0, and the last goes to the end of the axis. */
  readonly starts: readonly Coordinate[];
  /** What each part leads to; neighbours differ. */
  readonly kids: readonly Diagram[];
  readonly hash: number;
}

/** An operation on two diagrams, packet by packet. */
interface Operation {
  /** The result where it is known without looking further; null where it is not. */
  readonly short: (a: Diagram, b: Diagram) => Diagram | null;
  readonly known: Map<number, Diagram>;
}

/** Leaves are negative, so that nodes can be counted from 0. */
const leaf = (value: number): Diagram => -1 - value;
const valueOf = (diagram: Diagram): number => -1 - diagram;
const isLeaf = (diagram: Diagram): boolean => diagram < 0;
/** The leaf of a partial function where it says nothing. */
const NOTHING = leaf(0);
const [NO, YES] = [leaf(0), leaf(1)];
const KEY = 2 ** 26;

/**
 * Exact functions over all packets of one IP version, as interval decision diagrams: each node asks for one axis and
 * parts it into intervals. Equal parts are kept once, so equality is identity, and an operation costs what differs.
 * Nothing is ever forgotten; a space that has grown large is left for a new one.
 */
export class PacketSpace {
  private readonly nodes: Node[] = [];
  private readonly byHash = new Map<number, Diagram[]>();
  private readonly ends: readonly Coordinate[];
  private readonly zero: Coordinate;

  /** No packet. */
  readonly none: Diagram = NO;
  /** Every packet. */
  readonly all: Diagram = YES;

  private readonly both: Operation = {
    short: (a, b) => (a === NO || b === NO ? NO : a === YES ? b : b === YES || a === b ? a : null),
    known: new Map(),
  };
  private readonly either: Operation = {
    short: (a, b) => (a === YES || b === YES ? YES : a === NO ? b : b === NO || a === b ? a : null),
    known: new Map(),
  };
  private readonly without: Operation = {
    short: (a, b) => (a === NO || b === YES || a === b ? NO : b === NO ? a : null),
    known: new Map(),
  };
  private readonly earlier: Operation = {
    short: (a, b) => (a === NOTHING ? b : isLeaf(a) || b === NOTHING || a === b ? a : null),
    known: new Map(),
  };

  constructor(readonly version: IpVersion) {
    const end = version === 4 ? 2 ** 32 : 1n << 128n;
    this.ends = [end, end, SERVICE_END, SOURCE_PORT_END];
    this.zero = version === 4 ? 0 : 0n;
  }

  /** How many nodes were made so far. */
  get size(): number {
    return this.nodes.length;
  }

  /** The packets of a box, mapped to a value from 1 on; all others to 0. */
  box(box: Box, value = 1): Diagram {
    let inside = leaf(value);
    for (let axis = AXES.length - 1; axis >= 0; axis--) {
      const spans = box[axis];
      if (!spans) continue;
      const [starts, kids]: [Coordinate[], Diagram[]] = [[], []];
      let at: Coordinate = this.start(axis);
      for (const { first, end } of spans) {
        if (first > at) push(starts, kids, at, NOTHING);
        push(starts, kids, first, inside);
        at = end;
      }
      if (at < this.ends[axis]!) push(starts, kids, at, NOTHING);
      inside = this.make(axis, starts, kids);
    }
    return inside;
  }

  /** Packets in both sets. */
  intersect = (a: Diagram, b: Diagram): Diagram => this.combine(this.both, a, b);
  /** Packets in either set. */
  unite = (a: Diagram, b: Diagram): Diagram => this.combine(this.either, a, b);
  /** Packets in the first set and not in the second. */
  subtract = (a: Diagram, b: Diagram): Diagram => this.combine(this.without, a, b);
  /** What the first function says, and the second where the first says 0: first match. */
  overlay = (a: Diagram, b: Diagram): Diagram => this.combine(this.earlier, a, b);

  /** Puts another value in the place of each. */
  map = (diagram: Diagram, change: (value: number) => number): Diagram => this.mapper(change)(diagram);

  /** Puts another value in the place of each, always the same one; what was mapped before is known. */
  mapper(change: (value: number) => number): (diagram: Diagram) => Diagram {
    const known = new Map<Diagram, Diagram>();
    const visit = (at: Diagram): Diagram => {
      if (isLeaf(at)) return leaf(change(valueOf(at)));
      let made = known.get(at);
      if (made === undefined) {
        const { axis, starts, kids } = this.nodes[at]!;
        const [newStarts, newKids]: [Coordinate[], Diagram[]] = [[], []];
        kids.forEach((kid, i) => push(newStarts, newKids, starts[i]!, visit(kid)));
        known.set(at, (made = this.make(axis, newStarts, newKids)));
      }
      return made;
    };
    return visit;
  }

  /** The value at one packet. */
  at(diagram: Diagram, point: Point): number {
    let now = diagram;
    while (!isLeaf(now)) {
      const { axis, starts, kids } = this.nodes[now]!;
      now = kids[partOf(starts, point[axis]!)]!;
    }
    return valueOf(now);
  }

  /** Every value that some packet has. */
  values(diagram: Diagram): ReadonlySet<number> {
    const found = new Set<number>();
    const seen = new Set<Diagram>();
    const visit = (at: Diagram): void => {
      if (isLeaf(at)) return void found.add(valueOf(at));
      if (seen.has(at)) return;
      seen.add(at);
      for (const kid of this.nodes[at]!.kids) visit(kid);
    };
    visit(diagram);
    return found;
  }

  /**
   * How many packets have a value for which `counts` holds. Services without ports count once, whatever the source port.
   * @param sourcePorts whether packets that differ in their source port alone are counted apart.
   */
  count(diagram: Diagram, counts: (value: number) => boolean = (value) => value > 0, sourcePorts = true): bigint {
    const known = new Map<Diagram, bigint>();
    // Everything below an axis, for a diagram that does not ask for it before `axis`.
    const visit = (at: Diagram, axis: number): bigint => {
      if (axis === AXES.length) return isLeaf(at) && counts(valueOf(at)) ? 1n : 0n;
      const key = at * 8 + axis;
      const before = known.get(key);
      if (before !== undefined) return before;
      const [starts, kids] = this.partsAt(at, axis);
      let sum = 0n;
      kids.forEach((kid, i) => {
        const [first, end] = [BigInt(starts[i]!), BigInt(starts[i + 1] ?? this.ends[axis]!)];
        if (AXES[axis] === 'service') {
          const ported = min(end, BigInt(PORTED_END)) - min(first, BigInt(PORTED_END));
          const below = visit(kid, axis + 1);
          // A service without ports does not depend on the source port, so one of them stands for it.
          sum += ported * below;
          if (end - first > ported) sum += (end - first - ported) * this.once(kid, counts);
        } else if (AXES[axis] === 'sourcePort')
          sum += (sourcePorts ? end - first : i === 0 ? 1n : 0n) * visit(kid, axis + 1);
        else sum += (end - first) * visit(kid, axis + 1);
      });
      known.set(key, sum);
      return sum;
    };
    return visit(diagram, 0);
  }

  /**
   * A packet whose value passes; null where there is none.
   * @param pick which coordinate of a stretch to take; absent: the lowest.
   */
  example(
    diagram: Diagram,
    passes: (value: number) => boolean = (value) => value > 0,
    pick: (axis: Axis, span: Span) => Coordinate = (_axis, span) => span.first,
  ): Point | null {
    const dead = new Set<Diagram>();
    const point: Coordinate[] = AXES.map((axis, i) => pick(axis, { first: this.start(i), end: this.ends[i]! }));
    const visit = (at: Diagram): boolean => {
      if (isLeaf(at)) return passes(valueOf(at));
      if (dead.has(at)) return false;
      const { axis, starts, kids } = this.nodes[at]!;
      const whole = point[axis]!;
      for (const [i, kid] of kids.entries()) {
        point[axis] = pick(AXES[axis]!, { first: starts[i]!, end: starts[i + 1] ?? this.ends[axis]! });
        if (visit(kid)) return true;
      }
      point[axis] = whole;
      dead.add(at);
      return false;
    };
    return visit(diagram) ? (point as unknown as Point) : null;
  }

  /** Parts of an axis and what each leads to, for a diagram that asks for it first or not at all. */
  parts(diagram: Diagram, axis: Axis): { readonly span: Span; readonly then: Diagram }[] {
    const number = AXES.indexOf(axis);
    const [starts, kids] = this.partsAt(diagram, number);
    return kids.map((then, i) => ({ span: { first: starts[i]!, end: starts[i + 1] ?? this.ends[number]! }, then }));
  }

  /** The value of a diagram that asks for nothing; null where it does. */
  constant = (diagram: Diagram): number | null => (isLeaf(diagram) ? valueOf(diagram) : null);

  private partsAt(at: Diagram, axis: number): readonly [readonly Coordinate[], readonly Diagram[]] {
    const node = isLeaf(at) ? null : this.nodes[at]!;
    return node?.axis === axis ? [node.starts, node.kids] : [[this.start(axis)], [at]];
  }

  private once(at: Diagram, counts: (value: number) => boolean): bigint {
    let now = at;
    while (!isLeaf(now)) now = this.nodes[now]!.kids[0]!;
    return counts(valueOf(now)) ? 1n : 0n;
  }

  private start = (axis: number): Coordinate => (axis < 2 ? this.zero : 0);

  private combine(operation: Operation, a: Diagram, b: Diagram): Diagram {
    const short = operation.short(a, b);
    if (short !== null) return short;
    const key = (a + KEY / 2) * KEY * 2 + (b + KEY / 2);
    const known = operation.known.get(key);
    if (known !== undefined) return known;
    const [one, other] = [isLeaf(a) ? null : this.nodes[a]!, isLeaf(b) ? null : this.nodes[b]!];
    const axis = Math.min(one?.axis ?? Infinity, other?.axis ?? Infinity);
    const [starts, kids]: [Coordinate[], Diagram[]] = [[], []];
    if (one?.axis !== axis) {
      const { starts: cuts, kids: theirs } = other!;
      for (let j = 0; j < cuts.length; j++) push(starts, kids, cuts[j]!, this.combine(operation, a, theirs[j]!));
    } else if (other?.axis !== axis) {
      const { starts: cuts, kids: ours } = one;
      for (let i = 0; i < cuts.length; i++) push(starts, kids, cuts[i]!, this.combine(operation, ours[i]!, b));
    } else {
      let [i, j] = [0, 0];
      let at = one.starts[0]!;
      for (;;) {
        push(starts, kids, at, this.combine(operation, one.kids[i]!, other.kids[j]!));
        const [nextA, nextB] = [one.starts[i + 1], other.starts[j + 1]];
        if (nextA === undefined && nextB === undefined) break;
        if (nextB === undefined || (nextA !== undefined && nextA <= nextB)) {
          if (nextA === nextB) j++;
          i++;
          at = nextA!;
        } else {
          j++;
          at = nextB;
        }
      }
    }
    const made = this.make(axis, starts, kids);
    operation.known.set(key, made);
    return made;
  }

  /** The node with these parts: the one that is there, or a new one; a single part is what it leads to. */
  private make(axis: number, starts: readonly Coordinate[], kids: readonly Diagram[]): Diagram {
    if (kids.length === 1) return kids[0]!;
    let hash = axis;
    for (let i = 0; i < kids.length; i++) {
      const start = starts[i]!;
      const low = typeof start === 'bigint' ? Number(BigInt.asUintN(32, start ^ (start >> 64n))) : start;
      hash = Math.imul(hash ^ kids[i]!, 0x85eb_ca6b);
      hash = Math.imul((hash ^ (hash >>> 15)) + (low | 0), 0xc2b2_ae35);
    }
    const bucket = this.byHash.get(hash);
    for (const id of bucket ?? []) {
      const node = this.nodes[id]!;
      if (node.axis === axis && same(node.kids, kids) && same(node.starts, starts)) return id;
    }
    const id = this.nodes.push({ axis, starts, kids, hash }) - 1;
    if (bucket) bucket.push(id);
    else this.byHash.set(hash, [id]);
    return id;
  }
}

/** Adds a part; one that leads where its neighbour does is joined to it. */
function push(starts: Coordinate[], kids: Diagram[], start: Coordinate, kid: Diagram): void {
  if (kids.length > 0 && kids[kids.length - 1] === kid) return;
  starts.push(start);
  kids.push(kid);
}

function same<T>(a: readonly T[], b: readonly T[]): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

/** Which part of an axis a coordinate lies in. */
export function partOf(starts: readonly Coordinate[], at: Coordinate): number {
  let [low, high] = [0, starts.length];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (starts[middle]! <= at) low = middle;
    else high = middle;
  }
  return low;
}

const min = (a: bigint, b: bigint): bigint => (a < b ? a : b);
