import type { RadiusServerDocument } from '../../document';
import type { RadiusServer } from '../../intent';
import { holderOf } from '../facts';
import { part } from '../part';
import { fact } from '../reads';

/** The servers of a site as devices are told of them. */
const servers = fact(
  { site: ['radiusServers', 'management'] },
  ({ radiusServers, management }): readonly RadiusServerDocument[] =>
    radiusServers.map((server) => ({
      ...serverDocument(server),
      ...(server.source === 'gateway' ? { through: management.gateway } : {}),
    })),
);

/** The segments that an answer may name: those of classes here. */
const segments = fact({ site: ['accessClasses', 'segments'] }, ({ accessClasses, segments }) => {
  const ids = new Set(accessClasses.map(({ segmentId }) => segmentId));
  return segments
    .flatMap(({ id, vlan, name }) => (ids.has(id) ? [{ vlan, name }] : []))
    .sort((a, b) => a.vlan - b.vlan);
});

/** Whom a device asks that lets clients in by who they are. */
export const radius = part({
  name: 'RADIUS servers',
  kinds: ['switch', 'ap'],
  reads: { facts: { known: servers, named: segments }, device: [], before: ['ports', 'ssids'] },
  tells: ({ known, named }, _device, { ports = [], ssids = [] }) => {
    const asks = ports.some(({ auth }) => auth === 'mac') || ssids.some(({ byClass }) => byClass);
    const asked = known.filter(({ macs }) => macs !== undefined);
    return asks && asked.length > 0 ? { radius: { servers: asked, segments: named } } : {};
  },
});

/** What the gateway asks for the others, and where it lets clients in itself. */
export const gatewayRadius = part({
  name: 'RADIUS servers of the gateway',
  kinds: ['gateway'],
  reads: { facts: { known: servers, named: segments, holder: holderOf }, device: ['id'], before: ['ports'] },
  tells: ({ known, named, holder }, { id }, { ports = [] }) => {
    const asks = ports.some(({ auth }) => auth === 'mac');
    const asked = known
      .filter(({ macs, through }) => macs !== undefined && (asks || (id === holder && through !== undefined)))
      .map(({ through: _through, ...server }) => server);
    return asked.length > 0 ? { radius: { servers: asked, segments: named } } : {};
  },
});

const serverDocument = ({ name, own, address, port, secret, macs, unsigned, ...times }: RadiusServer) => ({
  ...{ name, ...(own ? { own: true as const } : {}), address, port, secret },
  ...{ order: times.order, timeout: times.timeout, tries: times.tries, dead: times.dead },
  ...(macs === null ? {} : { macs }),
  ...(unsigned ? { unsigned: true as const } : {}),
});
