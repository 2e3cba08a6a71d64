import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { SwitchDocument } from '@iron-lattice/core/document';
import { readTimes } from '@iron-lattice/core/rules';
import { factory, SMALL_WORLD } from './small-world.fixture';
import { World } from './world';
import type { WorldFile } from './world-file';

const [TILL, LAPTOP] = ['0e:00:00:00:00:01', '0e:00:00:00:00:02'];
const FILE: WorldFile = {
  ...SMALL_WORLD,
  clients: [
    { mac: TILL, at: 'SW:3', watts: 5 },
    { mac: LAPTOP, at: 'SW:4' },
  ],
};
const minutes = (count: number): void => void vi.advanceTimersByTime(count * 60_000);

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

function setUp(now: string) {
  vi.setSystemTime(new Date(now));
  const told: string[] = [];
  const world = new World(structuredClone(FILE));
  world.onChange((serials) => told.push(...serials));
  const office = { name: 'Office', times: readTimes('Mon-Fri 08:00-18:00')!, closed: ['2026-12-25'] };
  const sw = factory('SW') as SwitchDocument;
  const site = { ...sw.site, timeZone: 'Europe/Dublin' };
  const timed = (name: string): object => (name === '1' || name === '3' ? { hours: office } : {});
  world.run('GW', factory('GW'), {});
  world.run('SW', { ...sw, site, ports: sw.ports.map((port) => ({ ...port, ...timed(port.name) })) }, {});
  told.length = 0;
  const port = (name: string) => world.portsOf('SW').find((each) => each.port === name);
  return {
    world,
    told,
    port,
    wired: () => world.wiredOf('SW').map(({ mac }) => mac),
    answers: () => world.asking.try('SW', { does: 'ping', port: '3' }, '198.51.100.80'),
  };
}

test('at other times nothing passes a port, and it gives no power; other ports go on', () => {
  const { world, told, port, wired, answers } = setUp('2026-11-27T17:50:00Z'); // a Friday
  expect(wired()).toEqual([TILL, LAPTOP]);
  expect(port('3')).toMatchObject({ up: true, watts: 5 });
  expect(world.reachesController('A')).toBe(true);
  expect(answers().ok).toBe(true);
  minutes(11);
  expect(told).toContain('SW');
  expect(wired()).toEqual([LAPTOP]);
  expect(port('3')).toEqual({ port: '3', up: false });
  expect(answers()).toEqual({ ok: false, text: 'Port 3 is not in use at this time.' });
  // What hangs there is cut off, and neither end hears the other.
  expect(world.reachesController('A')).toBe(false);
  expect([...world.neighboursOf('A'), ...world.neighboursOf('SW')].map((each) => each.port)).toEqual(['9']);
  minutes(62 * 60); // Monday, 08:01
  expect(wired()).toEqual([TILL, LAPTOP]);
  expect(world.reachesController('A')).toBe(true);
});

test('a day that is left out is none of them', () => {
  const { wired } = setUp('2026-12-24T10:00:00Z');
  expect(wired()).toContain(TILL);
  minutes(24 * 60);
  expect(wired()).not.toContain(TILL);
});
