import { afterEach, expect, test, vi } from 'vitest';
import type { ApDocument, SsidDocument } from '@iron-lattice/core/document';
import { factoryDocument } from './factory-document';
import { World } from './world';
import type { WorldClient, WorldFile } from './world-file';

const MAC = '0e:00:00:00:00:01';
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'SW', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
    ...['A', 'B', 'C'].map((serial, i) => {
      return { serial, model: 'AP-6', mac: `02:00:00:00:00:1${i}`, firmware: '1' };
    }),
  ],
  cables: [
    ['SW:1', 'A:lan'],
    ['SW:2', 'B:lan'],
    ['SW:3', 'C:lan'],
  ],
  providers: [],
  // The client stands by A; B is next to it, C far away.
  air: { places: { A: [0, 0, 3], B: [25, 0, 3], C: [90, 0, 3], [MAC]: [3, 0, 1] }, hurry: 0.001 },
  clients: [{ mac: MAC, near: 'A', ssid: 'Deck', passphrase: 'a pass phrase', bands: ['5'] }],
};

function setUp(more: readonly WorldClient[] = []) {
  const world = new World(structuredClone({ ...FILE, clients: [...more, ...FILE.clients] }));
  const run = (
    serial: string,
    channel: number | null,
    passphrase = 'a pass phrase',
    said: Partial<SsidDocument> = {},
  ): void => {
    const ap = factoryDocument(FILE.devices.find((each) => each.serial === serial)!) as ApDocument;
    const at = channel === null ? { off: true as const } : { at: { channel, width: 20, centre: channel }, power: 20 };
    const ssid = { id: 's', name: 'Deck', security: 'wpa3-sae' as const, bands: ['5' as const], vlan: 1 };
    const document: ApDocument = {
      ...ap,
      radios: [{ band: '5', ...at }],
      ssids: [{ ...ssid, passphrase: { secret: 'p' }, ...said }],
    };
    world.run(serial, document, { p: passphrase });
  };
  const where = () => ['A', 'B', 'C'].filter((serial) => world.clientsOf(serial).some(({ mac }) => mac === MAC));
  for (const [serial, channel] of [
    ['A', 36],
    ['B', 44],
    ['C', 40],
  ] as const)
    run(serial, channel);
  return { world, run, where };
}

test('a client whose AP goes off the air takes the loudest that it hears, and comes back to its own, since when is told anew', () => {
  const { world, run, where } = setUp();
  expect(where()).toEqual(['A']);
  run('A', null);
  expect(where()).toEqual(['B']);
  expect(world.refusedOf('A')).toEqual([]);
  expect(world.clientsOf('B')[0]!.signal).toBeLessThan(-50);
  run('A', 36);
  expect(where()).toEqual(['A']);
  world.power('A', false);
  expect(where()).toEqual(['B']);
});

test('it does not take one that does not know it, nor one that is too far, and says then why its own does not take it', () => {
  const { world, run, where } = setUp();
  run('B', 44, 'another pass phrase');
  run('A', null);
  expect(where()).not.toContain('B');
  run('C', null);
  expect(where()).toEqual([]);
  expect(world.refusedOf('A').concat(world.refusedOf('C'))).toMatchObject([{ mac: MAC, why: 'off' }]);
});

test('who falls below what an SSID asks for looks elsewhere; who is there may fall further than who comes', async () => {
  const { world, run, where } = setUp();
  const { signal } = world.clientsOf('A')[0]!;
  run('A', 36, undefined, { join: signal! + 1, stay: signal! });
  expect(where()).toEqual(['A']);
  vi.useFakeTimers();
  world.disconnect('A', MAC);
  expect(where()).toEqual([]);
  // It comes back, is not taken in, and finds another that asks for less.
  await vi.advanceTimersByTimeAsync(1000);
  expect(where()).toEqual(['B']);
});

afterEach(() => vi.useRealTimers());

test('where no other takes it, its own says that it is heard too low', () => {
  const { world, run, where } = setUp();
  run('B', null);
  run('C', null);
  const { signal } = world.clientsOf('A')[0]!;
  run('A', 36, undefined, { join: signal! + 5, stay: signal! + 2 });
  expect(where()).toEqual([]);
  expect(world.refusedOf('A')).toMatchObject([{ mac: MAC, why: 'low' }]);
});

test('of as many clients as a radio may have, those stay that are there', () => {
  const other = '0e:00:00:00:00:00';
  const { world, run } = setUp([{ ...FILE.clients[0]!, mac: other }]);
  const at = () => world.clientsOf('A').map(({ mac }) => mac);
  world.walk(other, 'C');
  expect(at()).toEqual([MAC]);
  run('A', 36, undefined, { most: 1 });
  run('C', null);
  world.walk(other, 'A');
  expect(at()).toEqual([MAC]);
  expect([...world.refusedOf('A'), ...world.clientsOf('B')]).toMatchObject([{ mac: other }]);
});
