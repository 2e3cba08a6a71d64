import { parsePrefix, type IpAddress } from '../address';
import { overlayLines, type GatewayDocument, type OverlayLine, type RouteDocument } from '../document';
import { OpenTable, PREFERENCE, type Route } from '../routing';

type Router = Pick<GatewayDocument, 'routes' | 'interfaces' | 'interfaces6' | 'overlay'>;

/** Where a gateway sends what is for somebody, where that is neither a link of its own nor as the rest does. */
export type ToldWay =
  { readonly kind: 'route'; readonly route: RouteDocument } | { readonly kind: 'overlay'; readonly line: OverlayLine };

/**
 * Tells by which route or tunnel that a gateway was told it sends what is for somebody, while all tunnels are up: the longest prefix, then what is said
 * before tunnels, then the lowest metric; null where that is none of them, as for whoever is on a link of the gateway.
 */
export function toldWays({
  routes = [],
  interfaces,
  interfaces6 = [],
  overlay,
}: Router): (to: IpAddress) => ToldWay | null {
  const ways: ToldWay[] = [
    ...routes.map((route) => ({ kind: 'route' as const, route })),
    ...(overlay ? overlayLines(overlay) : []).map((line) => ({ kind: 'overlay' as const, line })),
  ];
  const line = (text: string, more: Omit<Route, 'prefix'>): Route[] => {
    const prefix = parsePrefix(text);
    return prefix ? [{ prefix, ...more }] : [];
  };
  const table = new OpenTable([
    ...[...interfaces, ...interfaces6].flatMap(({ address }) =>
      line(address, { nextHop: '', preference: PREFERENCE.link, metric: 0 }),
    ),
    ...ways.flatMap((way, at) => {
      const [{ prefix, metric = 0 }, preference] =
        way.kind === 'route' ? [way.route, PREFERENCE.said] : [way.line, PREFERENCE.overlay];
      return line(prefix, { nextHop: `${at}`, preference, metric });
    }),
  ]);
  return (to) => {
    const found = table.routesTo(to)[0]?.nextHop ?? '';
    return found === '' ? null : ways[Number(found)]!;
  };
}
