import { lastsWords } from '@iron-lattice/core/base';
import { signInUrl, writtenCode, type CodeView } from '@iron-lattice/core/guests';
import type { Slip } from '../ui/slips';

/** A network that leads to a portal: its name, and what a QR code holds that joins it; null where that takes a key. */
export interface SlipSsid {
  readonly name: string;
  readonly join: string | null;
}

/** A slip of a visit code: one QR code joins the network, the other gives the code. */
export function codeSlip(
  { name, minutes, most, useBy }: Pick<CodeView, 'name' | 'minutes' | 'most' | 'useBy'>,
  code: string,
  ssid: SlipSsid | null,
  portalUrl: string,
): Slip {
  const devices = most === null ? '' : `${most} ${most === 1 ? 'device' : 'devices'}`;
  const lasts = [`${lastsWords(minutes)} from its first use`, devices].filter((each) => each !== '').join(', ');
  return {
    heading: name || 'Wi-Fi for guests',
    before: ssid ? [`Wi-Fi: ${ssid.name}`] : [],
    code: writtenCode(code),
    after: [lasts, useBy ? `To be used first by ${useBy.slice(0, 10)}` : ''],
    qr: [
      ...(ssid?.join ? [{ text: ssid.join, words: '1. Join' }] : []),
      { text: signInUrl(portalUrl, code), words: ssid?.join ? '2. Sign in' : 'Sign in' },
    ],
  };
}
