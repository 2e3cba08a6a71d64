import type { RouteDocument } from '../../document';
import { NEXT_HOP, routerRoutes, routesOf, sharedHere, spokenFor, type StaticRoute } from '../../intent';
import { holdersOf, pairAt } from '../facts';
import { part, type Told } from '../part';

/** Ways that are said by hand, of each gateway; of the one that routes the segments those too that are said of many sites, and those to what other routers of the site have. */
export const routes = part({
  name: 'routes',
  kinds: ['gateway'],
  reads: {
    site: ['id', 'segments', 'routes', 'routers', 'uplinks', 'leaving'],
    estate: ['routes'],
    facts: { holders: holdersOf, pair: pairAt },
    device: ['id', 'model', 'sheet', 'first'],
  },
  tells: ({ routes: own = [], estate, holders, pair, ...site }, device): Told => {
    const shared = holders.includes(device.id) ? sharedHere(estate.routes, { ...site, routes: own }, device) : [];
    const here = shared.flatMap(({ here: found }): StaticRoute[] => ('route' in found ? [found.route] : []));
    const told = spokenFor(pair?.pair, device.id)
      .flatMap((id) => routesOf({ routes: [...own, ...here] }, id))
      .filter(({ off }) => !off)
      .map(toldRoute);
    const behind = holders.includes(device.id) ? routerRoutes(site) : [];
    const all = [...told, ...behind];
    return all.length > 0 ? { routes: all } : {};
  },
});

function toldRoute({ name, prefix, via, metric, tracks }: StaticRoute): RouteDocument {
  const asked = tracks === NEXT_HOP ? (via.kind === 'address' ? via.address : undefined) : (tracks ?? undefined);
  return {
    ...{ name, prefix },
    ...(via.kind === 'address' ? { to: via.address } : {}),
    ...(via.kind === 'uplink' ? { by: via.port } : {}),
    ...(metric ? { metric } : {}),
    ...(asked === undefined ? {} : { tracks: asked }),
  };
}
