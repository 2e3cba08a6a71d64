import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { writePskFile, type PskLine } from './psk-file';
import { writeHostapd, type HostapdBss, type HostapdRadio } from './hostapd';

const folder = mkdtempSync(join(tmpdir(), 'hostapd-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;

/** What hostapd itself says of a configuration: every line is read, and what belongs together held against each other. There is no radio here. */
function judge(text: string): string {
  const file = join(folder, `${files++}.conf`);
  // Without a radio it holds one network at a time, has no bridge (whose packets proxy ARP reads), and waits for nobody to allow it a country.
  writeFileSync(
    file,
    text.replace('driver=nl80211', 'driver=none').replace(/^(country_code|ieee80211[dh]|bridge|proxy_arp)=.*$/gm, ''),
  );
  // It says so at once, or goes on for good; a machine that is busy is given more time.
  let said = '';
  for (const seconds of ['0.4', '3', '15']) {
    const { stdout, error } = spawnSync('timeout', [seconds, 'stdbuf', '-oL', 'hostapd', file], { encoding: 'utf8' });
    if (error) throw error;
    const wrong = stdout.split('\n').filter((line) => /^Line \d+|invalid|errors? found|Unable to parse/i.test(line));
    if (stdout.includes('AP-ENABLED')) return 'valid';
    if (wrong.length > 0) return wrong.join('; ');
    said = stdout;
  }
  return said;
}

const radio: HostapdRadio = {
  ...{ interface: 'wlan1', mac: '02:5a:10:00:00:ac', country: 'IE', band: '5', channel: 44, centre: 42, width: 80 },
  ...{ power: 23, radar: false, choices: [] },
};
const crew: HostapdBss = { ssid: 'Skerrow Crew', security: 'wpa2-wpa3-psk', vlan: 10, isolated: false };
const RADIOS: readonly (readonly [string, Partial<HostapdRadio>])[] = [
  ['80 MHz at 5 GHz', {}],
  ['the upper half of 40 MHz', { channel: 40, centre: 38, width: 40 }],
  ['20 MHz on a channel shared with radar', { channel: 100, centre: 100, width: 20, radar: true }],
  ['40 MHz at 2.4 GHz, the other half below', { band: '2.4', channel: 11, centre: 9, width: 40 }],
  ['160 MHz at 6 GHz', { band: '6', channel: 37, centre: 47, width: 160 }],
  ['no rate below 12 Mb/s', { slowest: 12 }],
  ['no rate of 802.11b at 2.4 GHz', { band: '2.4', channel: 6, centre: 6, width: 20, slowest: 6 }],
  ['one that chooses by itself', { band: '2.4', channel: 1, centre: 1, width: 20, choices: [1, 6, 11] }],
];

test.each(RADIOS)('hostapd takes %s', (_name, change) => {
  expect(judge(writeHostapd({ ...radio, ...change }, [crew]))).toBe('valid');
});

test.each([
  ['WPA2', { security: 'wpa2-psk' as const }],
  ['WPA3 alone, clients kept apart', { security: 'wpa3-sae' as const, isolated: true }],
  ['a name of many octets that are not ASCII', { ssid: 'Přístav „U majáku“' }],
  ['an open network', { security: 'open' as const }],
  ['an open one that encrypts', { security: 'owe' as const }],
  ['a hidden one, clients counted and heard well', { hidden: true, most: 40, join: -76, stay: -80, steer: true }],
  ['a copy of what is for all for each client', { multicast: 'each' as const }],
  ['nothing that is for all', { multicast: 'none' as const }],
  ['lists of neighbours and clients asked to go', { roam: ['k', 'v'] as const }],
  ['keys that are there already', { roam: ['k', 'v', 'r'] as const }],
  ['the same with WPA2 alone', { security: 'wpa2-psk' as const, roam: ['r'] as const }],
])('hostapd takes %s', (_name, change) => {
  expect(judge(writeHostapd(radio, [{ ...crew, ...change }]))).toBe('valid');
});

const asks = {
  servers: [
    { name: 'radius.skerrow.example', address: '198.51.100.90', port: 1812 },
    { name: 'by name', address: 'radius.skerrow.example', port: 1812 },
    { name: 'spare', address: '2001:db8::90', port: 1912 },
  ],
  ...{ as: 'bm-ap-01', byClass: true },
};
test.each([
  ['WPA2 with 802.1X', { security: 'wpa2-enterprise' as const }],
  [
    'either, keys that are there already',
    { security: 'wpa2-wpa3-enterprise' as const, roam: ['k', 'v', 'r'] as const },
  ],
  ['WPA3 with 802.1X', { security: 'wpa3-enterprise' as const }],
  ['192 bits', { security: 'wpa3-enterprise-192' as const, tunnel: true }],
])('hostapd takes a network that asks who it is: %s', (_name, change) => {
  const text = writeHostapd(radio, [{ ...crew, asks, ...change }]);
  expect(judge(text)).toBe('valid');
  expect(text).toMatch(/auth_server_addr=198\.51\.100\.90\n.*\n.*\n# by name .*\nauth_server_addr=2001:db8::90/);
  // It is hostapd that judges: what it does not take is told.
  expect(judge(text.replace(/wpa_key_mgmt=\S+/, 'wpa_key_mgmt=WPA-EEP'))).not.toBe('valid');
});

test('at 6 GHz either is WPA3 alone', () => {
  const six = { ...radio, band: '6' as const, channel: 37, centre: 39, width: 80 };
  const text = writeHostapd(six, [{ ...crew, security: 'wpa2-wpa3-enterprise', asks }]);
  expect(text).toContain('wpa_key_mgmt=WPA-EAP-SHA256\n');
  expect(text).toContain('ieee80211w=2');
  expect(judge(text)).toBe('valid');
});

/** What hostapd says of keys of a ring. */
function judgeKeys(keys: string): string {
  const file = join(folder, `${files++}.psk`);
  writeFileSync(file, keys);
  return judge(writeHostapd(radio, [{ ...crew, security: 'wpa2-psk', pskFile: file }]));
}

test('hostapd takes the keys of a ring, each with its VLAN and addresses, and tells what is no key', () => {
  const one: PskLine = { name: 'Berth 7, “Přístav”', key: 'ab'.repeat(32), vlan: 107, macs: [] };
  const keys = writePskFile([
    one,
    { ...one, name: 'Till', key: 'cd'.repeat(32), vlan: null, macs: ['02:00:00:00:00:01', '02:00:00:00:00:02'] },
  ]);
  expect(judgeKeys(keys)).toBe('valid');
  expect(judgeKeys(keys.replace('ab'.repeat(32), 'seven'))).not.toBe('valid');
  // Bound ones first: hostapd takes the first that fits. Of a VLAN it says nothing, whatever it is: that we hold ourselves.
  expect(keys.split('\n').filter((line) => !line.startsWith('#'))).toEqual([
    `keyid=k1 02:00:00:00:00:01 ${'cd'.repeat(32)}`,
    `keyid=k1 02:00:00:00:00:02 ${'cd'.repeat(32)}`,
    `keyid=k2 vlanid=107 00:00:00:00:00:00 ${'ab'.repeat(32)}`,
    '',
  ]);
});

test('hostapd takes a network whose keys servers name', () => {
  const text = writeHostapd(radio, [{ ...crew, security: 'wpa2-psk', keysAsked: true, asks }]);
  expect(judge(text)).toBe('valid');
  expect(text).not.toMatch(/wpa_passphrase|wpa_psk_file/);
  expect(text).toContain('auth_server_addr=198.51.100.90');
  // Keys of servers without asking them about the address is what it refuses.
  expect(judge(text.replace('macaddr_acl=2\n', ''))).not.toBe('valid');
});

test('what goes into a tunnel is on bridges of its own, those of keys too', () => {
  const text = writeHostapd(radio, [{ ...crew, tunnel: true, security: 'wpa2-psk', pskFile: 'ring.psk' }]);
  expect(text.split('\n')).toEqual(expect.arrayContaining(['bridge=tunnel10', 'vlan_bridge=tunnel']));
  const other = writeHostapd(radio, [crew, { ...crew, ssid: 'Till', tunnel: true }]).split('\n');
  expect(other.filter((line) => line.startsWith('bridge='))).toEqual(['bridge=br10', 'bridge=tunnel10']);
  const alone = writeHostapd(radio, [{ ...crew, tunnel: true }]);
  expect(judge(alone)).toBe('valid');
});

test('it would tell: WPA2 at 6 GHz, and a key that nobody knows', () => {
  const text = writeHostapd({ ...radio, band: '6', channel: 37, centre: 39, width: 80 }, [crew]);
  expect(judge(text.replace('wpa_key_mgmt=SAE', 'wpa_key_mgmt=WPA-PSK'))).not.toBe('valid');
  expect(judge(writeHostapd(radio, [crew]).replace('hw_mode=a', 'hw_mode=z'))).toContain('hw_mode');
});

test('what an SSID asks for is written as hostapd reads it: at 6 GHz nothing old', () => {
  const lines = (change: Partial<HostapdBss>, band: HostapdRadio['band'] = '5') =>
    writeHostapd({ ...radio, band }, [{ ...crew, ...change }]);
  expect(lines({ security: 'open' })).not.toContain('wpa');
  expect(lines({ security: 'owe' }, '6')).toMatch(/wpa_key_mgmt=OWE\n[^]*ieee80211w=2/);
  expect(lines({}, '6')).toMatch(/wpa_key_mgmt=SAE\n[^]*ieee80211w=2/);
  expect(lines({ multicast: 'each' })).toMatch(/\nmulticast_to_unicast=1\n/);
  expect(lines({ multicast: 'none' })).toMatch(/\ndisable_dgaf=1\nproxy_arp=1\n/);
  expect(lines({})).not.toMatch(/multicast|dgaf|proxy_arp/);
  expect(lines({ roam: ['r'] })).toMatch(/wpa_key_mgmt=WPA-PSK SAE FT-PSK FT-SAE\n[^]*mobility_domain=[0-9a-f]{4}\n/);
  expect(lines({ hidden: true, most: 40, join: -76 })).toMatch(
    /ignore_broadcast_ssid=1\n[^]*max_num_sta=40\nrssi_reject_assoc_rssi=-76/,
  );
});

test('pairs of 20 MHz are joined on the right side, widths numbered, networks told apart', () => {
  const of = (change: Partial<HostapdRadio>) =>
    writeHostapd({ ...radio, ...change }, [crew, { ...crew, ssid: 'Till' }]);
  expect(of({ channel: 36, centre: 42 })).toContain('ht_capab=[HT40+]');
  expect(of({ channel: 40, centre: 42 })).toContain('ht_capab=[HT40-]');
  expect(of({ channel: 44, centre: 42 })).toContain('ht_capab=[HT40+]');
  expect(of({ band: '2.4', channel: 11, centre: 9, width: 40 })).toContain('[HT40-]');
  expect(of({})).toMatch(/vht_oper_chwidth=1\nvht_oper_centr_freq_seg0_idx=42/);
  expect(of({ band: '6', channel: 37, centre: 47, width: 160 })).toMatch(/op_class=134[^]*he_oper_chwidth=2/);
  expect(of({})).toMatch(/bssid=02:5a:10:00:00:ac[^]*bss=wlan1_1\nbssid=02:5a:10:00:00:ad/);
  expect(of({ country: '' })).not.toContain('country_code');
});
