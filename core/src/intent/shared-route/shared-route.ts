import type { Purposed } from '../purpose';
import type { SharedReach } from '../reach';

/** Where a route of many sites leads: to an address of a segment by its name, out by an uplink by its title, or nowhere. */
export type SharedVia =
  | {
      readonly kind: 'segment';
      readonly segment: string;
      /** Which of its addresses: the first behind the network’s own is 1. */
      readonly nth: number;
    }
  | { readonly kind: 'uplink'; readonly title: string }
  | { readonly kind: 'nowhere' };

/** A way that is said once for many sites: at each, the gateway that routes its segments goes by it. */
export interface SharedRoute extends Purposed {
  readonly id: string;
  readonly name: string;
  /** An IPv4 or IPv6 prefix, of at least one bit. */
  readonly prefix: string;
  readonly via: SharedVia;
  readonly metric?: number | null;
  /** As of a route of one gateway. */
  readonly tracks?: string | null;
  readonly reach: SharedReach;
  readonly off?: boolean | null;
}

/** Routes that sites share. */
export const MOST_SHARED_ROUTES = 200;

/** Where a shared route leads, in words. */
export function sharedViaWords(via: SharedVia): string {
  if (via.kind === 'nowhere') return 'nowhere';
  return via.kind === 'uplink' ? `the uplink ${via.title}` : `address ${via.nth} of ${via.segment}`;
}
