import { sheetFor } from '../../hardware';
import { part } from '../part';
import { forPorts, portDocuments } from './port-documents';

/** Settings of the ports of gateways and switches; those to providers are not part of them. */
export const ports = part({
  name: 'ports',
  kinds: ['gateway', 'switch'],
  reads: { site: ['managementId', 'duties'], facts: forPorts, device: ['id', 'model', 'sheet'], own: 'ports' },
  tells: (seen, device) => {
    const inside = sheetFor(device).ports.filter(({ role }) => role !== 'wan');
    return { ports: portDocuments(seen, device, inside) };
  },
});
