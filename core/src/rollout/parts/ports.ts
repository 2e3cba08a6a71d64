import { sheetFor } from '../../hardware';
import { madeUplinks } from '../facts';
import { part } from '../part';
import { forPorts, portDocuments } from './port-documents';

/** Settings of the ports of gateways and switches; those to providers are not part of them. */
export const ports = part({
  name: 'ports',
  kinds: ['gateway', 'switch'],
  reads: {
    site: ['managementId', 'duties'],
    facts: { ...forPorts, madeUplinks },
    device: ['id', 'model', 'sheet'],
    own: 'ports',
  },
  tells: (seen, device) => {
    const { madeUplinks: made } = seen;
    const inside = sheetFor(device).ports.filter(
      ({ role, name }) => role !== 'wan' && !made.includes(`${device.id} ${name}`),
    );
    return { ports: portDocuments(seen, device, inside) };
  },
});
