import type { ApDocument, GatewayDocument, RadiusServerDocument, SwitchDocument } from '@iron-lattice/core/document';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { checkDirectory } from './directory-file';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const [GATE, STRANGER, PHONE] = ['0e:c4:60:00:00:01', '0e:c4:60:00:00:99', '0e:c4:60:00:00:02'];
const [first, second] = [
  { name: 'first.test.example', address: '198.51.100.90', port: 1812, accounting: 1813, secret: SECRET },
  { name: 'second.test.example', address: '198.51.100.91', port: 1812, accounting: 1813, secret: SECRET },
];
const directory = checkDirectory({
  ...DIRECTORY,
  servers: [first, second],
  macs: { ...DIRECTORY.macs, [PHONE]: { filterId: 'tills', session: 0 } },
});
const world = new World({
  ...structuredClone(SMALL_WORLD),
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
  clients: [
    { mac: GATE, at: 'SW:3' },
    { mac: STRANGER, at: 'SW:4' },
    { mac: PHONE, near: 'A', ssid: 'Deck' },
    { mac: '0e:c4:60:00:00:03', near: 'A', ssid: 'Deck' },
  ],
});
const desk = new EntryDesk(world, directory);
const [one, two] = desk.standIns as [(typeof desk.standIns)[number], (typeof desk.standIns)[number]];
beforeAll(() => desk.listen(0));
afterAll(() => desk.close());

const server = (name: string, change: Partial<RadiusServerDocument> = {}): RadiusServerDocument => ({
  ...{ name, address: `${name}.test.example`, port: 1812, secret: { secret: 's' }, order: 1 },
  ...{ timeout: 0.1, tries: 1, dead: 3600, macs: 'colon_lower', ...change },
});
const face = (vlan: number) => ({ vlan, name: `VLAN ${vlan}`, address: `10.0.${vlan}.1/24` });
const service = (vlan: number) => ({
  ...{ vlan, subnet: `10.0.${vlan}.0/24`, first: `10.0.${vlan}.20`, last: `10.0.${vlan}.99` },
  ...{ gateway: `10.0.${vlan}.1`, dns: [], leaseSeconds: 3600 },
});
const asking = (servers: readonly RadiusServerDocument[]): SwitchDocument => ({
  ...(factory('SW') as SwitchDocument),
  ports: [
    { name: '1', untagged: 1, tagged: [7] },
    { name: '3', untagged: null, tagged: [], auth: 'mac' },
    { name: '4', untagged: null, tagged: [], auth: 'mac' },
    { name: '9', untagged: 1, tagged: [7] },
  ],
  classes: [{ id: 'tills', name: 'Tills', vlan: 7, members: [] }],
  radius: { servers, segments: [{ vlan: 7, name: 'Ticketing' }] },
});
/** Runs a switch anew that asks these, once what it asks is answered. */
async function wired(...servers: RadiusServerDocument[]) {
  desk.classes.forget('SW');
  world.run('SW', asking(servers), { s: SECRET });
  await Promise.all([GATE, STRANGER].map((mac) => desk.classes.settled(world.box('SW'), mac, '3')));
  return world.wiredOf('SW').map(({ mac, vlan, named }) => [mac, vlan, named]);
}
/** Who is not known at the switch, where, and why. */
const unknown = () =>
  world
    .unknownOf('SW')
    .map(({ mac, port, why, server: by, said }) => [mac, port, why, by, said].filter(Boolean).join(' '));
beforeEach(() => {
  for (const each of desk.standIns) each.mood = null;
  world.run(
    'GW',
    {
      ...(factory('GW') as GatewayDocument),
      ports: [{ name: '1', untagged: 1, tagged: [7] }],
      interfaces: [face(1), face(7)],
      addressServices: [service(1), service(7)],
    },
    {},
  );
});

test('a client that no list has joins the class that a server chooses, and a stranger nothing', async () => {
  expect(await wired(server('first'))).toEqual([[GATE, 7, { classId: 'tills', server: 'first' }]]);
  expect(world.leasesOf('GW').map(({ mac, vlan }) => [mac, vlan])).toContainEqual([GATE, 7]);
  const seen = one.seen.length;
  world.wiredOf('SW');
  expect(one.seen).toHaveLength(seen); // what is known is not asked again
  expect(unknown()).toEqual([`${STRANGER} 4 rejected first`]);
});

test('where one does not answer the next does, and the dead one is left alone; what says no is believed', async () => {
  one.mood = 'silent';
  const [before, asked] = [two.seen.length, one.seen.length];
  const found = await wired(server('first'), server('second', { order: 2 }));
  expect(found).toEqual([[GATE, 7, { classId: 'tills', server: 'second' }]]);
  expect(two.seen.length).toBeGreaterThan(before);
  const dead = one.seen.length;
  expect(dead).toBeGreaterThan(asked);
  await desk.classes.settled(world.box('SW'), STRANGER, '4');
  expect(one.seen).toHaveLength(dead);
  one.mood = 'reject-all';
  const calm = two.seen.length;
  expect(await wired(server('first'), server('second', { order: 2 }))).toEqual([]);
  expect(two.seen).toHaveLength(calm);
});

test('a class that the device does not have lets nobody in, nor does a server that nobody reaches', async () => {
  one.mood = 'unknown-class';
  expect(await wired(server('first'))).toEqual([]);
  expect(unknown()).toEqual([`${GATE} 3 class first Nobody’s class`, `${STRANGER} 4 rejected first`]);
  one.mood = null;
  expect(await wired(server('first', { address: '10.9.9.9' }))).toEqual([]);
  expect(unknown()).toEqual([`${GATE} 3 nobody`, `${STRANGER} 4 nobody`]);
  const { radius: _radius, ...listed } = asking([]);
  world.run('SW', listed, {});
  expect(unknown()).toEqual([`${GATE} 3 unlisted`, `${STRANGER} 4 unlisted`]);
  expect(await wired(server('first', { macs: undefined }))).toEqual([]);
});

test('who was known stays so while no server answers', async () => {
  expect(await wired(server('first', { dead: 0 }))).toHaveLength(1);
  one.mood = 'silent';
  await desk.classes.settled(world.box('SW'), GATE, '3');
  expect(world.wiredOf('SW').map(({ mac }) => mac)).toEqual([GATE]);
  one.mood = 'reject-all';
  await desk.classes.settled(world.box('SW'), GATE, '3');
  expect(world.wiredOf('SW')).toEqual([]);
});

test('on an SSID that asks, whom a server knows joins that class, and others the SSID’s own segment', async () => {
  const ap: ApDocument = {
    ...(factory('A') as ApDocument),
    radios: [{ band: '5', at: { channel: 36, width: 80, centre: 42 }, power: 23 }],
    ssids: [{ id: 's', name: 'Deck', security: 'open', bands: ['5'], vlan: 1, byClass: true }],
    classes: [{ id: 'tills', name: 'Tills', vlan: 7, members: [] }],
    radius: { servers: [server('first')], segments: [] },
  };
  world.run('A', ap, { s: SECRET });
  await Promise.all([PHONE, '0e:c4:60:00:00:03'].map((mac) => desk.classes.settled(world.box('A'), mac, 'Deck')));
  const clients = world.clientsOf('A').map(({ mac, vlan, named }) => [mac, vlan, named?.server]);
  expect(clients.sort()).toEqual([
    [PHONE, 7, 'first'],
    ['0e:c4:60:00:00:03', 1, undefined],
  ]);
  expect(world.unknownOf('A').map(({ mac, ssid, why }) => [mac, ssid, why])).toEqual([
    ['0e:c4:60:00:00:03', 'Deck', 'rejected'],
  ]);
  // A session of no time does not have it asked for over and over.
  const seen = one.seen.length;
  for (let i = 0; i < 3; i++) world.clientsOf('A');
  expect(one.seen).toHaveLength(seen);
  // One that a class lists by now is known, whatever a server said before.
  world.run('A', { ...ap, classes: [{ ...ap.classes![0]!, members: ['0e:c4:60:00:00:03'] }] }, { s: SECRET });
  expect(world.unknownOf('A')).toEqual([]);
  const { attributes } = one.seen.findLast(({ user }) => user === PHONE)!;
  expect(attributes.find(({ name }) => name === 'Called-Station-Id')?.value).toMatch(/:Deck$/);
});
