import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { ApDocument, HoursDocument } from '@iron-lattice/core/document';
import { readTimes } from '@iron-lattice/core/rules';
import { factoryDocument } from './factory-document';
import { World } from './world';
import type { AirClient, WorldFile } from './world-file';

const MAC = '0e:00:00:00:00:01';
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [{ serial: 'A', model: 'AP-6', mac: '02:00:00:00:00:10', firmware: '1' }],
  cables: [],
  providers: [],
  air: { places: { A: [0, 0, 3], [MAC]: [3, 0, 1] } },
  clients: [{ mac: MAC, near: 'A', ssid: 'Deck', bands: ['5'] }],
};
const minutes = (count: number): void => void vi.advanceTimersByTime(count * 60_000);

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

/** An AP in Dublin that sends an open SSID at hours, from a moment on. */
function setUp(now: string, said: Partial<HoursDocument>) {
  vi.setSystemTime(new Date(now));
  const told: string[] = [];
  const world = new World(structuredClone(FILE));
  world.onChange((serials) => told.push(...serials));
  const ap = factoryDocument(FILE.devices[0]!) as ApDocument;
  const hours = { name: 'Office', times: [], ...said };
  const ssid = { id: 's', name: 'Deck', security: 'open' as const, bands: ['5' as const], vlan: 7, hours };
  const site = { ...ap.site, timeZone: 'Europe/Dublin' };
  const radios = [{ band: '5' as const, at: { channel: 36, width: 20, centre: 36 }, power: 20 }];
  world.run('A', { ...ap, site, radios, ssids: [ssid] }, {});
  told.length = 0;
  return { told, joined: () => world.clientsOf('A').length === 1 };
}

test('outside its hours an SSID is not on the air: its clients lose it, and have it again', () => {
  const { told, joined } = setUp('2026-11-27T17:50:00Z', { times: readTimes('Mon-Fri 08:00-18:00')! }); // a Friday
  expect(joined()).toBe(true);
  minutes(9);
  expect([joined(), told]).toEqual([true, []]);
  minutes(2);
  expect([joined(), told]).toEqual([false, ['A']]);
  minutes(62 * 60);
  expect(joined()).toBe(true); // Monday, 08:01
});

test('hours are those of the site’s clock, also when it is put forward', () => {
  // In Dublin clocks go from 01:00 to 02:00 on 28 March 2027.
  const { joined } = setUp('2027-03-27T07:45:00Z', { times: readTimes('08:00-09:00')! });
  expect(joined()).toBe(false);
  minutes(20);
  expect(joined()).toBe(true);
  minutes(60);
  expect(joined()).toBe(false);
  minutes(22 * 60); // 07:05 by the sun, 08:05 by the clock
  expect(joined()).toBe(true);
});

test('an old passphrase is right until the end of its day, by the site’s clock, and who gives it is told', () => {
  vi.setSystemTime(new Date('2026-07-31T20:00:00Z'));
  const file = structuredClone(FILE);
  const [client] = file.clients;
  const world = new World({
    ...file,
    clients: [{ ...(client as AirClient), passphrase: 'the one before', bands: ['5', '6'] }],
  });
  const ap = factoryDocument(FILE.devices[0]!) as ApDocument;
  const ssid = { id: 's', name: 'Deck', security: 'wpa2-wpa3-psk' as const, bands: ['5' as const], vlan: 7 };
  const former = { passphrase: { secret: 'old' }, until: '2026-07-31' };
  const site = { ...ap.site, timeZone: 'Europe/Dublin' };
  const radios = [{ band: '5' as const, at: { channel: 36, width: 20, centre: 36 }, power: 20 }];
  const run = (more: object): void =>
    world.run(
      'A',
      { ...ap, site, radios, ssids: [{ ...ssid, passphrase: { secret: 'new' }, ...more }] },
      { old: 'the one before', new: 'the one after' },
    );
  run({});
  expect(world.clientsOf('A')).toEqual([]);
  expect(world.refusedOf('A')).toMatchObject([{ why: 'passphrase' }]);
  run({ former });
  expect(world.clientsOf('A')).toMatchObject([{ mac: MAC, band: '5', former: true }]);
  minutes(2 * 60 + 50); // 23:50 in Dublin
  expect(world.clientsOf('A')).toHaveLength(1);
  const told: string[] = [];
  world.onChange((serials) => told.push(...serials));
  minutes(20);
  expect([world.clientsOf('A'), told]).toEqual([[], ['A']]);
  expect(world.refusedOf('A')).toMatchObject([{ why: 'passphrase' }]);
});

test('on days that are left out it is not on the air at all', () => {
  const { joined } = setUp('2026-12-24T10:00:00Z', { times: readTimes('08:00-18:00')!, closed: ['2026-12-25'] });
  expect(joined()).toBe(true);
  minutes(24 * 60);
  expect(joined()).toBe(false);
  minutes(24 * 60);
  expect(joined()).toBe(true);
});
