import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { ApDocument, MeshDocument, SwitchDocument } from '@iron-lattice/core/document';
import { factoryDocument } from './factory-document';
import { World } from './world';
import type { WorldFile } from './world-file';

beforeEach(() => vi.useFakeTimers({ now: new Date('2026-11-28T12:00:00Z') }));
afterEach(() => vi.useRealTimers());

const KEY = { secret: 'between' };
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'SW', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
    ...['A', 'B', 'C'].map((serial, i) => {
      return { serial, model: 'AP-6', mac: `02:00:00:00:00:1${i}`, firmware: '1' };
    }),
  ],
  cables: [
    ['GW:1', 'SW:9'],
    ['SW:1', 'A:lan'],
    ['SW:2', 'B:lan'],
    ['SW:3', 'C:lan'],
  ],
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' } }],
  // A, B and C in a row: B hears both, A and C hear each other weakly.
  air: { places: { A: [0, 0, 3], B: [20, 0, 3], C: [40, 0, 3] }, hurry: 0.001 },
  clients: [],
};
const factory = (serial: string) => factoryDocument(FILE.devices.find((each) => each.serial === serial)!);

function setUp(mesh: Readonly<Record<string, MeshDocument>>, keys: Readonly<Record<string, string>> = {}) {
  const world = new World(structuredClone(FILE));
  const sw = factory('SW') as SwitchDocument;
  world.run('SW', { ...sw, ports: sw.ports.map((port) => ({ ...port, untagged: 1 })) }, {});
  const run = (serial: string, told: MeshDocument | undefined): void => {
    const ap = factory(serial) as ApDocument;
    const document: ApDocument = {
      ...ap,
      ports: [...ap.ports, { name: 'mesh', untagged: 1, tagged: [] }],
      radios: [{ band: '5', at: { channel: 44, width: 40, centre: 46 }, power: 20 }],
      ssids: [{ id: 's', name: 'Deck', security: 'wpa3-sae', passphrase: { secret: 'p' }, bands: ['5'], vlan: 1 }],
      ...(told ? { mesh: told } : {}),
    };
    world.run(serial, document, { p: 'a pass phrase', between: keys[serial] ?? 'one key' });
  };
  for (const [serial, told] of Object.entries(mesh)) run(serial, told);
  const on = (serial: string): string | null => {
    const parent = world.meshOf(serial)?.parent;
    return FILE.devices.find(({ mac }) => mac === parent)?.serial ?? null;
  };
  return { world, on, run };
}
const carries: MeshDocument = { key: KEY, carries: true };
const hang = (when: 'always' | 'fallback', more: object = {}): MeshDocument => ({
  key: KEY,
  hang: { when, band: '5', hops: 2, ...more },
});

test('one that hangs when its cable fails does, and comes back to its cable', () => {
  const { world, on } = setUp({ A: carries, B: carries, C: hang('fallback') });
  expect(on('C')).toBeNull();
  world.pull('C', true);
  expect(on('C')).toBe('B');
  expect(world.reachesController('C')).toBe(true);
  expect(world.neighboursOf('C')).toEqual([
    { port: 'mesh', chassis: '02:00:00:00:00:11', theirPort: 'mesh', hangs: true },
  ]);
  expect(world.neighboursOf('B')).toContainEqual({ port: 'mesh', chassis: '02:00:00:00:00:12', theirPort: 'mesh' });
  expect(world.wayOut('C')?.port).toBe('mesh');
  world.pull('C', false);
  expect(on('C')).toBeNull();
  expect(world.neighboursOf('C')).toHaveLength(1);
});

test('one that always hangs leaves its cable alone, sends where its parent does, and takes the cable when nobody takes it', () => {
  const { world, on, run } = setUp({ A: carries, B: carries, C: { ...hang('always'), carries: true } });
  expect(on('C')).toBe('B');
  expect(world.meshOf('C')).toMatchObject({ band: '5', channel: 44, width: 40, hops: 1 });
  world.power('SW', false);
  expect(world.reachesController('C')).toBe(false); // B and A hang on that switch
  world.power('SW', true);
  run('B', undefined);
  expect(on('C')).toBe('A');
  run('A', undefined);
  expect([on('C'), world.reachesController('C')]).toEqual([null, true]);
});

test('over two hops, no farther than is allowed, and not past those that are named', () => {
  const { world, on } = setUp({
    A: carries,
    B: { ...hang('always'), carries: true },
    C: hang('always', { parents: ['B'] }),
  });
  world.pull('B', true);
  world.pull('C', true);
  expect([on('B'), on('C')]).toEqual(['A', 'B']);
  expect(world.meshOf('C')!.hops).toBe(2);
  expect(world.reachesController('C')).toBe(true);
  const near = setUp({
    A: carries,
    B: { ...hang('always'), carries: true },
    C: hang('always', { hops: 1, parents: ['B'] }),
  });
  near.world.pull('C', true);
  expect([near.on('C'), near.world.reachesController('C')]).toEqual([null, false]);
});

test('nobody takes one with another key, and whoever hangs is away with what it hangs on', () => {
  const strange = setUp({ A: carries, B: carries, C: hang('always') }, { C: 'another' });
  strange.world.pull('C', true);
  expect(strange.on('C')).toBeNull();
  const { world, on } = setUp({ B: carries, C: hang('always') });
  world.pull('C', true);
  const told: string[][] = [];
  world.onChange((serials) => told.push(serials));
  world.power('B', false);
  expect([on('C'), world.reachesController('C')]).toEqual([null, false]);
  expect(told.flat()).toContain('C');
  world.power('B', true);
  expect([on('C'), world.reachesController('C')]).toEqual(['B', true]);
  const byRadio = () => world.neighboursOf('B').filter(({ port }) => port === 'mesh');
  expect(byRadio()).toHaveLength(1);
  world.power('C', false);
  expect([on('C'), byRadio()]).toEqual([null, []]);
});

test('each hop takes of the speed, and where that is the narrowest it is said', () => {
  const { world } = setUp({
    A: carries,
    B: { ...hang('always'), carries: true },
    C: hang('always', { parents: ['B'] }),
  });
  const asked = { band: '5', metres: 3, phy: 'HE', streams: 2, width: 80 } as const;
  const got = (serial: string) => world.trySpeed(serial, asked).speed!;
  const [cabled, once, twice] = [got('A'), got('B'), got('C')];
  expect(cabled.narrowest).not.toBe('mesh');
  expect(once.narrowest).toBe('mesh');
  expect(once.down).toBeLessThan(cabled.down * 0.7);
  expect(twice.down).toBeLessThan(once.down);
  expect(twice.latency).toBeGreaterThan(cabled.latency);
});
