import type { AddressServiceDocument } from '../../document';
import { routerOfSegment, servedFrom, type Segment } from '../../intent';
import { holdersOf } from '../facts';
import { part } from '../part';
import { routedByGateway } from './routing';
import { serviceOf } from './service-documents';

/** The DHCP services of the gateway that holds the segments' addresses, and what it passes on to servers elsewhere. */
export const gatewayServices = part({
  name: 'address services of gateways',
  kinds: ['gateway'],
  reads: { facts: { holders: holdersOf, routed: routedByGateway }, device: ['id'] },
  tells: ({ holders, routed }, { id }) => {
    if (!holders.includes(id)) return { addressServices: [] };
    const served = routed.flatMap((segment) =>
      segment.addresses ? [{ segment, from: servedFrom(segment.addresses) }] : [],
    );
    const relays = served.flatMap(({ segment: { vlan }, from }) =>
      from.kind === 'relay' ? [{ vlan, server: from.server }] : [],
    );
    return {
      addressServices: served.flatMap(({ segment, from }) => (from.kind === 'gateway' ? [serviceOf(segment)] : [])),
      ...(relays.length > 0 ? { relays } : {}),
    };
  },
});

/** The DHCP services of a switch: that has an address of its own in their segments, or routes them. */
export const switchServices = part({
  name: 'address services of switches',
  kinds: ['switch'],
  reads: { site: ['segments', 'routers'], device: ['id'] },
  tells: ({ segments, routers = [] }, { id }) => {
    const meets = routers.find(({ deviceId }) => deviceId === id)?.meets;
    // A switch answers no names: the gateway that it meets does.
    const names = segments.find((segment) => segment.id === meets?.segmentId)?.gateway;
    const given = (segment: Segment): AddressServiceDocument =>
      segment.routed ? serviceOf(segment, names) : serviceOf(segment);
    const served = segments.filter((segment) => {
      const from = segment.addresses && servedFrom(segment.addresses);
      if (from?.kind === 'gateway') return routerOfSegment({ routers }, segment)?.deviceId === id;
      return from?.kind === 'switch' && from.deviceId === id;
    });
    return served.length > 0 ? { addressServices: served.map(given) } : {};
  },
});
