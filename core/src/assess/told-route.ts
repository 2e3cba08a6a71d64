import { contains, parsePrefix, type IpAddress } from '../address';
import type { GatewayDocument, RouteDocument } from '../document';

/**
 * The route that a gateway was told which what is for somebody goes by: the longest prefix, then the lowest metric; null where there is none, or who it is
 * for is on a link of the gateway.
 */
export function toldRoute(
  { routes = [], interfaces, interfaces6 = [] }: GatewayDocument,
  destination: IpAddress,
): RouteDocument | null {
  const isHere = [...interfaces, ...interfaces6].some(({ address }) => {
    const network = parsePrefix(address);
    return network !== null && contains(network, destination);
  });
  if (isHere) return null;
  const fitting = routes.flatMap((route) => {
    const prefix = parsePrefix(route.prefix);
    return prefix && contains(prefix, destination) ? [{ route, length: prefix.length }] : [];
  });
  fitting.sort((a, b) => b.length - a.length || (a.route.metric ?? 0) - (b.route.metric ?? 0));
  return fitting[0]?.route ?? null;
}
