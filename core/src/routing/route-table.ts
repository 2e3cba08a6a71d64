import { contains, type IpAddress, type Prefix } from '../address';

/** A next hop that drops what it is given. */
export const DISCARD = 'discard';

/** One entry of a routing table. */
export interface Route {
  readonly prefix: Prefix;
  /** A name of a neighbour or an interface, or {@link DISCARD}. */
  readonly nextHop: string;
  /** Route preference (RFC 8349 §5.2): lower wins; never over a longer prefix. */
  readonly preference: number;
  readonly metric: number;
  /** Whether its next hop can be reached; absent: it can. */
  readonly up?: boolean;
}

/** What a table says of a destination. */
export interface Found {
  /** Null where nothing matches. */
  readonly prefix: Prefix | null;
  /** All that are equally good, in alphabetical order. */
  readonly nextHops: readonly string[];
}

/**
 * Finds the way to a destination: the longest prefix (RFC 1812 §5.2.4.3), within it the lowest preference, then the
 * lowest metric; several that are equal share the traffic. Entries that are down do not count.
 */
export function lookUp(table: readonly Route[], destination: IpAddress): Found {
  let best: Route[] = [];
  for (const route of table) {
    if (route.up === false || !contains(route.prefix, destination)) continue;
    const order = best[0] ? before(route, best[0]) : -1;
    if (order < 0) best = [route];
    else if (order === 0) best.push(route);
  }
  const nextHops = [...new Set(best.map((route) => route.nextHop))].sort();
  return { prefix: best[0]?.prefix ?? null, nextHops };
}

const before = (a: Route, b: Route): number => b.prefix.length - a.prefix.length || better(a, b);

/** Of routes to one prefix: negative when the first is better, 0 when both are equally good. */
export const better = (a: Route, b: Route): number => a.preference - b.preference || a.metric - b.metric;
