import type { DeviceDocument, FirstUplink, PortDocument, UplinkDocument } from '@iron-lattice/core/document';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { WorldDevice } from './world-file';

/** VLAN that a box out of the carton lives in, untagged on every port. */
const FACTORY_VLAN = 1;

/** Under which name a box keeps the password for a provider that was said at its own page. */
export const FIRST_SECRET = 'first';

/**
 * What a box does before a controller told it anything: one flat network behind a gateway that translates.
 * @param first of a gateway: what somebody said at its own page.
 */
export function factoryDocument(device: WorldDevice, first?: FirstUplink<string>): DeviceDocument {
  const sheet = sheetFor(device);
  const ports: PortDocument[] = sheet.ports
    .filter((port) => port.role !== 'wan')
    .map((port) => ({ name: port.name, untagged: FACTORY_VLAN, tagged: [] }));
  const common = {
    format: 'iron-lattice.document/1',
    device: { name: '', serial: device.serial, model: device.model },
    site: { name: '', country: '', timeZone: 'UTC' },
    management: { vlan: FACTORY_VLAN },
    ports,
  } as const;
  if (sheet.kind === 'switch') return { ...common, kind: 'switch', vlans: [] };
  if (sheet.kind === 'ap') return { ...common, kind: 'ap', ssids: [] };
  return {
    ...common,
    kind: 'gateway',
    interfaces: [{ vlan: FACTORY_VLAN, name: 'factory', address: '192.168.1.1/24' }],
    addressServices: [
      {
        vlan: FACTORY_VLAN,
        subnet: '192.168.1.0/24',
        first: '192.168.1.2',
        last: '192.168.1.254',
        gateway: '192.168.1.1',
        dns: ['192.168.1.1'],
        leaseSeconds: 3600,
      },
    ],
    uplinks: sheet.ports
      .filter((port) => port.role === 'wan')
      .map(({ name }) => (first?.port === name ? uplinkBy(first) : { port: name, method: 'dhcp', translate: true })),
  };
}

function uplinkBy({ port, way, login, ...said }: FirstUplink<string>): UplinkDocument {
  const known = login ? { login: { user: login.user, password: { secret: FIRST_SECRET } } } : {};
  return { port, method: way, translate: true, ...said, ...known };
}
