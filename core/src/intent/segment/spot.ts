import { lastOf, overlaps, parsePrefix, type Prefix } from '../../address';
import type { Segment } from './segment';

/** The subnet of a segment as it was written; of IPv4 its first and last address as doubles too, which are compared quicker. */
export interface Spot {
  readonly prefix: Prefix;
  /** -1 where it is none of IPv4. */
  readonly first: number;
  readonly last: number;
}

/** Segments never change once they are there, and each is held against all others with every edit of one. */
const known = new WeakMap<Segment, Spot | null>();

/** Where a segment lies; null: its subnet cannot be read. */
export function spotOf(segment: Segment): Spot | null {
  let spot = known.get(segment);
  if (spot === undefined) {
    const prefix = parsePrefix(segment.subnet);
    spot = prefix && spotAt(prefix);
    known.set(segment, spot);
  }
  return spot;
}

export function spotAt(prefix: Prefix): Spot {
  return prefix.version === 4
    ? { prefix, first: Number(prefix.network), last: Number(lastOf(prefix)) }
    : { prefix, first: -1, last: -1 };
}

/** Whether two share an address. */
export const spotsMeet = (a: Spot, b: Spot): boolean =>
  a.first < 0 || b.first < 0 ? overlaps(a.prefix, b.prefix) : a.first <= b.last && b.first <= a.last;
