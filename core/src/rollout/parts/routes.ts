import type { RouteDocument } from '../../document';
import { routesOf } from '../../intent';
import { part, type Told } from '../part';

/** Ways that are said by hand, of each gateway. */
export const routes = part({
  name: 'routes',
  kinds: ['gateway'],
  reads: { site: ['routes'], device: ['id'] },
  tells: ({ routes: said = [] }, { id }): Told => {
    const told = routesOf({ routes: said }, id)
      .filter(({ off }) => !off)
      .map(({ name, prefix, via, metric }): RouteDocument => ({
        ...{ name, prefix },
        ...(via.kind === 'address' ? { to: via.address } : {}),
        ...(via.kind === 'uplink' ? { by: via.port } : {}),
        ...(metric ? { metric } : {}),
      }));
    return told.length > 0 ? { routes: told } : {};
  },
});
