import type { GatewayDocument, RouteDocument } from '@iron-lattice/core/document';
import { parseIp } from '@iron-lattice/core/address';
import { expect, test } from 'vitest';
import { factoryDocument } from './factory-document';
import { World } from './world';
import type { WorldFile } from './world-file';

const ROUTER = '0e:00:00:00:00:01';
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [{ serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' }],
  cables: [],
  providers: [
    { name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' } },
    { name: 'Hillcrest Line', gives: { 'GW:wan2': '198.51.100.9' } },
  ],
  clients: [
    {
      ...{ mac: ROUTER, at: 'GW:1', name: 'works-router' },
      behind: [{ prefix: '172.20.0.0/16', offers: ['tcp 443'] }],
    },
    { mac: '0e:00:00:00:00:02', at: 'GW:2', name: 'till' },
  ],
};

function setUp(routes: readonly RouteDocument[]): World {
  const world = new World(FILE);
  const document = factoryDocument(FILE.devices[0]!) as GatewayDocument;
  world.run(
    'GW',
    {
      ...document,
      ports: document.ports.map((port) => ({ ...port, untagged: 10 })),
      interfaces: [{ vlan: 10, name: 'Crew', address: '10.9.10.1/24' }],
      addressServices: [
        {
          ...{ vlan: 10, subnet: '10.9.10.0/24', first: '10.9.10.20', last: '10.9.10.30', gateway: '10.9.10.1' },
          ...{ dns: [], leaseSeconds: 600, reservations: [{ mac: ROUTER, address: '10.9.10.20', name: 'works' }] },
        },
      ],
      uplinks: [
        { port: 'wan1', method: 'dhcp', translate: true },
        { port: 'wan2', method: 'dhcp', translate: true },
      ],
      routes,
    },
    {},
  );
  world.lease({ box: world.box('GW'), vlan: 10 }, ROUTER);
  return world;
}
/** What somebody at a port of the gateway finds at an address. */
function finds(world: World, target: string, number = 443) {
  const { ok, text, stoppedBy } = world.asking.try(
    'GW',
    { does: 'connect', port: '2', protocol: 'tcp', number },
    target,
  );
  const trace = world.asking.try('GW', { does: 'trace', port: '2' }, target).text;
  const hops = trace.split('\n').flatMap((line) => (line.includes('nobody') ? [] : [line.split('  ')[1]]));
  return { ok, text, stoppedBy, hops };
}

test('a neighbour hands on what is for the networks behind it, and nothing else', () => {
  const world = setUp([{ name: 'Works', prefix: '172.16.0.0/12', to: '10.9.10.20' }]);
  expect(finds(world, '172.20.3.4')).toMatchObject({
    ...{ ok: true, text: expect.stringContaining('172.20.3.4 answers, behind 10.9.10.20.') },
    hops: ['10.9.10.1', '10.9.10.20', '172.20.3.4'],
  });
  expect(finds(world, '172.20.3.4', 22)).toMatchObject({ ok: false, text: expect.stringContaining('offers nothing') });
  expect(finds(world, '172.21.0.1')).toMatchObject({
    ...{ ok: false, stoppedBy: 'Works', text: expect.stringContaining('10.9.10.20 hands nothing on to 172.21.0.1.') },
    hops: ['10.9.10.1', '10.9.10.20'],
  });
  // Without the route nobody has it.
  expect(finds(setUp([]), '172.20.3.4')).toMatchObject({
    ok: false,
    text: expect.stringContaining('Nobody has 172.20.3.4.'),
  });
  const nobody = finds(setUp([{ name: 'Works', prefix: '172.16.0.0/12', to: '10.9.10.99' }]), '172.20.3.4');
  expect(nobody.text).toContain('goes to 10.9.10.99, which is nobody’s');
});

test('what leads nowhere is dropped, the longest prefix decides, and one that is on no link counts for nothing', () => {
  const world = setUp([
    { name: 'Closed', prefix: '198.51.100.0/24' },
    { name: 'But one', prefix: '198.51.100.80/32', by: 'wan2' },
    { name: 'Lost', prefix: '203.0.113.0/24', to: '10.8.0.1' },
  ]);
  const dropped = finds(world, '198.51.100.81');
  expect(dropped).toMatchObject({ ok: false, stoppedBy: 'Closed' });
  expect(dropped.text).toContain('nothing for 198.51.100.0/24 goes on');
  expect(finds(world, '198.51.100.80').ok).toBe(true);
  expect(finds(world, '203.0.113.80').ok).toBe(true);
});

test('what goes by a route is carried, and no part of what uplinks share', () => {
  const world = setUp([{ name: 'Works', prefix: '198.51.100.0/24', by: 'wan2' }]);
  const wan2 = () =>
    world.paths
      .of(world.box('GW'))!
      .report()
      .uplinks.find(({ port }) => port === 'wan2')!;
  const before = wan2();
  for (let i = 1; i < 20; i++) finds(world, `198.51.100.${i}`);
  expect(wan2().sessions).toBe(before.sessions);
  expect(wan2().octets!.down).toBeGreaterThan(before.octets!.down);
});

test('a route by an uplink leaves there while that is good, then by the next that is said', () => {
  const route = { name: 'Works', prefix: '198.51.100.0/24', by: 'wan2' };
  const by = (world: World, target: string) => finds(world, target).hops[1];
  const world = setUp([route, { name: 'Not else', prefix: '198.51.100.0/24', metric: 9 }]);
  const [usual, said] = [by(world, '203.0.113.80'), by(world, '198.51.100.80')];
  expect(usual).toBeDefined();
  expect(said).toBeDefined();
  expect(said).not.toBe(usual);
  world.provider('Hillcrest Line', false);
  expect(finds(world, '198.51.100.80')).toMatchObject({ ok: false, stoppedBy: 'Not else' });
  const alone = setUp([route]);
  alone.provider('Hillcrest Line', false);
  expect(by(alone, '198.51.100.80')).toBe(usual);
});

test('a route is there while what it tracks answers, and another stands in; what became of it is told', () => {
  const world = setUp([
    { name: 'Works', prefix: '172.20.0.0/16', to: '10.9.10.20', tracks: '172.20.0.1' },
    { name: 'Works by cable', prefix: '172.20.0.0/16', by: 'wan2', metric: 10 },
  ]);
  const paths = world.paths.of(world.box('GW'))!;
  const told = () => paths.toldTo(parseIp('172.20.3.4')!)?.kind;
  const ask = (times: number): void => {
    for (let i = 0; i < times; i++) world.paths.askOnward(1000 * i);
  };
  ask(3);
  expect(told()).toBe('neighbour');
  world.hush(ROUTER, true);
  expect(finds(world, '172.20.3.4').text).toContain('goes to 10.9.10.20, which does not answer');
  ask(2);
  expect(told()).toBe('neighbour'); // a question or two may get lost
  ask(1);
  expect(told()).toBe('uplink');
  expect(paths.report().routes).toMatchObject([{ name: 'Works', up: false }]);
  expect(paths.report().changes.at(-1)).toMatchObject({ what: 'route-gone', of: 'Works' });
  world.hush(ROUTER, false);
  ask(2);
  expect(told()).toBe('uplink');
  ask(1);
  expect(told()).toBe('neighbour');
  expect(paths.report().changes.at(-1)).toMatchObject({ what: 'route-back', of: 'Works' });
  // What nobody behind it answers for is not believed either, and one that is not tracked is there whatever happens.
  const astray = setUp([{ name: 'Works', prefix: '172.20.0.0/14', to: '10.9.10.20', tracks: '172.21.0.1' }]);
  for (let i = 0; i < 3; i++) astray.paths.askOnward(i);
  expect(astray.paths.of(astray.box('GW'))!.toldTo(parseIp('172.20.3.4')!)).toBeNull();
});

test('a route by an uplink is tracked by asking through that very uplink', () => {
  const world = setUp([{ name: 'Works', prefix: '198.51.100.0/24', by: 'wan2', tracks: '198.51.100.77' }]);
  const paths = world.paths.of(world.box('GW'))!;
  for (let i = 0; i < 3; i++) world.paths.askOnward(i);
  expect(paths.report().routes).toMatchObject([{ up: true }]);
  world.provider('Hillcrest Line', false);
  for (let i = 0; i < 3; i++) world.paths.askOnward(i);
  expect(paths.report().routes).toMatchObject([{ up: false }]);
});
