import { contains, widthOf, type Prefix } from '../address';

/** A route as one protocol knows it, before another is told of it. */
export interface KnownRoute {
  readonly prefix: Prefix;
  /** Set by who told of it first. */
  readonly tag?: number;
}

/** What is let through to another protocol: prefixes within one, of some lengths. */
export interface PrefixFilter {
  readonly within: Prefix;
  /** Shortest and longest that is meant; absent: from the length of `within` to a single address. */
  readonly least?: number;
  readonly most?: number;
  readonly action: 'permit' | 'deny';
}

/** A route as the other protocol is told of it. */
export interface ToldRoute {
  readonly prefix: Prefix;
  readonly metric: number;
  readonly tag: number;
}

/**
 * Hands routes of one protocol to another. What carries the tag came from there and is not handed back: without that, two places that do it feed
 * each other. The first entry of the filter that a prefix fits decides; one that fits none is not told.
 */
export const redistribute = (
  routes: readonly KnownRoute[],
  filter: readonly PrefixFilter[],
  tag: number,
  metric: number,
): ToldRoute[] =>
  routes.flatMap((route): ToldRoute[] => {
    if (route.tag === tag) return [];
    const decided = filter.find((each) => fits(route.prefix, each));
    return decided?.action === 'permit' ? [{ prefix: route.prefix, metric, tag }] : [];
  });

function fits(
  prefix: Prefix,
  { within, least = within.length, most = widthOf(within.version) }: PrefixFilter,
): boolean {
  return contains(within, prefix) && prefix.length >= least && prefix.length <= most;
}
