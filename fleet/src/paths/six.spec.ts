import { parseIp } from '@iron-lattice/core/address';
import type { GatewayDocument, UplinkDocument } from '@iron-lattice/core/document';
import type { Flow } from '@iron-lattice/core/paths';
import { describe, expect, test } from 'vitest';
import { factoryDocument } from '../world/factory-document';
import { GatewayPaths } from './gateway-paths';
import type { WorldProvider } from './provider-file';
import { Providers } from './providers';

const MAC = '02:00:00:00:00:01';
const PROVIDERS: readonly WorldProvider[] = [
  {
    ...{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' } },
    six: {
      'GW:wan1': {
        network: '2001:db8:f1::/64',
        router: 'fe80::1',
        prefix: '2001:db8:700::/56',
        fixed: '2001:db8:f1::9/64',
      },
    },
  },
  {
    ...{ name: 'Hillcrest Line', gives: { 'GW:wan2': '198.51.100.9' } },
    six: { 'GW:wan2': { network: '2001:db8:f2::/64', router: 'fe80::2' } },
  },
];
const base = factoryDocument({ serial: 'GW', model: 'GW-4', mac: MAC, firmware: '1' }) as GatewayDocument;

function setUp(...uplinks: Partial<UplinkDocument>[]) {
  const providers = new Providers({ providers: PROVIDERS });
  const paths = new GatewayPaths('GW', MAC, providers, () => {}, false);
  const all = uplinks.map((each, i): UplinkDocument => ({
    port: `wan${i + 1}`,
    method: 'dhcp',
    translate: true,
    ...each,
  }));
  paths.run({ ...base, uplinks: all }, {}, 0);
  const from = (address: string): Flow => ({
    ...{
      protocol: 6,
      source: parseIp(address)!,
      destination: parseIp('2001:db8:ffff::80')!,
      sourcePort: 50_000,
      port: 443,
    },
  });
  const by = (address: string): string => {
    const uplink = paths.by(from(address), 0);
    return uplink ? `${uplink.port}${paths.knows6(uplink, from(address).source) ? '' : ', and back by none'}` : 'none';
  };
  const six = () => paths.report(0).uplinks.map((each) => each.six);
  return { paths, providers, by, six, seenAs: (address: string) => paths.seenAs(all[0]!, from(address)) };
}

describe('an uplink asks for IPv6', () => {
  test.each([
    ['not at all', {}, undefined],
    ['by what is advertised', { six: 'slaac' }, { address: '2001:db8:f1::ff:fe00:1', gateway: 'fe80::1', since: 0 }],
    [
      'for a prefix',
      { six: 'prefix' },
      { address: '2001:db8:f1::ff:fe00:1', gateway: 'fe80::1', prefix: '2001:db8:700::/56', since: 0 },
    ],
    [
      'with another MAC address',
      { six: 'slaac', mac: '02:00:00:00:00:99' },
      expect.objectContaining({ address: '2001:db8:f1::ff:fe00:99' }),
    ],
    [
      'as was agreed on',
      { six: 'static', fixed6: { address: '2001:db8:f1::9/64', gateway: 'fe80::1' } },
      { address: '2001:db8:f1::9', gateway: 'fe80::1', since: 0 },
    ],
    [
      'otherwise than was agreed on',
      { six: 'static', fixed6: { address: '2001:db8:f1::8/64', gateway: 'fe80::1' } },
      { address: null, why: 'Nobody answers at the IPv6 gateway.', since: 0 },
    ],
    ['where it has no address at all', { six: 'slaac', vlan: 9 }, expect.objectContaining({ address: null })],
  ] as const)('%s', (_what, uplink, told) => {
    expect(setUp(uplink).six()[0]).toEqual(told);
  });

  test('for a prefix that its provider delegates to nobody', () => {
    expect(setUp({}, { six: 'prefix' }).six()[1]).toMatchObject({ why: 'The provider delegates no prefix.' });
  });

  test('and has it anew when its link is back', () => {
    const { providers, paths, six } = setUp({ six: 'prefix' });
    providers.set('Tidewire', { up: false });
    paths.look(1000);
    expect(six()[0]).toMatchObject({ address: null, since: 1000 });
    providers.set('Tidewire', { up: true });
    paths.look(2000);
    expect(six()[0]).toMatchObject({ prefix: '2001:db8:700::/56', since: 2000 });
  });
});

describe('what is inside leaves by IPv6', () => {
  test('by the uplink that its prefix came from, as itself, also while others are used', () => {
    const { by, seenAs } = setUp({ six: 'prefix', standby: 1 }, { six: 'slaac', weight: 1 });
    expect(by('2001:db8:700:10::5')).toBe('wan1');
    expect(seenAs('2001:db8:700:10::5')).toBe('2001:db8:700:10::5');
  });

  test('by none once that is gone: no other provider carries it', () => {
    const { by, providers, paths } = setUp({ six: 'prefix' }, { six: 'slaac' });
    providers.set('Tidewire', { up: false });
    paths.look(1000);
    expect(by('2001:db8:700:10::5')).toBe('none');
    expect(by('fd00::5')).toBe('wan2, and back by none');
    providers.set('Tidewire', { up: true });
    paths.look(2000);
    paths.checkAll(3000);
    paths.checkAll(30_000);
    paths.checkAll(60_000);
    expect(by('2001:db8:700:10::5')).toBe('wan1');
  });

  test('with an address of nobody’s prefix it leaves, and nothing comes back; without any IPv6 it does not leave', () => {
    expect(setUp({ six: 'prefix' }).by('fd00::5')).toBe('wan1, and back by none');
    expect(setUp({}).by('2001:db8:700:10::5')).toBe('none');
    // Advertised alone, nothing is led to what is behind it.
    expect(setUp({ six: 'slaac' }).by('2001:db8:700:10::5')).toBe('wan1, and back by none');
  });
});
