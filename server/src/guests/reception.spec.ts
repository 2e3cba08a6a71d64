import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { DeskGuests, DeskView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Operation, type Portal } from '@iron-lattice/core/intent';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { TestGuest } from '../testing/test-guest';
import { TestMailServer } from '../testing/test-mail-server';
import { TestTextGateway } from '../testing/test-text-gateway';

const MAC = '0e:00:00:00:00:01';
const portal: Portal = {
  ...NEW_PORTAL,
  id: randomUUID(),
  name: 'Passengers',
  ways: ['code'],
  visit: 60,
  languages: ['de', 'en'],
};
const ssid = {
  ...{ id: randomUUID(), name: 'Passengers', security: 'open', passphrase: null, bands: ['5'] },
  ...{ segment: 'Crew', reach: { kind: 'estate' }, portal: portal.id },
} as const;

let setting: TestController;
let ada: TestCaller;
let box: TestDevice;
let origin: string;
let pier: string;
let slip: string;
let rin: TestCaller;
let rinId: string;

const signedIn = async (email: string, password: string): Promise<TestCaller> => {
  const answer = await setting.anyone().fetch('POST', '/api/session', { email, password });
  expect(answer.status).toBe(200);
  return setting.anyone().with(answer.headers.get('set-cookie')!.split(';')[0]!);
};
const acts = async (): Promise<string[]> =>
  ((await setting.controller.database.query('SELECT act FROM journal ORDER BY id'))[0] as { act: string }[]).map(
    ({ act }) => act,
  );

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0].id;
  slip = (await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' })).id;
  box = new TestDevice(setting.controller.url, 'GST-1', 'AP-6', '02:00:00:0a:00:02');
  await box.call();
  await ada.until('/api/calling', (all: unknown[]) => all.length === 1);
  await ada.post(`/api/sites/${pier}/claims`, { serials: [box.serial] });
  origin = (await box.next('welcome')).portal!;
  await box.comply();
  const { id, head } = await ada.get('/api/drafts/current');
  const operations = [
    { type: 'portal.add', portal },
    { type: 'ssid.add', ssid },
  ] as unknown as Operation[];
  await ada.post(`/api/drafts/${id}/operations`, { head, operations });
  const done = ada.ask('POST', '/api/rollouts', { draftId: id, despiteErrors: true });
  const { hash } = await box.next('document');
  box.say({ type: 'applied', hash });
  await box.next('keep');
  box.say({ type: 'kept', hash });
  expect(await done).toMatchObject({ status: 201 });
  const made = await ada.post('/api/receptionists', { name: 'Rin Vale', email: 'Rin@test.example', siteIds: [pier] });
  rinId = made.id;
  rin = await signedIn('rin@test.example', made.password);
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});
beforeEach(async () => {
  await setting.controller.database.query('DELETE FROM visit; DELETE FROM visit_code');
});

const ASKED = { portalId: portal.id, count: 1, name: 'Cabin 12', minutes: 60, most: 2 };
const made = async (more: object = {}): Promise<{ id: string; code: string }> =>
  (await rin.post('/api/reception/codes', { ...ASKED, siteId: pier, ...more })).codes[0];
const guests = (): Promise<DeskGuests> => rin.get('/api/reception/guests');
const SITES = (name: string, siteIds: readonly string[]) => ({ name, email: `${name}@test.example`, siteIds });

test('reception has its sites before it, and the portals there that take codes, with how to join', async () => {
  const view = (await rin.get('/api/reception')) as DeskView;
  const ssids = [{ name: 'Passengers', join: 'WIFI:T:nopass;S:Passengers;;' }];
  expect(view).toEqual({
    portalUrl: origin,
    sites: [{ id: pier, name: 'Pier', portals: [{ id: portal.id, name: 'Passengers', visit: 60, kinds: [], ssids }] }],
  });
  expect((await rin.get('/api/session')).person).toMatchObject({ role: 'reception', siteIds: [pier] });
});

test('a code that reception makes opens its site; the guest comes by the QR code of the slip', async () => {
  const { id, code } = await made();
  const guest = new TestGuest(origin);
  await guest.go(`/with/${code}`);
  expect([guest.status, guest.text.includes('href="http://192.0.2.1/"')]).toEqual([403, true]);
  const word = box.wordOf({ portal: portal.id, mac: MAC, at: 'Passengers', url: 'http://192.0.2.1/' });
  await guest.go(`/?who=${encodeURIComponent(word)}`);
  expect(guest.text).toContain(`value="${code.slice(0, 4)}-${code.slice(4)}"`);
  await guest.press('/code', { code });
  expect(guest.text).toContain('You are being let in');
  expect(guest.text).not.toContain('192.0.2.1');
  const { codes, visits } = await guests();
  expect(codes).toEqual([expect.objectContaining({ id, name: 'Cabin 12', devices: [MAC], own: true, by: 'Rin Vale' })]);
  expect(JSON.stringify(codes)).not.toContain(code);
  expect(visits).toEqual([expect.objectContaining({ mac: MAC, siteId: pier, state: 'in' })]);
  expect(await rin.post('/api/reception/codes/reveal', { ids: [id] })).toEqual({ [id]: code });
  await rin.post('/api/reception/visits/extend', { ids: [visits[0]!.id], minutes: 60 });
  expect(Date.parse((await guests()).visits[0]!.until)).toBeGreaterThan(Date.parse(visits[0]!.until));
  await rin.post('/api/reception/codes/revoke', { ids: [id] });
  expect((await guests()).visits[0]).toMatchObject({ state: 'ended' });
});

test('a page that somebody is sent to with something that is no code is the page without it', async () => {
  const guest = new TestGuest(origin);
  await guest.go('/with/%22%3E%3Cscript%3E');
  await guest.go(`/?who=${encodeURIComponent(box.wordOf({ portal: portal.id, mac: MAC, at: 'Passengers' }))}`);
  expect(guest.text).toMatch(/name="code"\s+value=""/);
});

test('of other sites reception sees nothing, and changes nothing', async () => {
  const body = { ...ASKED, runs: 'used', useBy: null };
  const [other] = (await ada.post('/api/codes', { ...body, siteIds: [slip] })).codes;
  const [everywhere] = (await ada.post('/api/codes', { ...body, name: 'All', siteIds: null })).codes;
  const [both] = (await ada.post('/api/codes', { ...body, name: 'Both', siteIds: [pier, slip] })).codes;
  const mine = await made();
  expect((await guests()).codes.map(({ id, own }) => [id, own])).toEqual(
    expect.arrayContaining([[mine.id, true], [both.id, false], [everywhere.id, false]]), // prettier-ignore
  );
  expect((await guests()).codes).toHaveLength(3);
  for (const id of [other.id, everywhere.id, both.id, randomUUID()])
    for (const act of ['reveal', 'revoke', 'restore', 'extend']) {
      const more = act === 'extend' ? { minutes: 60 } : {};
      const answer = await rin.ask('POST', `/api/reception/codes/${act}`, { ids: [mine.id, id], ...more });
      expect([act, answer.status]).toEqual([act, 404]);
    }
  expect((await guests()).codes.every(({ state }) => state === 'unused')).toBe(true);
  expect((await rin.ask('POST', '/api/reception/codes', { ...ASKED, siteId: slip })).status).toBe(404);
  const nowhere = await rin.ask('POST', '/api/reception/codes', { ...ASKED, siteId: pier, portalId: randomUUID() });
  expect(nowhere).toMatchObject({ status: 422, json: { type: 'about:lattice/code.refused' } });
  await setting.controller.database.query(
    `INSERT INTO visit (id, portal_id, site_id, place, mac, way, language, until)
     VALUES ('${randomUUID()}', '${portal.id}', '${slip}', 'Passengers', '${MAC}', 'accept', 'en', now() + interval '1 hour')`,
  );
  expect((await guests()).visits).toEqual([]);
  const [there] = await ada.get('/api/visits');
  expect((await rin.ask('POST', '/api/reception/visits/end', { ids: [there.id] })).status).toBe(404);
  expect((await ada.get('/api/visits'))[0].state).toBe('in');
});

test('what reception asks for that is not its business is refused in words, and stands in the journal', async () => {
  const before = (await acts()).filter((act) => act === 'session.forbidden').length;
  const own = new Set(['/api/session', '/api/events']);
  let tried = 0;
  for (const { method, path, who } of setting.controller.routes) {
    if (who === 'anyone' || own.has(path) || path.startsWith('/api/reception/') || path === '/api/reception') continue;
    const to = path.replace(':number', '1').replace(/:\w+/g, pier);
    const { status, json } = await rin.ask(method.toUpperCase(), to, method === 'post' ? {} : undefined);
    expect([method, path, status]).toEqual([method, path, 403]);
    expect(json.title).toContain('Reception sees visit codes and visits of its sites');
    tried++;
  }
  expect(tried).toBeGreaterThan(100);
  const noted = (await acts()).filter((act) => act === 'session.forbidden').length;
  expect(noted - before).toBeLessThanOrEqual(1); // the rest of a minute is one number
  expect(noted).toBeGreaterThanOrEqual(1);
  const oli = await setting.as('oli');
  expect((await oli.ask('GET', '/api/reception/guests')).status).toBe(403);
});

test('reception hears when guests come and go, and of nothing else', async () => {
  const stream = await rin.fetch('GET', '/api/events');
  const reader = stream.body!.getReader();
  await reader.read();
  const { version, address, coordinates, purpose, tags, window } = (await ada.get('/api/estate')).sites.find(
    ({ id }: { id: string }) => id === pier,
  );
  await ada.ask('PATCH', `/api/sites/${pier}`, { version, address, coordinates, purpose, tags, window });
  await made();
  let text = '';
  while (!text.includes('data:')) text += new TextDecoder().decode((await reader.read()).value);
  expect(text).toContain('"type":"guests"');
  expect(text).not.toContain('"type":"site"');
  await reader.cancel();
});

test('a code goes to a guest by mail, in the portal’s language, with the way to sign in; another’s does not', async () => {
  const server = new TestMailServer();
  const port = await server.listen();
  const { id, code } = await made();
  const mail = (which: string, to = 'guest@skerrow.example') =>
    rin.ask('POST', `/api/reception/codes/${which}/send`, { to });
  expect((await mail(id)).json.type).toBe('about:lattice/mail.none');
  const fields = {
    ...{
      host: '127.0.0.1',
      port,
      security: 'none',
      user: '',
      from: 'desk@skerrow.example',
      fromName: '',
      authority: '',
    },
  };
  await ada.post('/api/mail', { version: 0, fields, secret: null });
  expect((await mail(id)).json).toMatchObject({ ok: true });
  expect(server.came).toMatchObject([{ to: 'guest@skerrow.example', subject: 'WLAN in Pier' }]);
  const { text } = server.came[0]!;
  for (const part of [
    `${code.slice(0, 4)}-${code.slice(4)}`,
    '„Passengers“',
    `${origin}/with/${code}`,
    '1 Stunde ab der',
  ])
    expect(text).toContain(part);
  const [other] = (await ada.post('/api/codes', { ...ASKED, runs: 'used', useBy: null, siteIds: [slip] })).codes;
  expect((await mail(other.id)).status).toBe(404);
  expect((await mail(id, 'no address')).status).toBe(422);
  // To a phone, by the gateway that is said.
  expect((await mail(id, '+353 1 555 0123')).json.type).toBe('about:lattice/texts.none');
  const gateway = new TestTextGateway();
  const way = { url: await gateway.listen(), form: 'json', to: 'to', text: 'text', more: '', header: 'X-Key' };
  await ada.post('/api/texts', { version: 0, fields: way, secret: 'gulls' });
  expect((await mail(id, '+353 1 555 0123')).json).toMatchObject({ ok: true });
  const message = JSON.parse(gateway.came[0]!.body) as { to: string; text: string };
  expect(message.to).toBe('+35315550123');
  for (const part of [`${code.slice(0, 4)}-${code.slice(4)}`, `${origin}/with/${code}`, '1 Stunde'])
    expect(message.text).toContain(part);
  gateway.close();
  await rin.post('/api/reception/codes/revoke', { ids: [id] });
  expect((await mail(id)).status).toBe(404);
  expect((await ada.ask('POST', `/api/codes/${other.id}/send`, { to: 'gone@skerrow.example' })).json).toMatchObject({
    ok: false,
    said: '550 No such mailbox',
  });
  expect(server.came).toHaveLength(1);
  server.close();
});

test('people at receptions are added, changed, given a new password and taken away', async () => {
  const bad = async (more: object) =>
    (await ada.ask('POST', '/api/receptionists', { ...SITES('tam', [pier]), ...more })).json.flaws?.[0]?.field;
  expect(await bad({ name: ' ' })).toBe('name');
  expect(await bad({ email: 'nobody' })).toBe('email');
  expect(await bad({ email: 'ADA@test.example' })).toBe('email');
  expect(await bad({ siteIds: [] })).toBe('siteIds');
  expect(await bad({ siteIds: [randomUUID()] })).toBe('siteIds');
  const { id, password } = await ada.post('/api/receptionists', SITES('tam', [pier, slip]));
  const tam = await signedIn('tam@test.example', password);
  expect((await tam.get('/api/reception')).sites).toHaveLength(2);
  const change = (from: object, to: object) => ada.ask('PATCH', `/api/receptionists/${id}`, { from, to });
  expect((await change({ siteIds: [pier, slip] }, { siteIds: [slip] })).status).toBe(204);
  expect((await change({ siteIds: [pier, slip] }, { siteIds: [pier] })).status).toBe(409);
  expect((await tam.get('/api/reception')).sites).toEqual([{ id: slip, name: 'Slip', portals: [{ ...(await rin.get('/api/reception')).sites[0].portals[0] }] }]); // prettier-ignore
  expect((await ada.get('/api/receptionists')).map(({ name }: { name: string }) => name)).toEqual(['Rin Vale', 'tam']);
  const { password: other } = await ada.post(`/api/receptionists/${id}/password`);
  expect((await tam.ask('GET', '/api/reception')).status).toBe(401);
  const again = await signedIn('tam@test.example', other);
  expect((await ada.ask('DELETE', `/api/receptionists/${id}`)).status).toBe(204);
  expect((await again.ask('GET', '/api/reception')).status).toBe(401);
  const refused = await setting.anyone().ask('POST', '/api/session', { email: 'tam@test.example', password: other });
  expect(refused.status).toBe(401);
  expect((await ada.ask('DELETE', `/api/receptionists/${id}`)).status).toBe(404);
  expect((await ada.ask('POST', '/api/receptionists', SITES('tam', [pier]))).status).toBe(201);
  expect(await acts()).toEqual(
    expect.arrayContaining(['receptionist.add', 'receptionist.password', 'receptionist.remove']),
  );
  expect((await ada.ask('DELETE', `/api/receptionists/${rinId}`)).status).toBe(204);
  expect((await rin.ask('GET', '/api/reception/guests')).status).toBe(401);
});
