import { classDocuments, wiredClassDocuments } from '../class-documents';
import { sheetFor } from '../../hardware';
import { part } from '../part';

/** The classes, for a device that asks who its clients are: at a port, or on an SSID that it sends. */
export const classes = part({
  name: 'classes',
  kinds: ['gateway', 'switch', 'ap'],
  reads: {
    facts: { aired: classDocuments, wired: wiredClassDocuments },
    device: ['model', 'sheet'],
    before: ['ports', 'ssids'],
  },
  tells: ({ aired, wired }, device, { ports = [], ssids = [] }) => {
    const asks = ports.some(({ auth }) => auth !== undefined) || ssids.some(({ byClass }) => byClass);
    const known = sheetFor(device).kind === 'ap' ? aired : wired;
    return asks && known.length > 0 ? { classes: known } : {};
  },
});
