import type { IpRange, IpVersion } from '../address';
import { addressSpans } from './packet-rule';
import { type Diagram, type PacketSpace, type Span } from './space';

/** How much of the traffic from one place to another is let through. `absent`: one of them has no address. */
export type Reach = 'all' | 'some' | 'none' | 'absent';

/** A place that packets come from or go to. */
export interface Place {
  readonly key: string;
  /** Null: every address. */
  readonly addresses: readonly IpRange[] | null;
}

const EVERY: readonly Span[] = [{ first: -1, end: Infinity }];
const overlap = (span: Span, spans: readonly Span[]): boolean =>
  spans.some(({ first, end }) => span.first < end && first < span.end);

/**
 * The reach from every place to every other.
 * @param allowed packets that are let through, a set of `space`.
 * @returns a row for each place as source, in the order given, with a cell for each as destination.
 */
export function reachMatrix(space: PacketSpace, allowed: Diagram, places: readonly Place[]): Reach[][] {
  const { version } = space;
  const spans = places.map(({ addresses }) => addressSpans(version, addresses) ?? EVERY);
  const sources = space.parts(allowed, 'source');
  // Many sources lead to the same: what each leads to is read once.
  const cells = new Map<Diagram, readonly { readonly span: Span; readonly then: Diagram }[]>();
  const to = (diagram: Diagram) => {
    let known = cells.get(diagram);
    if (!known) cells.set(diagram, (known = space.parts(diagram, 'destination')));
    return known;
  };
  const rows = new Map<Diagram, Reach[]>();
  /** The reach of what one stretch of sources leads to, to every place. */
  const rowOf = (diagram: Diagram): Reach[] => {
    let row = rows.get(diagram);
    if (!row) {
      const parts = to(diagram);
      row = spans.map((wanted) => {
        if (wanted.length === 0) return 'absent';
        return together(
          parts.filter(({ span }) => overlap(span, wanted)).map(({ then }) => said(space.constant(then))),
        );
      });
      rows.set(diagram, row);
    }
    return row;
  };
  return spans.map((from) => {
    if (from.length === 0) return places.map(() => 'absent' as const);
    const leads = new Set(sources.filter(({ span }) => overlap(span, from)).map(({ then }) => then));
    const mine = [...leads].map(rowOf);
    return places.map((_, at) => together(mine.map((row) => row[at]!)));
  });
}

const said = (constant: number | null): Reach => (constant === null ? 'some' : constant > 0 ? 'all' : 'none');

function together(reaches: readonly Reach[]): Reach {
  const [first, ...more] = reaches;
  return more.every((each) => each === first) ? first! : 'some';
}

/** The packets from one place to another. */
export function between(space: PacketSpace, from: Place, to: Place): Diagram {
  const version: IpVersion = space.version;
  const [source, destination] = [addressSpans(version, from.addresses), addressSpans(version, to.addresses)];
  if (source?.length === 0 || destination?.length === 0) return space.none;
  return space.box([source, destination, null, null]);
}
