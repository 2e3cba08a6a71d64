import { expect, test } from 'vitest';
import type { ApDocument, GatewayDocument, SwitchDocument } from '@iron-lattice/core/document';
import type { PolicyDocument } from '@iron-lattice/core/rules';
import { factory, SMALL_WORLD } from './small-world.fixture';
import { World } from './world';
import type { WorldFile } from './world-file';

const FILE: WorldFile = {
  ...SMALL_WORLD,
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' }, mbps: [2000, 2000] }],
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
  clients: [
    { mac: '02:00:00:00:01:01', near: 'A', ssid: 'Deck', offers: ['tcp 80'] },
    // Beside it by cable, in the same segment.
    { mac: '02:00:00:00:01:02', at: 'SW:3', offers: ['tcp 80'] },
  ],
};
const face = (vlan: number, third: number) => ({ vlan, name: `VLAN ${vlan}`, address: `10.0.${third}.1/24` });
const service = (vlan: number, third: number) => ({
  ...{ vlan, subnet: `10.0.${third}.0/24`, first: `10.0.${third}.20`, last: `10.0.${third}.99` },
  ...{ gateway: `10.0.${third}.1`, dns: [], leaseSeconds: 3600 },
});
const gatewayDocument: GatewayDocument = {
  ...(factory('GW') as GatewayDocument),
  ports: [{ name: '1', untagged: 1, tagged: [7] }],
  interfaces: [face(1, 1), face(7, 7)],
  addressServices: [service(1, 1), service(7, 7)],
  tunnels: { from: ['10.0.1.0/24'], vlans: [7], mtu: 1458 },
};
/** No port towards the AP carries VLAN 7; one for a client does, and the one to the gateway. */
const switchDocument: SwitchDocument = {
  ...(factory('SW') as SwitchDocument),
  ports: [
    { name: '1', untagged: 1, tagged: [] },
    { name: '3', untagged: 7, tagged: [] },
    { name: '9', untagged: 1, tagged: [7] },
  ],
};
const apDocument: ApDocument = {
  ...(factory('A') as ApDocument),
  radios: [{ band: '5', at: { channel: 36, width: 80, centre: 42 }, power: 23 }],
  ssids: [{ id: 's', name: 'Deck', security: 'open', bands: ['5'], vlan: 7, tunnel: true }],
  tunnel: { to: '10.0.1.1', mtu: 1458 },
};

function running({ gw = {}, sw = {}, ap = {} }: { gw?: object; sw?: object; ap?: object } = {}): World {
  const world = new World(structuredClone(FILE));
  world.run('SW', { ...switchDocument, ...sw }, {});
  world.run('GW', { ...gatewayDocument, ...gw }, {});
  world.run('A', { ...apDocument, ...ap }, {});
  return world;
}
const addressOf = (world: World) => world.clientsOf('A')[0]?.address ?? null;
const listOf = (protocol: 'any' | number, from = '10.0.1.0/24'): PolicyDocument => ({
  otherwise: 'allow',
  rules: [{ id: 'r', name: 'stop', verdict: 'deny', from: [from], to: ['any'], services: [{ protocol }] }],
});

test('a client gets its segment through the tunnel, though no port towards its AP carries the VLAN', () => {
  const world = running();
  expect(addressOf(world)).toMatch(/^10\.0\.7\.\d+$/);
  expect(world.tunnelOf('A')).toEqual({ to: '10.0.1.1', answers: true });
  // Without the tunnel it gets nothing there.
  const { tunnel: _tunnel, ...rest } = apDocument;
  const cabled = running();
  cabled.run('A', { ...rest, ssids: apDocument.ssids.map(({ tunnel: _none, ...ssid }) => ssid) }, {});
  expect(addressOf(cabled)).toBeNull();
  expect(cabled.tunnelOf('A')).toBeNull();
});

test.each([
  ['takes no such key', { gw: { tunnels: { from: ['10.0.1.0/24'], vlans: [8], mtu: 1458 } } }, true],
  ['takes nothing from there', { gw: { tunnels: { from: ['10.9.0.0/24'], vlans: [7], mtu: 1458 } } }, false],
  ['was told of no tunnels', { gw: { tunnels: undefined } }, false],
  ['has another address', { ap: { tunnel: { to: '10.0.1.9', mtu: 1458 } } }, false],
  ['is kept from the packets by its own rules', { gw: { policy: listOf(47) } }, false],
  ['is not reached', { sw: { ports: switchDocument.ports.filter(({ name }) => name !== '9') } }, false],
  ['is kept from them by a switch', { sw: { list: listOf(47) } }, false],
])('a gateway that %s leaves the client without an address', (_what, told, answers) => {
  const world = running(told);
  expect(addressOf(world)).toBeNull();
  expect(world.tunnelOf('A')).toEqual({ to: expect.any(String) as string, answers });
});

test('one that has no power is silent, and answers again when it is back', () => {
  const world = running();
  world.power('GW', false);
  expect([addressOf(world), world.tunnelOf('A')?.answers]).toEqual([null, false]);
  world.power('GW', true);
  expect([addressOf(world) !== null, world.tunnelOf('A')?.answers]).toEqual([true, true]);
});

test('who is beside it on a cable is reached by way of the gateway, and switches judge only what is not in a tunnel', () => {
  const web = { does: 'connect' as const, protocol: 'tcp' as const, number: 80, ssid: 'Deck' };
  const world = running();
  const wired = world.wiredOf('SW').find(({ port }) => port === '3')!;
  const target = world.leasesOf('GW').find(({ mac }) => mac === wired.mac)!.address;
  expect(world.asking.try('A', web, target)).toMatchObject({ ok: true });
  const list = listOf('any', '10.0.7.0/24');
  const judged = running({ sw: { list } });
  judged.wiredOf('SW');
  // Between the gateway and the neighbour's port the frames are as they are.
  expect(judged.asking.try('A', web, target)).toMatchObject({ ok: false, stoppedBy: 'stop' });
  expect(judged.asking.try('A', web, '198.51.100.81')).toMatchObject({ ok: true });
});

test('a test of speed goes through it, gets what its frames leave of the cable, and says where it ends', () => {
  const probe = { ...{ band: '5' as const, metres: 1, phy: 'HE' as const, streams: 4, width: 80 }, ssid: 's' };
  const slow = () => running({ ap: { ports: apDocument.ports.map((port) => ({ ...port, speed: 100 })) } });
  const inside = slow().trySpeed('A', probe).speed!;
  const { ssid: _none, ...alone } = probe;
  const outside = slow().trySpeed('A', alone).speed!;
  expect([inside.narrowest, outside.narrowest]).toEqual(['cable', 'cable']);
  expect(inside.down / outside.down).toBeCloseTo(1418 / 1460, 6);
  expect(running({ gw: { tunnels: undefined } }).trySpeed('A', probe)).toMatchObject({
    ok: false,
    text: 'Nothing gets through its tunnel and on to the internet.',
  });
  const cabled = { ssids: [{ ...apDocument.ssids[0]!, tunnel: undefined }] };
  expect(running({ ap: cabled }).trySpeed('A', probe).text).toBe('Nothing gets through from VLAN 7 to the internet.');
});
