import { randomUUID } from 'node:crypto';
import { afterAll, afterEach, beforeAll, beforeEach, expect, test, vi } from 'vitest';
import type { VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Operation, type Portal } from '@iron-lattice/core/intent';
import { clock } from '../platform/clock';
import { TestPortal } from '../testing/test-portal';

const [MAC, OTHER] = ['0e:00:00:00:00:31', '0e:00:00:00:00:32'];
const NOTHING = {
  ...{ address: null, uptime: 1, neighbours: [], uplinks: [], leases: [], counters: [], clients: [] },
};
const HOUR_MS = 3_600_000;
const portal: Portal = {
  ...{ ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', ways: ['accept', 'code'], visit: 600 },
};
let place: TestPortal;

beforeAll(async () => {
  place = await TestPortal.open(portal, 'LIM-1');
});
afterAll(() => place.end());
beforeEach(() => place.empty());
afterEach(() => vi.restoreAllMocks());

const visits = (): Promise<VisitView[]> => place.ada.get('/api/visits');
const query = (sql: string) => place.setting.controller.database.query(sql);
/** Time stands still at another moment. */
const itIs = (text: string) => vi.spyOn(clock, 'now').mockReturnValue(Date.parse(text));

test('a visit whose guest takes nothing ends after the time its portal says, and one that takes something goes on', async () => {
  await place.change({ idle: 30 });
  const rin = await place.guest(MAC);
  await place.asks(MAC);
  await rin.press('/accept');
  await place.toldOf(true, MAC);
  place.complied(MAC);
  await rin.until(({ text }) => text.includes('You are online'));
  const report = (octets: number) => {
    const taken = [{ mac: MAC, down: octets, up: 0 }];
    place.box.say({ type: 'report', report: { ...NOTHING, taken } });
  };
  report(1000);
  await place.asks(MAC); // frames are heard in order
  report(2000);
  const active = async (): Promise<unknown> => {
    const [rows] = await query('SELECT active_at FROM visit');
    return (rows[0] as { active_at: unknown }).active_at;
  };
  await expect.poll(active, { timeout: 10_000 }).not.toBeNull();
  // Longer ago than half an hour both began; one took something since, and is still in when the other is out.
  await place.asks(OTHER);
  const mo = await place.guest(OTHER);
  await mo.press('/accept');
  await place.toldOf(true, OTHER);
  await query(`UPDATE visit SET begun = now() - interval '40 minutes'`);
  await query(`UPDATE visit SET active_at = now() - interval '29 minutes' WHERE mac = '${MAC}'`);
  await place.toldOf(false, OTHER);
  expect((await visits()).map(({ mac, state }) => [mac, state]).sort()).toEqual([
    [MAC, 'in'],
    [OTHER, 'idle'],
  ]);
  await query(`UPDATE visit SET active_at = now() - interval '31 minutes' WHERE ended_at IS NULL`);
  await place.toldOf(false, MAC);
  expect((await visits()).map(({ state }) => state)).toEqual(['idle', 'idle']);
  await rin.go('/');
  expect(rin.text).toContain('You used nothing for a while');
  await rin.press('/accept');
  await place.toldOf(true, MAC);
  await place.change({ idle: null });
});

test('whoever’s time is over waits as long as the portal says, unless somebody ended it; a code lets it in before', async () => {
  await place.change({ rest: 120 });
  const rin = await place.guest(MAC);
  await place.asks(MAC);
  await rin.press('/accept');
  await place.toldOf(true, MAC);
  const { proof } = rin;
  await query(`UPDATE visit SET until = now() - interval '1 minute'`);
  await rin.go('/');
  expect(rin.text).toContain('Your time is over. You may sign in again at');
  expect(rin.text).not.toContain('/accept');
  await rin.send('/accept', { proof });
  expect(await visits()).toMatchObject([{ state: 'over' }]);
  // An hour later the visit has been tidied away as ended; the wait goes on.
  await query('UPDATE visit SET ended_at = until');
  await rin.send('/accept', { proof });
  expect(await visits()).toHaveLength(1);
  const { codes } = await place.ada.post('/api/codes', {
    ...{ portalId: portal.id, count: 1, name: 'Cabin', runs: 'used', minutes: 60, useBy: null, most: 1, siteIds: null },
  });
  await rin.press('/code', { code: codes[0].code });
  await place.toldOf(true, MAC);
  const [open] = await visits();
  await place.ada.post('/api/visits/end', { ids: [open!.id] });
  await place.toldOf(false, MAC);
  await query(`UPDATE visit SET until = until - interval '4 hours' WHERE way = 'accept'`);
  await rin.go('/');
  await rin.press('/accept');
  await place.toldOf(true, MAC);
  await place.change({ rest: null });
});

test('at hours at which nobody is let in a press does nothing; who is in goes out at their end, and in again when they begin', async () => {
  const hours = { id: randomUUID(), name: 'Day', times: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '18:00' }] };
  const told = place.rollOut({ type: 'hours.add', hours } as unknown as Operation, {
    type: 'portal.set',
    portalId: portal.id,
    from: { hours: null },
    to: { hours: hours.id },
  });
  await place.box.comply();
  expect((await told).status).toBe(201);
  const rin = await place.guest(MAC);
  const { proof } = rin;
  const now = itIs('2036-12-01T17:00Z');
  now.mockReturnValue(Date.parse('2036-12-01T19:00Z'));
  await rin.until(({ text }) => text.includes('We are closed')); // once it is live
  expect(rin.text).toContain('at 2 Dec 2036, 08:00');
  await rin.send('/accept', { proof });
  expect((await query('SELECT 1 FROM visit'))[0]).toEqual([]);
  now.mockReturnValue(Date.parse('2036-12-01T17:00Z'));
  await place.asks(MAC);
  await rin.send('/accept', { proof });
  const end = Date.parse('2036-12-01T18:00Z');
  expect(await place.toldOf(true, MAC)).toMatchObject({ until: end, again: end });
  now.mockReturnValue(end);
  expect(await place.asks(MAC)).toEqual({ mac: MAC, in: false });
  // A visit of ten hours would be over by the morning; one of a code of two days goes on then.
  await query(`UPDATE visit SET until = '2036-12-03T00:00Z'`);
  expect(await place.asks(MAC)).toEqual({ mac: MAC, in: false, again: end + 14 * HOUR_MS });
  const later = await place.setting.as('ada');
  expect((await later.get('/api/visits'))[0].state).toBe('hours');
  now.mockReturnValue(end + 14 * HOUR_MS);
  expect(await place.asks(MAC)).toMatchObject({ in: true, until: Date.parse('2036-12-02T18:00Z') });
});
