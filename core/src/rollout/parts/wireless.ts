import type { SsidDocument } from '../../document';
import { sheetFor } from '../../hardware';
import { chosenSenders, sentByModel } from '../facts';
import { part } from '../part';

/** The SSIDs an AP sends. */
export const wireless = part({
  name: 'wireless',
  kinds: ['ap'],
  reads: { facts: { sent: sentByModel, chosen: chosenSenders }, device: ['id', 'model', 'sheet'] },
  tells: ({ sent, chosen }, device) => {
    const ssids = sent.get(sheetFor(device)) ?? [];
    const elsewhere = ({ id }: SsidDocument): boolean => chosen[id]?.includes(device.id) === false;
    return { ssids: ssids.some(elsewhere) ? ssids.filter((ssid) => !elsewhere(ssid)) : ssids };
  },
});
