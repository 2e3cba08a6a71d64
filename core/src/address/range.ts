import { formatIp, parseIp, widthOf, type IpAddress, type IpVersion } from './ip';
import { lastOf, type Prefix } from './prefix';

/** Addresses from `first` to `last`, both included. */
export interface IpRange {
  readonly version: IpVersion;
  readonly first: bigint;
  readonly last: bigint;
}

/** The range a prefix spans. */
export const rangeOf = (prefix: Prefix): IpRange => ({
  version: prefix.version,
  first: prefix.network,
  last: lastOf(prefix),
});

/** How many addresses a range holds. */
export const rangeSize = (range: IpRange): bigint => range.last - range.first + 1n;

/** Writes `first-last`. */
export const formatRange = (range: IpRange): string =>
  `${formatIp({ version: range.version, value: range.first })}-${formatIp({ version: range.version, value: range.last })}`;

/**
 * Reads `address` or `address-address`, blanks around the dash allowed.
 * @returns null when malformed, of mixed versions, or ending before it starts.
 */
export function parseRange(text: string): IpRange | null {
  const ends = text.split('-').map((end) => parseIp(end.trim()));
  const [first, last = first, more] = ends;
  if (!first || !last || more !== undefined) return null;
  if (first.version !== last.version || last.value < first.value) return null;
  return { version: first.version, first: first.value, last: last.value };
}

/** Whether a range shares an address with any of others. */
export const meetsAny = (range: IpRange, others: readonly IpRange[]): boolean =>
  others.some((each) => each.version === range.version && each.first <= range.last && range.first <= each.last);

/** Whether an address lies in a range. */
export const inRange = (range: IpRange, ip: IpAddress): boolean =>
  range.version === ip.version && ip.value >= range.first && ip.value <= range.last;

/** Merges ranges that overlap or touch. Ascending, IPv4 before IPv6; O(n log n). */
export function mergeRanges(ranges: readonly IpRange[]): IpRange[] {
  const sorted = [...ranges].sort((a, b) => a.version - b.version || compare(a.first, b.first));
  const merged: IpRange[] = [];
  for (const range of sorted) {
    const open = merged[merged.length - 1];
    if (open && open.version === range.version && range.first <= open.last + 1n) {
      merged[merged.length - 1] = { ...open, last: range.last > open.last ? range.last : open.last };
    } else merged.push(range);
  }
  return merged;
}

/** What is left of `from` without `minus`; ascending, disjoint. */
export function subtractRanges(from: IpRange, minus: readonly IpRange[]): IpRange[] {
  const left: IpRange[] = [];
  let at = from.first;
  for (const hole of mergeRanges(minus.filter((range) => meetsAny(from, [range])))) {
    if (hole.last < at || hole.first > from.last) continue;
    if (hole.first > at) left.push({ version: from.version, first: at, last: hole.first - 1n });
    at = hole.last + 1n;
  }
  if (at <= from.last) left.push({ version: from.version, first: at, last: from.last });
  return left;
}

/** What is in some ranges and in others too; ascending, disjoint. */
export function sharedRanges(some: readonly IpRange[], others: readonly IpRange[]): IpRange[] {
  return mergeRanges(some).flatMap((range) => subtractRanges(range, subtractRanges(range, others)));
}

/** The one prefix that a range is; null where it is none. */
export function prefixOfRange({ version, first, last }: IpRange): Prefix | null {
  const size = last - first + 1n;
  if (size < 1n || (size & (size - 1n)) !== 0n || (first & (size - 1n)) !== 0n) return null;
  return { version, network: first, length: widthOf(version) - (size.toString(2).length - 1) };
}

/**
 * The fewest prefixes that cover a range exactly, ascending: each is the largest block that is aligned at the
 * current start and does not pass the end; at most 2W-2 blocks.
 */
export function rangeToPrefixes(range: IpRange): Prefix[] {
  const prefixes: Prefix[] = [];
  for (let at = range.first; at <= range.last;) {
    let bits = 0;
    let size = 2n;
    // As far as the beginning is aligned, and the end is within.
    while (bits < widthOf(range.version) && (at & (size - 1n)) === 0n && at + size - 1n <= range.last) {
      bits++;
      size <<= 1n;
    }
    prefixes.push({ version: range.version, network: at, length: widthOf(range.version) - bits });
    at += 1n << BigInt(bits);
  }
  return prefixes;
}

/** Joins prefixes that overlap or touch into the fewest that cover exactly the same addresses, never more. */
export const summarize = (prefixes: readonly Prefix[]): Prefix[] =>
  mergeRanges(prefixes.map(rangeOf)).flatMap(rangeToPrefixes);

/** What is left of a prefix without others, as the fewest prefixes, ascending. */
export const subtractPrefixes = (from: Prefix, minus: readonly Prefix[]): Prefix[] =>
  subtractRanges(rangeOf(from), minus.map(rangeOf)).flatMap(rangeToPrefixes);

const compare = (a: bigint, b: bigint): number => (a < b ? -1 : a > b ? 1 : 0);

/** A range cut wherever one of some others begins or ends, in order. */
export function cutAt(range: IpRange, others: readonly IpRange[]): IpRange[] {
  const bounds = others
    .filter(({ version }) => version === range.version)
    .flatMap(({ first, last }) => [first, last + 1n])
    .filter((at) => at > range.first && at <= range.last);
  return cutIn(
    range,
    [...new Set(bounds)].sort((a, b) => (a < b ? -1 : 1)),
  );
}

/** A range cut before each of some addresses in it. @param bounds in order, each once; they may be many. */
export function cutIn({ version, first, last }: IpRange, bounds: readonly bigint[]): IpRange[] {
  let [low, high] = [0, bounds.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (bounds[middle]! > first) high = middle;
    else low = middle + 1;
  }
  const parts: IpRange[] = [];
  let from = first;
  for (let at = low; at < bounds.length && bounds[at]! <= last; at++) {
    parts.push({ version, first: from, last: bounds[at]! - 1n });
    from = bounds[at]!;
  }
  return [...parts, { version, first: from, last }];
}
