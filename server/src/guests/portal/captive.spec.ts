import { generateKeyPairSync, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test, vi } from 'vitest';
import { CAPTIVE_TYPE, MOST_OPTION } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import { clock } from '../../platform/clock';
import { TestDevice } from '../../testing/test-device';
import { TestPortal } from '../../testing/test-portal';
import { TestTls } from '../../testing/test-tls';

const MAC = '0e:00:00:00:00:41';
const portal: Portal = {
  ...{ ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', visit: 60, dataADay: 50 },
  newsLink: 'https://ferries.example/today',
};
let tls: TestTls;
let place: TestPortal;
beforeAll(async () => {
  tls = await TestTls.make();
  place = await TestPortal.open(portal, 'CAP-1', { portalTls: tls.files });
});
afterAll(async () => {
  await place.end();
  tls.end();
});
beforeEach(() => place.empty());

const now = (): number => Math.floor(Date.now() / 1000);
const word = (more: object = {}, signer?: Parameters<TestDevice['captiveWord']>[1]): string =>
  place.box.captiveWord({ portal: portal.id, mac: MAC, said: now(), ...more }, signer);
const ask = (of: string) => tls.ask(`${place.origin}/captive/${of}`);
const told = async (of: string) => JSON.parse((await ask(of)).text);

test('a device is told by HTTPS that it is held and where to sign in, and once it is let in for how long and how much', async () => {
  expect(place.origin).toMatch(/^https:/);
  const mine = word();
  expect(`${place.origin}/captive/${mine}`.length).toBeLessThanOrEqual(MOST_OPTION);
  const held = await ask(mine);
  expect([held.status, held.headers['content-type'], held.headers['cache-control']]).toEqual([
    ...[200, CAPTIVE_TYPE, 'private, no-store'],
  ]);
  const { 'user-portal-url': url, ...said } = JSON.parse(held.text);
  expect(said).toEqual({ captive: true, 'venue-info-url': 'https://ferries.example/today' });
  // The way to the page gives one browser a seat, and no other.
  const seated = await tls.ask(url);
  expect([seated.status, seated.headers['location']]).toEqual([303, '/']);
  const [set] = seated.headers['set-cookie'] as string[];
  expect(set).toMatch(/; secure; httponly/i);
  expect((await tls.ask(url)).status).toBe(403);
  const cookie = set!.split(';')[0]!;
  const page = await tls.ask(`${place.origin}/`, { headers: { cookie } });
  expect(page.text).toContain('Go online');
  await place.setting.controller.database.query(
    `INSERT INTO visit (id, portal_id, site_id, place, mac, way, language, until)
     VALUES ('${randomUUID()}', '${portal.id}', '${place.siteId}', 'Passengers', '${MAC}', 'accept', 'en', now() + interval '1 hour')`,
  );
  const { 'seconds-remaining': seconds, ...open } = await told(mine);
  expect(open).toMatchObject({ captive: false, 'bytes-remaining': 50_000_000 });
  expect(Math.abs(seconds - 3600)).toBeLessThan(20);
});

test('word that no device of ours said, or long ago, or of a portal that is not there, is answered with nothing', async () => {
  const stranger = new TestDevice(place.setting.controller.url, 'CAP-9');
  const { privateKey } = generateKeyPairSync('ed25519');
  const mine = word();
  for (const [name, each] of Object.entries({
    'another key': word({}, privateKey),
    'a device that has no place': stranger.captiveWord({ portal: portal.id, mac: MAC, said: now() }),
    'nine days old': word({ said: now() - 9 * 86_400 }),
    'ahead of time': word({ said: now() + 600 }),
    'another portal': word({ portal: randomUUID() }),
    bent: `${mine.slice(0, 12)}B${mine.slice(13)}`,
    'without a signature': mine.split('.')[0]!,
    'three parts': `${mine}.x`,
    'the word for a page': place.box.wordOf(place.claim(MAC)).slice(0, 300),
    long: 'x'.repeat(5000),
  })) {
    await place.empty();
    expect([name, (await ask(each)).status]).toEqual([name, 404]);
  }
  const { 'user-portal-url': url } = await told(mine);
  await place.empty();
  for (const bent of [
    `${url}x`,
    url.replace(/.(?=[^.]*$)/, ''),
    `${place.origin}/enter/x.y`,
    `${place.origin}/enter/a`,
  ])
    expect([bent, (await tls.ask(bent)).status]).toEqual([bent, 403]);
  // A way that is older than a few minutes leads nowhere.
  const later = vi.spyOn(clock, 'now').mockImplementation(() => Date.now() + 10 * 60_000);
  expect((await tls.ask(url)).status).toBe(403);
  later.mockRestore();
});

test('what is none of ours is counted in the journal, and keeps nobody of the same address from asking', async () => {
  for (let i = 0; i < 25; i++) expect((await ask(`x${i}.y`)).status).toBe(404);
  expect((await ask(word())).status).toBe(200);
  const { database } = place.setting.controller;
  const [noted] = await database.query("SELECT 1 FROM journal WHERE act = 'guests.forged'");
  expect(noted).toHaveLength(1);
});
