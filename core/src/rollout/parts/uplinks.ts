import { sheetFor } from '../../hardware';
import { part } from '../part';

/** A gateway's ports to providers. */
export const uplinks = part({
  name: 'uplinks',
  kinds: ['gateway'],
  reads: { device: ['model', 'sheet'] },
  tells: (_seen, device) => ({
    uplinks: sheetFor(device)
      .ports.filter(({ role }) => role === 'wan')
      .map(({ name }) => ({ port: name, method: 'dhcp', translate: true })),
  }),
});
