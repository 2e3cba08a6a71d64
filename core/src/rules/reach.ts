import type { IpRange, IpVersion } from '../address';
import { addressSpans } from './packet-rule';
import { type Diagram, type PacketSpace, type Span } from './space';

/** How much of the traffic from one place to another is let through. `absent`: one of them has no address. */
export type Reach = 'all' | 'some' | 'none' | 'absent';

/** A place that packets come from or go to. */
export interface ReachEnd {
  readonly key: string;
  /** Null: every address. */
  readonly addresses: readonly IpRange[] | null;
  /** The one way its clients are attached, where it is one: the key of an `Attachment`. */
  readonly attached?: string;
}

const EVERY: readonly Span[] = [{ first: -1, end: Infinity }];
const overlap = (span: Span, spans: readonly Span[]): boolean =>
  spans.some(({ first, end }) => span.first < end && first < span.end);

/**
 * Reads the reach from every place to every other off sets of one space. What was read before is known, so that the
 * matrix of a set that differs little costs little.
 */
export class ReachReader {
  private readonly spans: readonly (readonly Span[])[];
  /** The reach of what a stretch of sources leads to, to every place. */
  private readonly rows = new Map<Diagram, readonly Reach[]>();

  constructor(
    private readonly space: PacketSpace,
    private readonly places: readonly ReachEnd[],
  ) {
    this.spans = places.map(({ addresses }) => addressSpans(space.version, addresses) ?? EVERY);
  }

  /**
   * @param allowed packets that are let through, a set of the space.
   * @returns a row for each place as source, in the order given, with a cell for each as destination.
   */
  matrix(allowed: Diagram): Reach[][] {
    const sources = this.space.parts(allowed, 'source');
    return this.spans.map((from) => {
      if (from.length === 0) return this.places.map(() => 'absent' as const);
      const leads = new Set(sources.filter(({ span }) => overlap(span, from)).map(({ then }) => then));
      const mine = [...leads].map((diagram) => this.rowOf(diagram));
      return this.places.map((_, at) => together(mine.map((row) => row[at]!)));
    });
  }

  private rowOf(diagram: Diagram): readonly Reach[] {
    let row = this.rows.get(diagram);
    if (!row) {
      const parts = this.space.parts(diagram, 'destination');
      row = this.spans.map((wanted) => {
        if (wanted.length === 0) return 'absent';
        const met = parts.filter(({ span }) => overlap(span, wanted));
        return together(met.map(({ then }) => said(this.space.constant(then))));
      });
      this.rows.set(diagram, row);
    }
    return row;
  }
}

const said = (constant: number | null): Reach => (constant === null ? 'some' : constant > 0 ? 'all' : 'none');

function together(reaches: readonly Reach[]): Reach {
  const [first, ...more] = reaches;
  return more.every((each) => each === first) ? first! : 'some';
}

/** The packets from one place to another. */
export function between(space: PacketSpace, from: ReachEnd, to: ReachEnd): Diagram {
  const version: IpVersion = space.version;
  const [source, destination] = [addressSpans(version, from.addresses), addressSpans(version, to.addresses)];
  if (source?.length === 0 || destination?.length === 0) return space.none;
  return space.box([source, destination, null, null]);
}
