import { parsePrefix } from '../../address';
import { isRoutedByGateway, segmentsOfRouter } from '../../intent';
import { formerGateways, holdersOf, interfaceOf } from '../facts';
import { part } from '../part';
import { fact } from '../reads';
import { interface6Of } from './service-documents';

/** Segments that the gateway has an address in: all but those that APs route. */
export const routedByGateway = fact({ site: ['segments'] }, ({ segments }) => segments.filter(isRoutedByGateway));

/** A gateway's own addresses in the segments, where it is the one that holds them. */
export const routing = part({
  name: 'routing',
  kinds: ['gateway'],
  reads: {
    site: ['management'],
    facts: { holders: holdersOf, routed: routedByGateway, former: formerGateways },
    device: ['id'],
  },
  tells: ({ management, holders, routed, former }, { id }) => {
    if (!holders.includes(id)) return { interfaces: [] };
    const interfaces = routed.map((segment) => {
      const face = interfaceOf(segment);
      return segment.vlan === management.vlan && former.length > 0 ? { ...face, former } : face;
    });
    const interfaces6 = routed.flatMap(interface6Of);
    return { interfaces, ...(interfaces6.length > 0 ? { interfaces6 } : {}) };
  },
});

/** What a switch routes in place of the gateway, and where it meets that one. */
export const switchRouting = part({
  name: 'routing of switches',
  kinds: ['switch'],
  reads: { site: ['segments', 'routers'], device: ['id'] },
  tells: ({ segments, routers = [] }, { id }) => {
    const router = routers.find(({ deviceId }) => deviceId === id);
    const meets = router?.meets;
    const transit = meets && segments.find((segment) => segment.id === meets.segmentId);
    if (!router || !transit) return {};
    const routed = segmentsOfRouter({ segments }, router.id);
    if (routed.length === 0) return {};
    const address = `${meets.address}/${parsePrefix(transit.subnet)!.length}`;
    return {
      interfaces: routed.map(interfaceOf),
      onward: { vlan: transit.vlan, address, to: transit.gateway },
    };
  },
});
