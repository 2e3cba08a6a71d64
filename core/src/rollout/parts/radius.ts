import {
  asksWho,
  waysOf,
  type PortalDocument,
  type PortDocument,
  type RadiusDocument,
  type RadiusServerDocument,
  type SsidDocument,
} from '../../document';
import type { RadiusServer } from '../../intent';
import { holdersOf, namedPortals } from '../facts';
import { part } from '../part';
import { fact } from '../reads';

/** The servers of a site as devices are told of them. */
const servers = fact(
  { site: ['radiusServers', 'management'] },
  ({ radiusServers, management }): readonly RadiusServerDocument[] =>
    radiusServers.map((server) => serverDocument(server, management.gateway)),
);

/** The segments that an answer may name: those of classes here. */
const segments = fact({ site: ['accessClasses', 'segments'] }, ({ accessClasses, segments }) => {
  const ids = new Set(accessClasses.map(({ segmentId }) => segmentId));
  return segments
    .flatMap(({ id, vlan, name }) => (ids.has(id) ? [{ vlan, name }] : []))
    .sort((a, b) => a.vlan - b.vlan);
});

/** The servers that are asked where clients are asked for: by MAC address, of those that want them, or by a method of theirs (802.1X). */
function askedOf(
  known: readonly RadiusServerDocument[],
  ports: readonly PortDocument[],
  ssids: readonly SsidDocument[],
): readonly RadiusServerDocument[] {
  const ways = new Set(ports.flatMap(({ auth }) => waysOf(auth)));
  if (ways.has('802.1X') || ssids.some(({ security }) => asksWho(security))) return known;
  const byMac = ways.has('mac') || ssids.some(({ byClass, ring }) => byClass || ring?.asked);
  return byMac ? known.filter(({ macs }) => macs !== undefined) : [];
}

const radiusDocument = (
  servers: readonly RadiusServerDocument[],
  segments: RadiusDocument['segments'],
  portals: readonly PortalDocument[],
): RadiusDocument => ({ servers, segments, ...(portals.length > 0 ? { portals } : {}) });

/** Whom a device asks that lets clients in by who they are. */
export const radius = part({
  name: 'RADIUS servers',
  kinds: ['switch', 'ap'],
  reads: { facts: { known: servers, named: segments, portals: namedPortals }, device: [], before: ['ports', 'ssids'] },
  tells: ({ known, named, portals }, _device, { ports = [], ssids = [] }) => {
    const asked = askedOf(known, ports, ssids);
    return asked.length > 0 ? { radius: radiusDocument(asked, named, portals) } : {};
  },
});

/** What the gateway asks for the others, and where it lets clients in itself. */
export const gatewayRadius = part({
  name: 'RADIUS servers of the gateway',
  kinds: ['gateway'],
  reads: {
    facts: { known: servers, named: segments, portals: namedPortals, holders: holdersOf },
    device: ['id'],
    before: ['ports'],
  },
  tells: ({ known, named, portals, holders }, { id }, { ports = [] }) => {
    const own = askedOf(known, ports, []);
    const asked = known
      .filter((each) => own.includes(each) || (holders.includes(id) && each.through !== undefined))
      .map(({ through: _through, ...server }) => server);
    return asked.length > 0 ? { radius: radiusDocument(asked, named, portals) } : {};
  },
});

/** A server as devices of a site are told of it. @param gateway that asks it for them, where they do not themselves. */
export const serverDocument = (
  { name, own, address, port, accounting, secret, macs, unsigned, source, ...times }: RadiusServer,
  gateway: string,
): RadiusServerDocument => ({
  ...{ name, ...(own ? { own: true as const } : {}), address, port, secret },
  ...{ order: times.order, timeout: times.timeout, tries: times.tries, dead: times.dead },
  ...(accounting ? { accounting } : {}),
  ...(macs === null ? {} : { macs }),
  ...(unsigned ? { unsigned: true as const } : {}),
  ...(source === 'gateway' ? { through: gateway } : {}),
});
