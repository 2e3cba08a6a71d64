import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** One radio to be configured, as plain values. */
export interface HostapdRadio {
  readonly interface: string;
  readonly mac: string;
  /** ISO 3166-1 alpha-2; empty: not known. */
  readonly country: string;
  readonly band: '2.4' | '5' | '6';
  /** Primary channel of 20 MHz, and the number of the middle of the whole. */
  readonly channel: number;
  readonly centre: number;
  /** In MHz. */
  readonly width: number;
  /** EIRP in dBm. */
  readonly power: number;
  /** Slowest rate in Mb/s, where it is not the usual. */
  readonly slowest?: number;
  /** Whether radar is listened for first. */
  readonly radar: boolean;
  /** Channels it may take by itself instead; none: it stays. */
  readonly choices: readonly number[];
}

/** One network that it sends. */
export interface HostapdBss {
  readonly ssid: string;
  readonly security: 'wpa2-psk' | 'wpa2-wpa3-psk' | 'wpa3-sae';
  readonly vlan: number;
  /** Whether its clients are kept apart from each other. */
  readonly isolated: boolean;
}

/** Stands where a passphrase belongs: they are not written into files. */
export const NO_PASSPHRASE = 'not-written-down';

/** Operating classes of 6 GHz by width in MHz (802.11ax Table E-4). */
const CLASS_OF_6: Readonly<Record<number, number>> = { 20: 131, 40: 132, 80: 133, 160: 134 };
/** How hostapd numbers widths of 80 MHz and more. */
const WIDE: Readonly<Record<number, number>> = { 20: 0, 40: 0, 80: 1, 160: 2 };

/** Writes the radio and its networks as a configuration for hostapd, without passphrases. */
export function writeHostapd(radio: HostapdRadio, networks: readonly HostapdBss[]): string {
  const { band, channel, centre, width, power, radar, country, choices } = radio;
  const lines = [
    `interface=${radio.interface}`,
    'driver=nl80211',
    ...(/^[A-Z]{2}$/.test(country) ? [`country_code=${country}`, 'ieee80211d=1'] : []),
    ...(radar ? ['ieee80211h=1'] : []),
    `hw_mode=${band === '2.4' ? 'g' : 'a'}`,
    `channel=${channel}`,
    ...(choices.length > 1 ? [`chanlist=${choices.join(' ')}`] : []),
    ...(band === '6' ? [`op_class=${CLASS_OF_6[width] ?? 131}`] : ['ieee80211n=1']),
    ...(band !== '6' && width >= 40 ? [`ht_capab=[HT40${isLower(band, channel, centre, width) ? '+' : '-'}]`] : []),
    ...(band === '5'
      ? [
          'ieee80211ac=1',
          `vht_oper_chwidth=${WIDE[width] ?? 0}`,
          ...(width >= 80 ? [`vht_oper_centr_freq_seg0_idx=${centre}`] : []),
        ]
      : []),
    'ieee80211ax=1',
    ...(band === '2.4' ? [] : [`he_oper_chwidth=${WIDE[width] ?? 0}`, `he_oper_centr_freq_seg0_idx=${centre}`]),
    ...ratesOf(radio),
    'wmm_enabled=1',
    `# EIRP is not hostapd's: iw dev ${radio.interface} set txpower fixed ${Math.round(power * 100)} less the antenna's gain`,
  ];
  for (const [i, bss] of networks.entries()) {
    lines.push(
      '',
      ...(i === 0 ? [] : [`bss=${radio.interface}_${i}`]),
      `bssid=${bssidOf(radio.mac, i)}`,
      ...bssLines(bss, band),
    );
  }
  return `${lines.join('\n')}\n`;
}

/** Rates of old in units of 100 kb/s: those from the slowest on are told, and that one everybody has to know. */
function ratesOf({ band, slowest }: HostapdRadio): string[] {
  if (slowest === undefined) return [];
  const all = [...(band === '2.4' ? [10, 20, 55, 110] : []), 60, 90, 120, 180, 240, 360, 480, 540];
  const told = all.filter((rate) => rate >= slowest * 10).sort((a, b) => a - b);
  return [`supported_rates=${told.join(' ')}`, `basic_rates=${told[0]}`, `beacon_rate=${told[0]}`];
}

/** Whether the pair of 20 MHz that holds the primary channel has it below. */
function isLower(band: HostapdRadio['band'], channel: number, centre: number, width: number): boolean {
  if (band === '2.4') return channel < centre;
  const first = centre - 2 * (width / 20 - 1);
  return ((channel - first) / 4) % 2 === 0;
}

function bssLines({ ssid, security, vlan, isolated }: HostapdBss, band: HostapdRadio['band']): string[] {
  // At 6 GHz there is nothing but WPA3 (802.11ax §12.12).
  const kind = band === '6' ? 'wpa3-sae' : security;
  const hex = bytesToHex(utf8ToBytes(ssid));
  const management = { 'wpa2-psk': 0, 'wpa2-wpa3-psk': 1, 'wpa3-sae': 2 }[kind];
  return [
    `# ${plain(ssid)}, VLAN ${vlan}`,
    `ssid2=${hex}`,
    'utf8_ssid=1',
    `bridge=br${vlan}`,
    'wpa=2',
    `wpa_key_mgmt=${{ 'wpa2-psk': 'WPA-PSK', 'wpa2-wpa3-psk': 'WPA-PSK SAE', 'wpa3-sae': 'SAE' }[kind]}`,
    'rsn_pairwise=CCMP',
    `ieee80211w=${management}`,
    ...(kind === 'wpa3-sae' ? [] : [`wpa_passphrase=${NO_PASSPHRASE}`]),
    ...(kind === 'wpa2-psk' ? [] : [`sae_password=${NO_PASSPHRASE}`, `sae_pwe=${band === '6' ? 1 : 2}`]),
    `ap_isolate=${isolated ? 1 : 0}`,
  ];
}

/** What may stand in a line of its own: no control characters. */
const plain = (text: string): string => text.replace(/\p{C}/gu, '?');

/** Identities of networks: the radio's address, the last octet counted on (they must not be alike). */
function bssidOf(mac: string, index: number): string {
  const octets = mac.split(':').map((part) => parseInt(part, 16));
  octets[0] = (octets[0]! | 0x02) & 0xfe;
  octets[5] = (octets[5]! + index) & 0xff;
  return octets.map((octet) => octet.toString(16).padStart(2, '0')).join(':');
}
