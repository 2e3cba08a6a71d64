import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import { TestPortal } from '../testing/test-portal';

const [MAC, OTHER] = ['0e:00:00:00:00:51', '0e:00:00:00:00:52'];
const portal: Portal = {
  ...{ ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', ways: ['accept', 'code'], visit: 600 },
};
let place: TestPortal;

beforeAll(async () => {
  place = await TestPortal.open(portal, 'KNW-1');
});
afterAll(() => place.end());
beforeEach(() => place.empty());

/** The AP asks for a guest, and hears that it is in, or is not: what it was told before may come first. */
const isIn = async (is: boolean, mac: string): Promise<void> => {
  place.box.say({ type: 'guests-ask', portal: portal.id, macs: [mac] });
  await place.toldOf(is, mac);
};
const visits = (): Promise<VisitView[]> => place.ada.get('/api/visits');
const query = (sql: string) => place.setting.controller.database.query(sql);

test('whoever let itself in is let in again by itself while its device is known, and is asked anew afterwards, or by other terms', async () => {
  await place.change({ known: 600, idle: null });
  await place.asks(MAC);
  const rin = await place.guest(MAC);
  await rin.press('/accept');
  await place.toldOf(true, MAC);
  // It is asked for once more when its visit is over.
  const word = await place.asks(MAC);
  expect(word).toMatchObject({ in: true });
  expect(word.again).toBe(word.until);
  const over = (hours: number) =>
    query(`UPDATE visit SET begun = begun - interval '${hours} hours', until = now() - interval '1 second',
      asked_at = COALESCE(asked_at, begun) - interval '${hours} hours' WHERE ended_at IS NULL`);
  await over(5);
  await isIn(true, MAC);
  const shown = await visits();
  expect(shown.map(({ way, state }) => [way, state])).toEqual([
    ['accept', 'in'],
    ['accept', 'ended'],
  ]);
  // The time runs from when it signed in, not from when it came again.
  await over(6);
  await isIn(false, MAC);
  expect((await place.guest(MAC)).text).toContain('Your visit is over');

  // Nobody whom somebody ended, keeps out, or let in by a code.
  await place.empty();
  await (await place.guest(MAC)).press('/accept');
  await place.toldOf(true, MAC);
  await place.ada.post('/api/visits/end', { ids: (await visits()).map(({ id }) => id) });
  await place.toldOf(false, MAC);
  await isIn(false, MAC);
  await place.empty();
  const asked = {
    ...{ portalId: portal.id, count: 1, name: 'x', runs: 'used', minutes: 60, useBy: null, most: 1, siteIds: null },
  };
  await place.asks(OTHER);
  const [{ code }] = (await place.ada.post('/api/codes', asked)).codes;
  await (await place.guest(OTHER)).press('/code', { code });
  await place.toldOf(true, OTHER);
  await over(2);
  await isIn(false, OTHER);
  // Nor by a way that the portal has no more.
  await place.empty();
  await (await place.guest(MAC)).press('/accept');
  await place.toldOf(true, MAC);
  await place.change({ ways: ['code'] });
  await over(1);
  await isIn(false, MAC);
  await place.change({ ways: ['accept', 'code'] });
  await isIn(true, MAC);
  // Other terms are agreed to first.
  await place.empty();
  const saying = (terms: string) =>
    place.change({ agree: true, words: { en: { title: '', text: '', terms, news: '' } } });
  await saying('Be kind.');
  await (await place.guest(MAC)).press('/accept', { agree: 'yes' });
  await place.toldOf(true, MAC);
  await over(1);
  await isIn(true, MAC);
  await saying('Be very kind.');
  await over(1);
  await isIn(false, MAC);
});

test('whoever took what there is for a day goes on slower, where the portal says so, and its page says until when', async () => {
  await place.change({ agree: null, known: null, dataADay: 10, slow: 256 });
  await place.asks(MAC);
  const rin = await place.guest(MAC);
  await rin.press('/accept');
  expect(await place.toldOf(true, MAC)).toMatchObject({ left: 10_000_000, slow: 256 });
  place.complied(MAC);
  await query(`INSERT INTO guest_use (portal_id, mac, at, last_at, octets, seconds)
    VALUES ('${portal.id}', '${MAC}', now(), now(), 12000000, 60)`);
  expect(await place.asks(MAC)).toMatchObject({ in: true, left: 0, slow: 256 });
  await rin.until(({ text }) => text.includes('You go on slower until'));
  expect(await visits()).toMatchObject([{ state: 'slow', left: 0 }]);
  await place.change({ slow: null });
  await isIn(false, MAC);
});
