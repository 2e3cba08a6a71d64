import type { SsidSecurity } from '@iron-lattice/core/document';
import type { Ssid } from '@iron-lattice/core/intent';
import type { Band } from '@iron-lattice/core/hardware';
import type { Choice } from '../ui/choice-cell';

/** What people read for each kind of security. */
export const SECURITY_WORDS: Readonly<Record<SsidSecurity, string>> = {
  'wpa2-wpa3-psk': 'WPA2/WPA3 passphrase',
  'wpa3-sae': 'WPA3 passphrase',
  'wpa2-psk': 'WPA2 passphrase',
  'wpa2-wpa3-enterprise': 'WPA2/WPA3 with 802.1X',
  'wpa3-enterprise': 'WPA3 with 802.1X',
  'wpa3-enterprise-192': 'WPA3 with 802.1X, 192 bits',
  'wpa2-enterprise': 'WPA2 with 802.1X',
  owe: 'Enhanced open (OWE)',
  open: 'Open',
};

/** A key ring among the kinds of security: WPA2 with many keys. */
export const RING = 'ring';
export const RING_WORDS = 'Key ring (WPA2)';

/** What an SSID asks for, in words. */
export const securityOf = ({ security, ring }: Pick<Ssid, 'security' | 'ring'>): string =>
  ring ? RING_WORDS : SECURITY_WORDS[security];

/** What there is to choose from. A portal holds clients besides, whatever they are asked for. */
export const SECURITY_CHOICES: readonly Choice[] = [
  ...Object.entries(SECURITY_WORDS).map(([value, label]) => ({ value, label })),
  { value: RING, label: RING_WORDS },
];

/** Whom a kind of security lets in, and what it is worth, at the bands chosen. */
export function securityHint(security: SsidSecurity, bands: readonly Band[], ring = false): string {
  const six = bands.includes('6');
  if (ring) return 'Many keys, each with its segment, devices and days. WPA2: none at 6 GHz.';
  switch (security) {
    case 'open':
      return 'Anybody joins, and anybody near reads what is sent.';
    case 'owe':
      return 'Anybody joins, and what is sent is encrypted. Clients of before 2019 do not find it.';
    case 'wpa2-psk':
      return 'Nearly every client. None at 6 GHz.';
    case 'wpa2-wpa3-psk':
      return six
        ? 'Both, and WPA3 alone at 6 GHz: older clients join at 2.4 and 5 GHz.'
        : 'Both: older clients join too, newer ones by WPA3.';
    case 'wpa3-sae':
      return 'Clients of before 2019 do not join.';
    case 'wpa2-enterprise':
      return 'Each says who it is, and a RADIUS server knows it. None at 6 GHz.';
    case 'wpa2-wpa3-enterprise':
      return six
        ? 'Each says who it is; WPA3 alone at 6 GHz: older clients join at 2.4 and 5 GHz.'
        : 'Each says who it is; older clients join by WPA2, newer ones by WPA3.';
    case 'wpa3-enterprise':
      return 'Each says who it is. Clients of before 2019 do not join.';
    case 'wpa3-enterprise-192':
      return 'By certificates alone (EAP-TLS), with long keys: few clients can.';
  }
}
