import { isFormerValid, type SsidDocument } from '@iron-lattice/core/document';
import { dayOf } from '@iron-lattice/core/rules';
import type { Box } from './box';
import type { AirClient } from './world-file';

/** Which passphrase of an SSID a client gives: the one that is right, or the one that was before and still is; null: another. */
export function keyOf(
  { secrets, document }: Pick<Box, 'secrets' | 'document'>,
  ssid: SsidDocument,
  { passphrase }: Pick<AirClient, 'passphrase'>,
): 'present' | 'former' | null {
  if (ssid.passphrase && secrets[ssid.passphrase.secret] === passphrase) return 'present';
  if (!ssid.former || secrets[ssid.former.passphrase.secret] !== passphrase) return null;
  return isFormerValid(ssid, dayOf(Date.now(), document.site.timeZone)) ? 'former' : null;
}
