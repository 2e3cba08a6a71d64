import { joinText, type RingKeyFields } from '@iron-lattice/core/wireless';
import type { Slip } from '../ui/slips';

/** A slip of a key: it joins its SSID by a camera, or by hand. */
export function keySlip(
  { name, until, most }: Pick<RingKeyFields, 'name' | 'until' | 'most'>,
  key: string,
  ssid: { readonly name: string; readonly hidden?: boolean | null },
): Slip {
  const limits = [until ? `until ${until}` : '', most ? `${most} ${most === 1 ? 'device' : 'devices'}` : ''];
  return {
    heading: name,
    before: [`Wi-Fi: ${ssid.name}`],
    code: key,
    after: [limits.filter((each) => each !== '').join(', ')],
    qr: [{ text: joinText(ssid.name, key, ssid.hidden ?? false), words: '' }],
  };
}
