import { parsePrefix, type IpAddress } from '../address';
import type { GatewayDocument, RouteDocument } from '../document';
import { OpenTable, PREFERENCE, type Route } from '../routing';

type Router = Pick<GatewayDocument, 'routes' | 'interfaces' | 'interfaces6'>;

/**
 * Tells by which route that a gateway was told it sends what is for somebody: the longest prefix, then the lowest metric; null where that is none of them,
 * as for whoever is on a link of the gateway.
 */
export function toldRoutes({
  routes = [],
  interfaces,
  interfaces6 = [],
}: Router): (to: IpAddress) => RouteDocument | null {
  const line = (text: string, more: Omit<Route, 'prefix'>): Route[] => {
    const prefix = parsePrefix(text);
    return prefix ? [{ prefix, ...more }] : [];
  };
  const table = new OpenTable([
    ...[...interfaces, ...interfaces6].flatMap(({ address }) =>
      line(address, { nextHop: '', preference: PREFERENCE.link, metric: 0 }),
    ),
    ...routes.flatMap(({ prefix, metric = 0 }, at) =>
      line(prefix, { nextHop: `${at}`, preference: PREFERENCE.said, metric }),
    ),
  ]);
  return (to) => {
    const found = table.routesTo(to)[0]?.nextHop ?? '';
    return found === '' ? null : routes[Number(found)]!;
  };
}
