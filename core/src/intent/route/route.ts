/** Where a route leads: to somebody in a segment who hands packets on, out by an uplink, or nowhere, so that they are dropped. */
export type RouteVia =
  | { readonly kind: 'address'; readonly address: string }
  | { readonly kind: 'uplink'; readonly port: string }
  | { readonly kind: 'nowhere' };

/** A way that somebody says: whatever is for a prefix goes there, and not as the rest does. */
export interface StaticRoute {
  readonly id: string;
  /** The gateway that goes by it. */
  readonly deviceId: string;
  readonly name: string;
  /** An IPv4 or IPv6 prefix, of at least one bit. */
  readonly prefix: string;
  readonly via: RouteVia;
  /** Of several to one prefix the lowest counts that is up; absent: 0. */
  readonly metric?: number | null;
  /**
   * An address that answers while the route is good, or `itself`: whoever hands it on. While that does not answer, the route is not there; absent: nobody is
   * asked.
   */
  readonly tracks?: string | null;
  /** Kept, and not in force. */
  readonly off?: boolean | null;
}

/** Routes of one gateway; characters of a name; the highest metric. */
export const [MOST_ROUTES, MOST_ROUTE_NAME, MOST_METRIC] = [200, 60, 65_535];

/** Routes of a gateway that are in force, by name. */
export const routesOf = (
  { routes = [] }: { readonly routes?: readonly StaticRoute[] },
  deviceId: string,
): StaticRoute[] =>
  routes.filter((each) => each.deviceId === deviceId).sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));

/** Where a route leads, in words. */
export const viaWords = (via: RouteVia): string =>
  via.kind === 'nowhere' ? 'nowhere' : via.kind === 'uplink' ? via.port : via.address;
