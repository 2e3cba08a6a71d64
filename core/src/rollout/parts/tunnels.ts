import { formatPrefix, parsePrefix } from '../../address';
import { farEndOfSsid, TUNNEL_MTU, type GatewayLandingDocument } from '../../document';
import { ascending, formerGateways, holdersOf, tunnelledAtSite } from '../facts';
import { part } from '../part';
import { fact } from '../reads';

/** Where an AP carries clients of some of its SSIDs to. */
export const apTunnel = part({
  name: 'tunnel of APs',
  kinds: ['ap'],
  reads: { site: ['management'], device: ['address'], before: ['ssids'] },
  // One with a fixed address of a former subnet still speaks to the gateway there.
  tells: ({ management }, { address }, { ssids = [] }) =>
    ssids.some(({ tunnel }) => tunnel === true)
      ? { tunnel: { to: address?.gateway ?? management.gateway, mtu: TUNNEL_MTU } }
      : {},
});

/** Octets of the largest packet that goes in one piece to each address at other sites. */
const landedMtus = fact(
  { site: ['ssids'] },
  ({ ssids }): Readonly<Record<string, number>> =>
    Object.fromEntries(ssids.flatMap(({ landed }) => (landed ? [[landed.to, landed.mtu] as const] : []))),
  { settles: true },
);

/** Where an AP carries clients of some of its SSIDs to at other sites. */
export const apLandings = part({
  name: 'tunnels of APs to other sites',
  kinds: ['ap'],
  reads: { facts: { mtus: landedMtus }, device: [], before: ['ssids'] },
  tells: ({ mtus }, _device, { ssids = [] }) => {
    const ends = [...new Set(ssids.flatMap((ssid) => farEndOfSsid(ssid) ?? []))].sort();
    return ends.length > 0 ? { landings: ends.map((to) => ({ to, mtu: mtus[to] ?? TUNNEL_MTU })) } : {};
  },
});

/** What the gateway takes of other sites. */
const takenAfar = fact(
  { site: ['id'], estate: ['landings'] },
  ({ id, estate: { landings = {} } }): readonly GatewayLandingDocument[] => {
    const { segments = [], from = {} } = landings[id] ?? {};
    const taken = Object.values(from).flatMap(({ name, subnet, mtu, wants }): GatewayLandingDocument[] => {
      const there = segments.filter((each) => wants.includes(each.name.toLowerCase()));
      const [vlans, apart] = [there, there.filter((each) => each.apart)].map((all) =>
        ascending(all.map(({ vlan }) => vlan)),
      );
      if (there.length === 0) return [];
      return [{ name, from: [subnet], vlans: vlans!, mtu, ...(apart!.length > 0 ? { apart: apart! } : {}) }];
    });
    return taken.sort((a, b) => (a.name < b.name ? -1 : 1));
  },
  { settles: true },
);

/** What the gateway takes out of tunnels. */
export const gatewayTunnels = part({
  name: 'tunnels to the gateway',
  kinds: ['gateway'],
  reads: {
    site: ['management'],
    facts: { holders: holdersOf, former: formerGateways, vlans: tunnelledAtSite, landings: takenAfar },
    device: ['id'],
  },
  tells: ({ management, holders, former, vlans, landings }, { id }) => {
    if (!holders.includes(id) || vlans.length + landings.length === 0) return {};
    const before = former.map((text) => formatPrefix(parsePrefix(text)!));
    const from = vlans.length > 0 ? [management.subnet, ...before] : [];
    return { tunnels: { from, vlans, mtu: TUNNEL_MTU, ...(landings.length > 0 ? { landings } : {}) } };
  },
});
