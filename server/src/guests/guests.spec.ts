import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { CodesView, VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import type { TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { TestGuest } from '../testing/test-guest';
import { TestPortal } from '../testing/test-portal';

const MAC = '0e:00:00:00:00:01';
const portal: Portal = {
  ...{ ...NEW_PORTAL, id: randomUUID(), name: 'Passengers', ways: ['accept', 'code'], visit: 60, dataADay: 100 },
  ...{ languages: ['en', 'de', 'ar'], landing: 'https://ferries.example/harbour' },
  words: {
    en: { title: 'Skerrow <Ferries>', text: 'Wi-Fi on board.\n\nBe kind.', terms: 'Do no harm.', news: '' },
    de: { title: 'Skerrow Fähren', text: '', terms: 'Schadet niemandem.', news: '' },
  },
};
let place: TestPortal;
let setting: TestPortal['setting'];
let ada: TestCaller;
let box: TestDevice;
let siteId: string;

beforeAll(async () => {
  place = await TestPortal.open(portal, 'GST-1');
  ({ setting, ada, box, siteId } = place);
});
afterAll(() => place.end());
beforeEach(() => place.empty());

const guest = (mac = MAC): Promise<TestGuest> => place.guest(mac);
const asks = (mac = MAC) => place.asks(mac);
const toldOf = (isIn: boolean, mac = MAC) => place.toldOf(isIn, mac);
const visits = (): Promise<VisitView[]> => ada.get('/api/visits');
const ONE = {
  ...{ portalId: portal.id, count: 1, name: 'Cabin', runs: 'used', minutes: 60, useBy: null, most: 1, siteIds: null },
};
const codes = async (more: object = {}): Promise<{ id: string; code: string }[]> =>
  (
    await ada.post('/api/codes', {
      ...ONE,
      ...more,
    })
  ).codes;

test('an AP is told of the portal alone: how it looks is no business of its', () => {
  expect(place.told.ssids).toEqual([
    expect.objectContaining({ name: 'Passengers', portal: { id: portal.id, name: 'Passengers' } }),
  ]);
});

test('a guest presses, its AP is told at once, and the page goes on when the AP does as it was told', async () => {
  expect(await asks()).toEqual({ mac: MAC, in: false });
  const ada = await guest();
  expect(ada.status).toBe(200);
  // What people wrote is text, whatever it looks like.
  expect(ada.text).toContain('Skerrow &lt;Ferries&gt;');
  expect(ada.text).not.toContain('<script');
  expect(Buffer.byteLength(ada.text)).toBeLessThan(60_000);
  await ada.press('/accept');
  const { guests } = await box.next('guests');
  const until = Date.now() + 60 * 60_000;
  expect(guests).toEqual([expect.objectContaining({ mac: MAC, in: true, left: 100_000_000 })]);
  expect(Math.abs(guests[0]!.until! - until)).toBeLessThan(10_000);
  expect(ada.text).toContain('You are being let in');
  expect(ada.text).toContain('http-equiv="refresh"');
  box.say({ type: 'guests-told', portal: portal.id, macs: [MAC] });
  await ada.until(({ text }) => text.includes('You are online'));
  expect(ada.text).toContain('href="https://ferries.example/harbour"');
  expect(await visits()).toEqual([
    expect.objectContaining({
      mac: MAC,
      siteId,
      way: 'accept',
      at: 'Passengers',
      state: 'in',
      told: true,
      left: 100_000_000,
    }),
  ]);
});

test('word of a device is right once, for a while, and only as that device signed it', async () => {
  const word = box.wordOf(place.claim(MAC));
  const first = await TestGuest.come(place.origin, word);
  expect(first.status).toBe(200);
  // Another browser with the same word is not let in by it; the one it was given to may come again.
  expect(await TestGuest.come(place.origin, word)).toMatchObject({ status: 403 });
  await first.go(`/?who=${word}`);
  expect(first.status).toBe(200);
  const other = new TestDevice(setting.controller.url, 'GST-9');
  const forged = other.wordOf({ ...place.claim(MAC), serial: box.serial });
  const late = box.wordOf({ ...place.claim(MAC), said: Date.now() - 6 * 60_000 });
  const early = box.wordOf({ ...place.claim(MAC), said: Date.now() + 6 * 60_000 });
  const unknown = box.wordOf({ ...place.claim(MAC), serial: 'GST-9' });
  const bent = `${word.slice(0, 20)}A${word.slice(21)}`;
  for (const each of [forged, late, early, unknown, bent, '', 'x', '.', 'a.b.c', 'x'.repeat(5000)])
    expect([each.slice(0, 8), (await TestGuest.come(place.origin, each)).status]).toEqual([each.slice(0, 8), 403]);
  expect(await visits()).toEqual([]);
});

test('a form that is none of ours, a way that is not there, and an address that leads elsewhere do nothing', async () => {
  const one = await guest();
  await one.send('/accept', { proof: 'x' });
  await one.send('/accept', {});
  expect(await visits()).toEqual([]);
  const stranger = new TestGuest(place.origin);
  await stranger.send('/accept', { proof: one.proof });
  expect(stranger.status).toBe(403);
  // Of a page that was asked for only what is one is remembered: it is linked to once somebody is let in.
  const asked = [
    ...['javascript:alert(1)', 'http://a.example/"><script>', 'https://u@evil.example/', '//evil.example'],
    'http://news.example/today',
  ];
  for (const [at, url] of asked.entries())
    await TestGuest.come(place.origin, box.wordOf(place.claim(`0e:00:00:00:01:0${at}`, { url })));
  const [seats] = await setting.controller.database.query(
    "SELECT url FROM portal_seat WHERE mac LIKE '0e:00:00:00:01:%' ORDER BY mac",
  );
  expect(seats).toEqual([null, null, null, null, 'http://news.example/today'].map((url) => ({ url })));
});

test('a code is drawn where nobody can guess it, opens for as many devices as may, and for two at once only for one', async () => {
  const [made] = await codes();
  expect(made!.code).toMatch(/^[A-HJ-KM-NP-TV-Z2-9]{8}$/);
  const rows = JSON.stringify(await setting.controller.database.query('SELECT * FROM visit_code'));
  expect(rows).not.toContain(made!.code);
  const macs = ['0e:00:00:00:02:01', '0e:00:00:00:02:02', '0e:00:00:00:02:03'];
  const all = await Promise.all(macs.map(guest));
  const typed = ` ${made!.code.slice(0, 4).toLowerCase()}-${made!.code.slice(4)} `;
  await Promise.all(all.map((each) => each.press('/code', { code: typed })));
  expect(all.map(({ text }) => text.includes('As many devices as may')).filter(Boolean)).toHaveLength(2);
  const [only] = await visits();
  expect(only).toMatchObject({ way: 'code', code: { id: made!.id, name: 'Cabin' } });
  const view: CodesView = await ada.get(`/api/portals/${portal.id}/codes`);
  expect(view.codes).toEqual([
    expect.objectContaining({ id: made!.id, state: 'used', devices: [only!.mac], hint: made!.code.slice(-2) }),
  ]);
  expect(await ada.post('/api/codes/reveal', { ids: [made!.id] })).toEqual({ [made!.id]: made!.code });
  // Taken back, the visit that began with it ends, and its AP hears it.
  await asks(only!.mac);
  await ada.post('/api/codes/revoke', { ids: [made!.id] });
  expect((await box.next('guests')).guests).toEqual([{ mac: only!.mac, in: false }]);
  const back = await guest(only!.mac);
  await back.press('/code', { code: made!.code });
  expect(back.text).toContain('This code is over');
});

test('guessing is slowed by device, and by the box that many devices come from; a right code elsewhere still opens', async () => {
  const [made] = await codes({ most: null });
  const one = await guest('0e:00:00:00:03:01');
  for (let i = 0; i < 6; i++) {
    await one.press('/code', { code: `WRNG-WRN${'ABCDEF'[i]}` });
    expect(one.text).toContain('This code is not right');
  }
  await one.press('/code', { code: made!.code });
  expect([one.status, one.text.includes('Too many tries')]).toEqual([429, true]);
  const { database } = setting.controller;
  const [noted] = await database.query("SELECT detail->>'mac' AS mac FROM journal WHERE act = 'guests.guessing'");
  expect(noted).toEqual([{ mac: '0e:00:00:00:03:01' }]);
  const other = await guest('0e:00:00:00:03:02');
  await other.press('/code', { code: made!.code });
  expect((await visits())[0]).toMatchObject({ mac: '0e:00:00:00:03:02', state: 'in' });
  // What is no code at all is not looked for, and counts all the same.
  const odd = await guest('0e:00:00:00:03:03');
  for (const code of ["' OR 1=1 --", '<b>', '\u0000', 'É'.repeat(40)]) {
    await odd.press('/code', { code });
    expect(odd.status).toBe(422);
  }
});

test('codes of a person’s own, many at once, and what is asked that cannot be', async () => {
  const odd = await ada.ask('POST', '/api/codes', { ...ONE, code: 'harb-4722-quay' });
  expect(odd).toMatchObject({ status: 422, json: { flaws: [{ field: 'code' }] } }); // U is in no code
  expect(await codes({ code: 'HARB-4722', name: 'Harbour' })).toEqual([expect.objectContaining({ code: 'HARB4722' })]);
  const again = await ada.ask('POST', '/api/codes', {
    ...ONE,
    code: 'harb4722',
  });
  expect(again).toMatchObject({
    status: 422,
    json: { title: 'The code of “Cabin” is there already. Choose another.' },
  });
  const many = await codes({ count: 1500, name: 'Crossing' });
  expect(new Set(many.map(({ code }) => code)).size).toBe(1500);
  expect((await ada.ask('POST', '/api/codes', { portalId: portal.id, count: 20_000 })).status).toBe(400);
  expect(
    (await setting.as('oli').then((oli) => oli.ask('POST', '/api/codes/reveal', { ids: [many[0]!.id] as never })))
      .status,
  ).toBe(403);
});

test('visits are ended, made longer, and a device is kept out of every portal', async () => {
  const one = await guest();
  await asks();
  await one.press('/accept');
  await box.next('guests');
  const [visit] = await visits();
  await ada.post('/api/visits/extend', { ids: [visit!.id], minutes: 120 });
  const { guests } = await box.next('guests');
  expect(guests[0]!.until! - Date.parse(visit!.until)).toBe(120 * 60_000);
  await ada.post('/api/visits/end', { ids: [visit!.id] });
  expect((await box.next('guests')).guests).toEqual([{ mac: MAC, in: false }]);
  expect((await ada.ask('POST', '/api/visits/end', { ids: [visit!.id] })).status).toBe(409);
  await ada.post(`/api/guests/${MAC}/block`, { on: true });
  await one.go('/');
  expect(one.text).toContain('Please ask at the desk');
  await one.press('/accept');
  expect((await visits()).filter(({ state }) => state === 'in')).toEqual([]);
  await ada.post(`/api/guests/${MAC}/block`, { on: false });
  await one.go('/');
  await one.press('/accept');
  expect((await visits())[0]).toMatchObject({ state: 'in' });
});

test('visits are found among all by device, SSID or code; what is typed is text, not a pattern', async () => {
  const insert = (mac: string, place: string) =>
    setting.controller.database.query(
      `INSERT INTO visit (id, portal_id, site_id, place, mac, way, language, until)
       VALUES ('${randomUUID()}', '${portal.id}', '${siteId}', '${place}', '${mac}', 'accept', 'en', now() + interval '1 hour')`,
    );
  await insert('0e:00:00:00:00:0a', 'Deck 100%');
  await insert('0e:00:00:00:00:0b', 'Deck_2');
  const [made] = await codes({ name: 'Purser' });
  const one = await guest();
  await one.press('/code', { code: made!.code });
  const found = async (text: string): Promise<string[]> =>
    (await ada.get(`/api/visits?find=${encodeURIComponent(text)}`)).map(({ mac }: VisitView) => mac.slice(-2)).sort();
  expect(await found('deck')).toEqual(['0a', '0b']);
  expect(await found('0%')).toEqual(['0a']);
  expect(await found('k_2')).toEqual(['0b']);
  expect(await found('PURSER')).toEqual(['01']);
  expect(await found('00:0B')).toEqual(['0b']);
  expect((await ada.ask('GET', `/api/visits?find=${'x'.repeat(101)}`)).status).toBe(400);
});

test('codes are for sites that are there', async () => {
  const { status, json } = await ada.ask('POST', '/api/codes', { ...ONE, siteIds: [siteId, randomUUID()] });
  expect([status, json.flaws[0].field]).toEqual([422, 'siteIds']);
});

test('whoever erases a client erases its visits too, and these end with that', async () => {
  const one = await guest();
  await asks();
  const [made] = await codes();
  await one.press('/code', { code: made!.code });
  await toldOf(true);
  await ada.post('/api/clients/forget', { macs: [MAC] });
  expect(await toldOf(false)).toEqual({ mac: MAC, in: false });
  expect(await visits()).toEqual([]);
  const { database } = setting.controller;
  for (const table of ['visit', 'guest_use', 'portal_seat', 'visit_code_device'])
    expect([table, (await database.query(`SELECT 1 FROM ${table} WHERE mac = '${MAC}'`))[0]]).toEqual([table, []]);
});

test('what is used up for the day holds a guest back until the day begins anew, by the clock of its site', async () => {
  const one = await guest();
  await asks();
  await one.press('/accept');
  await toldOf(true);
  await setting.controller.database.query(
    `INSERT INTO guest_use VALUES ('${portal.id}', '${MAC}', now(), now(), 100000000, 60)`,
  );
  box.say({ type: 'guests-ask', portal: portal.id, macs: [MAC] });
  const word = await toldOf(false);
  const [visit] = await visits();
  expect(visit).toMatchObject({ state: visit!.left === 0 ? 'quota' : 'in' });
  expect(word).toEqual({ mac: MAC, in: false, ...(word.again === undefined ? {} : { again: word.again }) });
  await one.go('/');
  expect(one.text).toContain('Used up for today');
});

test('the page speaks the guest’s language, another one where it is chosen, and from right to left', async () => {
  const one = await TestGuest.come(place.origin, box.wordOf(place.claim(MAC)), 'de-AT,de;q=0.9,en;q=0.5');
  expect(one.text).toContain('<html lang="de" dir="ltr">');
  expect(one.text).toContain('Skerrow Fähren');
  await one.go('/?language=ar');
  expect(one.text).toContain('dir="rtl"');
  // Nobody wrote it in Arabic: what stands in for all does.
  expect(one.text).toContain('Skerrow &lt;Ferries&gt;');
  // Sent here anew, it goes on in the language that was chosen.
  await one.go(`/?who=${box.wordOf(place.claim(MAC))}`);
  expect(one.text).toContain('dir="rtl"');
  await one.go('/?language=pl');
  expect(one.text).toContain('<html lang="en"');
});

test('a portal that is gone lets nobody in, and what it held is told so', async () => {
  const other = { ...portal, id: randomUUID(), name: 'Another' };
  const seat = await TestGuest.come(place.origin, box.wordOf({ ...place.claim(MAC), portal: other.id }));
  expect(seat.status).toBe(410);
  box.say({ type: 'guests-ask', portal: other.id, macs: [MAC] });
  let frame = await box.next('guests');
  while (frame.portal !== other.id) frame = await box.next('guests');
  expect(frame.guests).toEqual([{ mac: MAC, in: false }]);
});

test('a code that is moved opens the other site alone, and visits with it at the first end', async () => {
  const slip = await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' });
  const [made] = await codes({ siteIds: [siteId], most: null });
  await asks();
  const first = await guest();
  await first.press('/code', { code: made!.code });
  await toldOf(true);
  const move = (siteIds: string[] | null) => ada.ask('POST', '/api/codes/move', { ids: [made!.id], siteIds });
  expect((await move([randomUUID()])).status).toBe(422);
  const going = () => ada.get(`/api/codes/${made!.id}/open-visits`);
  expect(await going()).toEqual([{ siteId, count: 1 }]);
  expect((await move([slip.id])).status).toBe(204);
  await toldOf(false);
  expect((await visits())[0]).toMatchObject({ state: 'ended' });
  expect(await going()).toEqual([]);
  const other = await guest('0e:00:00:00:00:02');
  await other.press('/code', { code: made!.code });
  expect([other.status, other.text.includes('This code is not right')]).toEqual([422, true]);
  expect((await move(null)).status).toBe(204);
  await other.press('/code', { code: made!.code });
  expect((await visits())[0]).toMatchObject({ mac: '0e:00:00:00:00:02', state: 'in' });
});

test('a visit says what its device is called, by people or by itself, and is found by it', async () => {
  await asks();
  await (await guest()).press('/accept');
  const clients = [{ mac: MAC, ssid: 'Passengers', vlan: 10, address: null, since: Date.now(), name: 'rins-phone' }];
  const rest = { address: null, uptime: 1, neighbours: [], uplinks: [], leases: [], counters: [] };
  box.say({ type: 'report', report: { ...rest, clients } });
  await expect.poll(async () => (await visits())[0]!.host, { timeout: 10_000 }).toBe('rins-phone');
  const found = (find: string): Promise<VisitView[]> => ada.get(`/api/visits?find=${find}`);
  expect((await found('ins-pho')).map(({ mac }) => mac)).toEqual([MAC]);
  expect(await found('moes-phone')).toEqual([]);
});

test('codes of a list are looked at row by row, and made all or none', async () => {
  const path = `/api/portals/${portal.id}`;
  const [there] = await codes({ code: 'GGHHJJKK' });
  expect(there!.code).toBe('GGHHJJKK');
  const list =
    'for,code,lasts,devices,sites\nCabin 1,,2 d,any,Pier\nCabin 2,gghh-jjkk,,,\nCabin 3,BBCCDDEE,,2,\nCabin 4,,soon,,\n';
  const { json: seen } = await ada.upload(`${path}/code-list`, list);
  expect(seen.rows.map(({ flaws }: { flaws: { field: string }[] }) => flaws.map(({ field }) => field))).toEqual([
    ...[[], ['code'], [], ['lasts']],
  ]);
  expect(seen.rows[0].good).toMatchObject({ minutes: 2880, most: null, siteIds: [siteId] });
  const good = seen.rows.flatMap(({ good: each }: { good: object | null }) => each ?? []);
  const made = await ada.upload(`${path}/codes`, JSON.stringify(good));
  expect([made.status, made.json.codes.map(({ name }: { name: string }) => name)]).toEqual([
    201,
    ['Cabin 1', 'Cabin 3'],
  ]);
  expect(made.json.codes[1].code).toBe('BBCCDDEE');
  const now = async (): Promise<number> => ((await ada.get(`${path}/codes`)) as CodesView).codes.length;
  expect(await now()).toBe(3);
  // One that is there already: none is made.
  const again = await ada.upload(`${path}/codes`, JSON.stringify([{ ...good[0], name: 'New' }, good[1]]));
  expect([again.status, again.json.title, await now()]).toEqual([422, expect.stringContaining('Cabin 3'), 3]);
  for (const body of [
    'gulls',
    '[]',
    JSON.stringify([{ ...good[0], minutes: 1 }]),
    JSON.stringify([{ ...good[0], x: 1 }]),
  ])
    expect([body.slice(0, 20), (await ada.upload(`${path}/codes`, body)).status]).toEqual([body.slice(0, 20), 422]);
  const oli = await setting.as('oli');
  expect((await oli.upload(`${path}/code-list`, list)).status).toBe(403);
});
