import { formatPrefix, parsePrefix } from '../../address';
import { TUNNEL_MTU } from '../../document';
import { formerGateways, holdersOf, tunnelledAtSite } from '../facts';
import { part } from '../part';

/** Where an AP carries clients of some of its SSIDs to. */
export const apTunnel = part({
  name: 'tunnel of APs',
  kinds: ['ap'],
  reads: { site: ['management'], device: ['address'], before: ['ssids'] },
  // One with a fixed address of a former subnet still speaks to the gateway there.
  tells: ({ management }, { address }, { ssids = [] }) =>
    ssids.some(({ tunnel }) => tunnel)
      ? { tunnel: { to: address?.gateway ?? management.gateway, mtu: TUNNEL_MTU } }
      : {},
});

/** What the gateway takes out of tunnels. */
export const gatewayTunnels = part({
  name: 'tunnels to the gateway',
  kinds: ['gateway'],
  reads: {
    site: ['management'],
    facts: { holders: holdersOf, former: formerGateways, vlans: tunnelledAtSite },
    device: ['id'],
  },
  tells: ({ management, holders, former, vlans }, { id }) => {
    if (!holders.includes(id) || vlans.length === 0) return {};
    const before = former.map((text) => formatPrefix(parsePrefix(text)!));
    return { tunnels: { from: [management.subnet, ...before], vlans, mtu: TUNNEL_MTU } };
  },
});
