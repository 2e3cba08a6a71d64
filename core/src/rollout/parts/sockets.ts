import { sheetFor } from '../../hardware';
import { isApUplink } from '../../intent';
import { part } from '../part';
import { forPorts, portDocuments } from './port-documents';

/** Settings of the sockets of an AP; its own port follows from the rest of what it is told. */
export const sockets = part({
  name: 'sockets',
  kinds: ['ap'],
  reads: { site: ['managementId', 'duties'], facts: forPorts, device: ['id', 'model', 'sheet'], own: 'ports' },
  tells: (seen, device) => {
    const sheet = sheetFor(device);
    const names = sheet.ports.filter(({ name }) => !isApUplink(sheet, name));
    return { ports: portDocuments(seen, device, names) };
  },
});
