import { contains, relationOf, type IpAddress } from '../address';
import type { OpenTable } from './open-table';
import { DISCARD, type Route } from './route-table';

/** Next hops that are found by further look-ups at most, one after the other. */
export const MOST_LOOK_UPS = 8;

/** Where a next hop is, or why it is nowhere. */
export type Resolved =
  | { readonly at: 'link'; readonly interface: string }
  | { readonly at: 'discard' }
  | {
      readonly at: 'nowhere';
      /** `none`: nothing leads there; `itself`: only what it is the next hop of does; `deep`: too many look-ups. */
      readonly why: 'none' | 'itself' | 'deep';
    };

/**
 * Finds the link by which a next hop is reached that is said as an address: by looking it up in the same table, and what is found there again
 * (RFC 4271 §5.1.3: no route resolves its own next hop).
 * @param asIs reads the address of a next hop; null where it is the name of a link.
 */
export function resolveNextHop(table: OpenTable, route: Route, asIs: (nextHop: string) => IpAddress | null): Resolved {
  let { nextHop } = route;
  for (let depth = 0; depth <= MOST_LOOK_UPS; depth++) {
    if (nextHop === DISCARD) return { at: 'discard' };
    const address = asIs(nextHop);
    if (!address) return { at: 'link', interface: nextHop };
    const [next] = table.routesTo(address);
    if (!next) return { at: 'nowhere', why: contains(route.prefix, address) ? 'itself' : 'none' };
    if (relationOf(next.prefix, route.prefix) === 'equal') return { at: 'nowhere', why: 'itself' };
    nextHop = next.nextHop;
  }
  return { at: 'nowhere', why: 'deep' };
}
