import { contains, parsePrefix, type IpAddress, type Prefix } from '@iron-lattice/core/address';
import type { OverlayLine, RouteDocument } from '@iron-lattice/core/document';

/** Where a route that a gateway was told leads a packet. */
export type Told =
  | { readonly kind: 'uplink'; readonly port: string }
  | { readonly kind: 'neighbour'; readonly address: string; readonly route: RouteDocument }
  | { readonly kind: 'nowhere'; readonly route: RouteDocument }
  /** Into a tunnel to another site, or dropped since no site has it. */
  | { readonly kind: 'tunnel'; readonly line: OverlayLine }
  /** Into a tunnel to a gateway of others, or dropped while it does not stand. */
  | { readonly kind: 'pact'; readonly name: string };

/** A route that counts. */
interface Found {
  readonly prefix: Prefix;
  readonly told: Told;
}

/** The routes that a gateway was told, as it goes by them: the longest prefix, then the lowest metric. */
export class ToldRoutes {
  private readonly routes: readonly { readonly prefix: Prefix; readonly route: RouteDocument }[];

  constructor(told: readonly RouteDocument[]) {
    this.routes = told
      .flatMap((route) => {
        const prefix = parsePrefix(route.prefix);
        return prefix ? [{ prefix, route }] : [];
      })
      .sort((a, b) => b.prefix.length - a.prefix.length || (a.route.metric ?? 0) - (b.route.metric ?? 0));
  }

  /**
   * Where what is for somebody goes, and by the route to which prefix; null: no route is for it, and it leaves as the rest does.
   * @param isGood whether an uplink is: a route by one that is not is not there.
   * @param isLink whether an address is on a link of the gateway: who is not there hands on nothing.
   * @param isUp whether what a route tracks answers.
   */
  to(
    destination: IpAddress,
    isGood: (port: string) => boolean,
    isLink: (address: string) => boolean,
    isUp: (route: RouteDocument) => boolean = () => true,
  ): Found | null {
    for (const { prefix, route } of this.routes) {
      if (!contains(prefix, destination) || !isUp(route)) continue;
      const { by, to } = route;
      if (by !== undefined) {
        if (isGood(by)) return { prefix, told: { kind: 'uplink', port: by } };
      } else if (to === undefined) return { prefix, told: { kind: 'nowhere', route } };
      else if (isLink(to)) return { prefix, told: { kind: 'neighbour', address: to, route } };
    }
    return null;
  }
}
