import { classDocuments } from '../class-documents';
import { part } from '../part';

/** The classes, for a device that asks who its clients are: at a port, or on an SSID that it sends. */
export const classes = part({
  name: 'classes',
  kinds: ['gateway', 'switch', 'ap'],
  reads: {
    facts: { known: classDocuments },
    device: [],
    before: ['ports', 'ssids'],
  },
  tells: ({ known }, _device, { ports = [], ssids = [] }) => {
    const asks = ports.some(({ auth }) => auth !== undefined) || ssids.some(({ byClass }) => byClass);
    return asks && known.length > 0 ? { classes: known } : {};
  },
});
