import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import {
  enterpriseLines,
  isEnterprise,
  serverLines,
  type EnterpriseKind,
  type HostapdServers,
} from './hostapd-enterprise';

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
  readonly security: 'open' | 'owe' | 'wpa2-psk' | 'wpa2-wpa3-psk' | 'wpa3-sae' | EnterpriseKind;
  /** Who is asked who a client is. */
  readonly asks?: HostapdServers;
  readonly vlan: number;
  /** Whether its clients’ frames go into a tunnel: onto bridges that no port of the AP is joined to. */
  readonly tunnel?: boolean;
  /** Instead: which of the tunnels to other sites, whose VLANs are not those of this one. */
  readonly far?: number | undefined;
  /** Whether its clients are kept apart from each other. */
  readonly isolated: boolean;
  /** File of the keys of a ring, which say the VLAN of each: instead of a passphrase. */
  readonly pskFile?: string;
  /** Those who are asked name the keys of its ring, by MAC address: instead of a file. */
  readonly keysAsked?: boolean;
  /** Until when an old passphrase is right as well, such as `2026-12-31`. */
  readonly formerUntil?: string;
  /** Its name is in no beacon. */
  readonly hidden?: boolean;
  /** Signal in dBm that a client is taken in from, and below which it is sent away. */
  readonly join?: number;
  readonly stay?: number;
  /** Most clients. */
  readonly most?: number;
  readonly steer?: boolean;
  /** How frames to all are kept down: a copy for each client, or none at all. */
  readonly multicast?: 'each' | 'none';
  /** What helps clients to change: 802.11k, v, r. */
  readonly roam?: readonly ('k' | 'v' | 'r')[];
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
      ...bssLines(bss, band, bssidOf(radio.mac, i)),
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

function bssLines(bss: HostapdBss, band: HostapdRadio['band'], bssid: string): string[] {
  const { ssid, vlan, isolated, hidden = false, join, stay, most, steer = false, roam = [], multicast } = bss;
  const hex = bytesToHex(utf8ToBytes(ssid));
  return [
    `# ${plain(ssid)}, VLAN ${vlan}${bss.far === undefined ? (bss.tunnel ? ', in a tunnel' : '') : ' of another site, in a tunnel'}`,
    `ssid2=${hex}`,
    'utf8_ssid=1',
    `bridge=${bridgeOf(bss)}${vlan}`,
    ...(hidden ? ['ignore_broadcast_ssid=1'] : []),
    ...securityLines(bss, band),
    `ap_isolate=${isolated ? 1 : 0}`,
    ...(most === undefined ? [] : [`max_num_sta=${most}`]),
    ...(join === undefined ? [] : [`rssi_reject_assoc_rssi=${join}`]),
    ...(stay === undefined ? [] : [`# below ${stay} dBm clients are sent away: not hostapd’s`]),
    ...(steer && band === '2.4' ? ['# who hears a wider band well is not answered here: not hostapd’s'] : []),
    ...(multicast === 'each' ? ['multicast_to_unicast=1'] : []),
    ...(multicast === 'none' ? ['disable_dgaf=1', 'proxy_arp=1'] : []),
    ...(roam.includes('k') ? ['rrm_neighbor_report=1', 'rrm_beacon_report=1'] : []),
    ...(roam.includes('v') ? ['bss_transition=1'] : []),
    ...(roam.includes('r') ? fastLines(bss, bssid) : []),
  ];
}

/** What bridges of VLANs are called before their number: those into a tunnel are others than those of cables. */
const bridgeOf = ({ tunnel, far }: Pick<HostapdBss, 'tunnel' | 'far'>): string =>
  far === undefined ? (tunnel ? 'tunnel' : 'br') : `far${far}v`;

function securityLines(bss: HostapdBss, band: HostapdRadio['band']): string[] {
  const { security, roam = [], formerUntil } = bss;
  if (security === 'open') return [];
  if (isEnterprise(security)) {
    const either = security === 'wpa2-wpa3-enterprise';
    return enterpriseLines(either && band === '6' ? 'wpa3-enterprise' : security, bss, bridgeOf(bss));
  }
  // At 6 GHz there is nothing but WPA3 and OWE (802.11ax §12.12).
  const both = formerUntil !== undefined && security === 'wpa2-wpa3-psk';
  const kind = band === '6' && security !== 'owe' ? 'wpa3-sae' : both ? 'wpa2-psk' : security;
  const keys = { owe: ['OWE'], 'wpa2-psk': ['WPA-PSK'], 'wpa2-wpa3-psk': ['WPA-PSK', 'SAE'], 'wpa3-sae': ['SAE'] }[
    kind
  ];
  const fast = roam.includes('r') ? keys.map((key) => `FT-${key.replace('WPA-', '')}`) : [];
  const management = { owe: 2, 'wpa2-psk': 0, 'wpa2-wpa3-psk': 1, 'wpa3-sae': 2 }[kind];
  return [
    'wpa=2',
    `wpa_key_mgmt=${[...keys, ...fast].join(' ')}`,
    'rsn_pairwise=CCMP',
    `ieee80211w=${management}`,
    ...(keys.includes('WPA-PSK') ? passphraseLines(bss) : []),
    ...(keys.includes('WPA-PSK') && formerUntil !== undefined
      ? [`# until ${formerUntil} the old passphrase is right as well: both are in a wpa_psk_file`]
      : []),
    ...(keys.includes('SAE') ? [`sae_password=${NO_PASSPHRASE}`, `sae_pwe=${band === '6' ? 1 : 2}`] : []),
  ];
}

/** What clients give: a passphrase, or keys of a ring, of which each may lead to a VLAN of its own. */
function passphraseLines(bss: HostapdBss): string[] {
  const led = ['dynamic_vlan=1', 'vlan_naming=1', `vlan_bridge=${bridgeOf(bss)}`];
  if (bss.keysAsked && bss.asks)
    return ['macaddr_acl=2', 'wpa_psk_radius=2', ...serverLines(bss.asks, bss.roam?.includes('r') ?? false), ...led];
  return bss.pskFile === undefined ? [`wpa_passphrase=${NO_PASSPHRASE}`] : [`wpa_psk_file=${bss.pskFile}`, ...led];
}

/** Who holds the keys that are there already, by its own address (IEEE 802.11-2020 §13.2.2: R0KH-ID, R1KH-ID). */
function fastLines({ ssid, asks }: HostapdBss, bssid: string): string[] {
  const holder = bssid.replaceAll(':', '');
  const local = asks ? '# APs give each other keys of sessions: see r0kh and r1kh' : 'ft_psk_generate_local=1';
  const keys = [`nas_identifier=${holder}`, `r1_key_holder=${holder}`, local];
  return [`mobility_domain=${domainOf(ssid)}`, 'ft_over_ds=0', ...keys];
}

/** The mobility domain of a network, alike at all APs that send it (IEEE 802.11-2020 §9.4.2.46: 2 octets). */
function domainOf(ssid: string): string {
  const hash = utf8ToBytes(ssid).reduce((sum, octet) => (sum * 31 + octet) & 0xffff, 0x1a77);
  return hash.toString(16).padStart(4, '0');
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
