import type { SsidSecurity } from '@iron-lattice/core/document';

/** What people read for each kind of security. */
export const SECURITY_WORDS: Readonly<Record<SsidSecurity, string>> = {
  'wpa2-wpa3-psk': 'WPA2/WPA3 passphrase',
  'wpa3-sae': 'WPA3 passphrase',
  'wpa2-psk': 'WPA2 passphrase',
};
