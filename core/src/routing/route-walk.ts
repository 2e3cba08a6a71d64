import type { IpAddress } from '../address';
import { DISCARD, lookUp, type Route } from './route-table';

/** A next hop of a router that delivers itself. */
export const LOCAL = 'local';

/** Where a packet ends that follows routing tables. */
export interface RouteWalk {
  /** `loop`: it came to a router for the second time, which then ends the path. */
  readonly result: 'delivered' | 'discard' | 'no-route' | 'loop';
  /** Routers in order. */
  readonly path: readonly string[];
  /** Of a loop: the routers that it goes round, from the first visit of the one that comes again. */
  readonly cycle?: readonly string[];
}

/**
 * Follows a destination from router to router by their tables. Where several ways are equally good all are followed,
 * and a bad end of any counts for all of them.
 */
export function walkRoutes(
  tables: ReadonlyMap<string, readonly Route[]>,
  from: string,
  destination: IpAddress,
): RouteWalk {
  const visit = (router: string, before: readonly string[]): RouteWalk => {
    const path = [...before, router];
    if (before.includes(router)) return { result: 'loop', path, cycle: before.slice(before.indexOf(router)) };
    const { nextHops } = lookUp(tables.get(router) ?? [], destination);
    if (nextHops.length === 0) return { result: 'no-route', path };
    let good: RouteWalk | null = null;
    for (const next of nextHops) {
      const end: RouteWalk =
        next === LOCAL
          ? { result: 'delivered', path }
          : next === DISCARD
            ? { result: 'discard', path }
            : visit(next, path);
      if (end.result !== 'delivered') return end;
      good ??= end;
    }
    return good!;
  };
  return visit(from, []);
}
