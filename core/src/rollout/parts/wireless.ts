import { sheetFor } from '../../hardware';
import { sentByModel } from '../facts';
import { part } from '../part';

/** The SSIDs an AP sends. */
export const wireless = part({
  name: 'wireless',
  kinds: ['ap'],
  reads: { facts: { sent: sentByModel }, device: ['model', 'sheet'] },
  tells: ({ sent }, device) => ({ ssids: sent.get(sheetFor(device)) ?? [] }),
});
