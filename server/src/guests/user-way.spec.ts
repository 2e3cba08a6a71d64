import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import type { TestGuest } from '../testing/test-guest';
import { TestPortal } from '../testing/test-portal';

const MAC = '0e:00:00:00:00:51';
const portal: Portal = { ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', ways: ['accept', 'user'], visit: 90 };
const USER = { groups: [], until: null, most: 1, off: false, note: '' };
let place: TestPortal;

beforeAll(async () => {
  place = await TestPortal.open(portal, 'USR-1');
  const users = [
    { ...USER, name: 'Marn.Ellis', password: 'herring gull 9' },
    { ...USER, name: 'Tove', password: 'herring gull 10', off: true },
    { ...USER, name: 'Past', password: 'herring gull 11', until: '2020-01-01' },
  ];
  const { status } = await place.ada.upload('/api/users', new TextEncoder().encode(JSON.stringify(users)));
  expect(status).toBe(201);
});
afterAll(() => place.end());
beforeEach(() => place.empty());

const visits = (): Promise<VisitView[]> => place.ada.get('/api/visits');
/** Signs in, until it is said otherwise than that nobody has that name: the thread that answers hears of users a moment later. */
async function signsIn(guest: TestGuest, user: string, password: string): Promise<number> {
  await guest.go('/user');
  await guest.press('/user', { user, password });
  return guest.status;
}

test('a user that the controller keeps signs in, with as many devices as may be, and is named where visits are', async () => {
  await place.asks(MAC);
  const marn = await place.guest(MAC);
  expect(marn.text).toContain('href="/user"');
  await expect.poll(() => signsIn(marn, 'marn.ellis', 'herring gull 9'), { timeout: 10_000 }).toBe(200);
  const word = await place.toldOf(true, MAC);
  expect(Math.abs(word.until! - Date.now() - 90 * 60_000)).toBeLessThan(20_000);
  expect(await visits()).toMatchObject([
    { way: 'user', state: 'in', who: { said: { name: 'marn.ellis' }, proven: true } },
  ]);
  // It counts as one of her devices, wherever it came in.
  const other = await place.guest('0e:00:00:00:00:52');
  expect(await signsIn(other, 'MARN.ELLIS', 'herring gull 9')).toBe(422);
  expect(other.text).toContain('This name is not let in any more');
  expect(await visits()).toHaveLength(1);
});

test('who is wrong, switched off, over or unknown is not let in; what was typed is text, and the password is not sent back', async () => {
  const guest = await place.guest(MAC);
  expect(await signsIn(guest, '<b>marn</b>', 'herring <i>')).toBe(422);
  expect(guest.text).toContain('value="&lt;b&gt;marn&lt;/b&gt;"');
  expect(guest.text).not.toContain('herring');
  expect(guest.text).toContain('not right together');
  for (const [user, password] of [
    ['marn.ellis', 'herring gull 8'],
    ['', 'herring gull 9'],
    ['marn.ellis', ''],
    ['0e0000000051', '0e0000000051'],
  ] as const)
    expect([user, await signsIn(guest, user, password)]).toEqual([user, 422]);
  for (const [user, password] of [
    ['tove', 'herring gull 10'],
    ['past', 'herring gull 11'],
  ] as const) {
    expect(await signsIn(guest, user, password)).toBe(422);
    expect(guest.text).toContain('This name is not let in any more');
  }
  expect(await visits()).toEqual([]);
  await guest.send('/user', { user: 'marn.ellis', password: 'herring gull 9', proof: 'x' });
  expect(await visits()).toEqual([]);
});

test('whoever guesses is slowed, by device, and counted in the journal', async () => {
  const guest = await place.guest('0e:00:00:00:00:53');
  const statuses: number[] = [];
  for (let i = 0; i < 12; i++) statuses.push(await signsIn(guest, `nobody ${i}`, 'x'));
  expect(statuses.at(-1)).toBe(429);
  expect(guest.text).toContain('Too many tries');
  const { database } = place.setting.controller;
  const [noted] = await database.query("SELECT detail->>'mac' AS mac FROM journal WHERE act = 'guests.guessing'");
  expect(noted).toEqual([{ mac: '0e:00:00:00:00:53' }]);
});

test('where servers are to be asked and none is there, it cannot be said; a portal without that way takes no names', async () => {
  await place.change({ users: 'servers' });
  const guest = await place.guest(MAC);
  expect(await signsIn(guest, 'marn.ellis', 'herring gull 9')).toBe(503);
  expect(guest.text).toContain('It cannot be checked just now');
  await place.change({ users: null, ways: ['accept'] });
  const { proof } = guest;
  await guest.send('/user', { user: 'marn.ellis', password: 'herring gull 9', proof });
  expect(await visits()).toEqual([]);
});
