import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { NEW_PORTAL } from '@iron-lattice/core/intent';
import { TestTls } from '../../server/src/testing/test-tls';
import { Estate } from './estate';

let estate: Estate;
let tls: TestTls;
let siteId = '';
let mac = '';
const [SSID, OUTSIDE] = ['Skerrow Visitors', 'https://www.skerrow.example/'];
const portalId = randomUUID();
beforeAll(async () => {
  tls = await TestTls.make();
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
});
afterAll(async () => {
  await estate.end();
  tls.end();
});

type Json = Record<string, any>;

/** What a client’s browser is answered through the AP that has it. */
async function open(mac: string, page: string): Promise<{ status: number; location: string | null }> {
  const response = await fetch(`${estate.controlUrl}/as/${mac}/${page}`, { redirect: 'manual' });
  return { status: response.status, location: response.headers.get('location') };
}
const passes = (mac: string, on: boolean): Promise<unknown> =>
  estate.until(`${mac} ${on ? 'reaches the internet' : 'is held back'}`, async () => {
    const { status } = await open(mac, OUTSIDE);
    return on ? status === 200 : status === 504;
  });

async function plainly(url: string): Promise<{ readonly headers: Record<string, unknown> }> {
  const { headers } = await fetch(url, { redirect: 'manual' });
  return { headers: { 'set-cookie': headers.getSetCookie() } };
}

/** What a client’s device learns where DHCP told it to ask (RFC 8910, RFC 8908); null: it was told nothing. */
async function learns(mac: string): Promise<Json | null> {
  const { captive } = (await (await fetch(`${estate.controlUrl}/lease/${mac}`)).json()) as Json;
  return captive === null ? null : JSON.parse((await tls.ask(captive)).text);
}

/** A guest’s browser that was sent to the portal, and knows it again by a cookie. */
async function seat(mac: string): Promise<{ origin: string; cookie: string }> {
  const way = await estate.until(
    'sent to the portal',
    async () => (await open(mac, 'http://www.skerrow.example/')).location,
  );
  const { headers } = way.startsWith('https:') ? await tls.ask(way) : await plainly(way);
  return { origin: new URL(way).origin, cookie: (headers['set-cookie'] as string[])[0]!.split(';')[0]! };
}

/** What a portal answers, by HTTPS or not. */
async function ask(url: string, cookie: string, form?: Record<string, string>): Promise<string> {
  const init = { headers: { cookie }, ...(form ? { method: 'POST' } : {}) };
  if (url.startsWith('https:')) return (await tls.ask(url, init, form)).text;
  return (await fetch(url, { ...init, ...(form ? { body: new URLSearchParams(form) } : {}) })).text();
}

/** Signs a guest in by pressing, and waits until its page says that it is let in. */
async function signIn(mac: string): Promise<void> {
  const { origin, cookie } = await seat(mac);
  const page = (): Promise<string> => ask(`${origin}/`, cookie);
  const proof = /name="proof" value="([^"]+)"/.exec(await page())![1]!;
  await ask(`${origin}/accept`, cookie, { proof });
  await estate.until('the page says so', async () => (await page()).includes('You are online'));
}

test('guests are held until they sign in, by every AP that they walk to, and go on over a restart of the controller', async () => {
  const { site } = await estate.siteDraft(siteId);
  const own = site.segments.find((each: Json) => each['id'] !== site.managementId);
  const portal = {
    ...{ id: portalId, name: 'Visitors', ways: ['accept'], visit: 60, garden: ['timetable.skerrow.example'] },
    ...{ languages: ['en'], words: {}, ground: '#ffffff', accent: '#8c2f1b' },
  };
  const ssid = {
    ...{ id: randomUUID(), name: SSID, security: 'open', passphrase: null, bands: ['2.4', '5'], portal: portalId },
    ...{ segment: own.name, reach: { kind: 'sites', siteIds: [siteId] } },
  };
  await estate.edit([
    { type: 'portal.add', portal },
    { type: 'ssid.add', ssid },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  const { clients } = await estate.call('GET', `/api/sites/${siteId}/air-clients`);
  mac = clients[0].mac;
  await estate.tell({ do: 'look-for', mac, ssid: SSID });
  await passes(mac, false);
  expect((await open(mac, 'http://timetable.skerrow.example/')).status).toBe(200);
  await signIn(mac);
  await passes(mac, true);

  // Another AP asks for itself.
  const here = (await estate.devices()).find((each) => each.clients.some((client) => client.mac === mac))!.serial;
  const { roster } = await estate.siteDraft(siteId);
  const other = roster.find((each: Json) => each['model'].startsWith('AP') && each['serial'] !== here).serial;
  await estate.tell({ do: 'walk', mac, serial: other });
  await passes(mac, true);

  // What was told holds while nobody answers, and afterwards.
  expect(await learns(mac)).toBeNull(); // the page is none of HTTPS
  await estate.stopController();
  expect((await open(mac, OUTSIDE)).status).toBe(200);
  const { cert, key } = tls.files;
  await estate.startController({ LATTICE_PORTAL_CERT: cert, LATTICE_PORTAL_KEY: key });
  await estate.signIn();
  await estate.allInStep();
  await passes(mac, true);
  // With a certificate its device learns by itself how it stands, from where DHCP says.
  const free = await learns(mac);
  expect(free).toMatchObject({ captive: false, 'user-portal-url': expect.stringMatching(/^https:/) });
  expect(free!['seconds-remaining']).toBeLessThanOrEqual(3600);
  const [visit] = (await estate.call('GET', '/api/visits')) as Json[];
  expect(visit).toMatchObject({ mac, state: 'in', siteId, way: 'accept' });
  // What it takes is counted as its AP reports it.
  await estate.until('something was counted', async () => {
    const [now] = (await estate.call('GET', '/api/visits')) as Json[];
    return now!['octets'] > 0 && now!['seconds'] > 0;
  });
  await estate.call('POST', '/api/visits/end', { ids: [visit!['id']] });
  await passes(mac, false);
  const held = await learns(mac);
  expect(held).toMatchObject({ captive: true });
  expect((await tls.ask(held!['user-portal-url'])).headers['location']).toBe('/');

  // The portal is taken out: nobody is held any more, and it lets nobody in.
  const { origin, cookie } = await seat(mac);
  await estate.edit([{ type: 'ssid.set', ssidId: ssid.id, from: { portal: portalId }, to: { portal: null } }]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await passes(mac, true);
  await estate.until(
    'the portal is gone',
    async () => (await tls.ask(`${origin}/`, { headers: { cookie } })).status === 410,
  );
}, 180_000);

test('guests sign in by names that RADIUS servers know, asked by the AP that holds them, or that the controller keeps', async () => {
  const { estate: shared } = await estate.siteDraft(siteId);
  const ssid = shared.ssids.find((each: Json) => each['name'] === SSID);
  const to = { ways: ['user'], users: 'servers' };
  await estate.edit([
    { type: 'portal.set', portalId, from: { ways: ['accept'], users: null }, to },
    { type: 'ssid.set', ssidId: ssid.id, from: { portal: null }, to: { portal: portalId } },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await passes(mac, false);
  const { origin, cookie } = await seat(mac);
  const headers = { cookie };
  const signsIn = async (user: string, password: string): Promise<{ status: number; text: string }> => {
    const proof = await estate.until('there is a form', async () => {
      const { text } = await tls.ask(`${origin}/`, { headers });
      return /name="proof" value="([^"]+)"/.exec(text)?.[1];
    });
    return tls.ask(`${origin}/user`, { method: 'POST', headers }, { proof, user, password });
  };
  const wrong = await signsIn('marn.ellis', 'lantern fish 5');
  expect([wrong.status, wrong.text.includes('not right together')]).toEqual([422, true]);
  expect(wrong.text).not.toContain('lantern fish');
  expect((await signsIn('marn.ellis', 'lantern fish 4')).status).toBe(303);
  await passes(mac, true);
  const [visit] = (await estate.call('GET', '/api/visits')) as Json[];
  expect(visit).toMatchObject({ mac, state: 'in', way: 'user', who: { said: { name: 'marn.ellis' } } });
  await estate.call('POST', '/api/visits/end', { ids: [visit!['id']] });
  await passes(mac, false);

  // Users that the controller keeps: it asks nobody.
  const user = { name: 'Ebba.Strand', password: 'grey seal 12', groups: [], until: null, most: null, off: false };
  await fetch(`${estate.address}/api/users`, {
    ...{ method: 'POST', body: JSON.stringify([{ ...user, note: '' }]) },
    headers: { cookie: estate.cookie, 'content-type': 'application/octet-stream' },
  });
  await estate.edit([{ type: 'portal.set', portalId, from: { users: 'servers' }, to: { users: null } }]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('she is known', async () => (await signsIn('ebba.strand', 'grey seal 12')).status === 303);
  await passes(mac, true);
}, 180_000);

test('guests by cable are held at their port; whoever proves who it is there is not, or by the portal that its server names', async () => {
  const { roster, site } = await estate.siteDraft(siteId);
  const { id: deviceId, serial } = roster.find((each: Json) => each['name'] === 'bm-sw-01');
  const own = site.segments.find((each: Json) => each['name'] === 'Passengers');
  const named = { ...NEW_PORTAL, id: randomUUID(), name: 'Contractors', named: true };
  const from = site.ports[deviceId]?.['13'] ?? null;
  const to = { untagged: own.id, tagged: [], auth: '802.1X', guest: own.id, portal: portalId };
  await estate.edit([
    { type: 'portal.add', portal: named },
    { type: 'portal.set', portalId, from: { ways: ['user'] }, to: { ways: ['accept'] } },
    { type: 'port.set', siteId, deviceId, port: '13', from, to },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  const [GUEST, PROVEN] = ['0e:c4:70:00:00:11', '0e:c4:70:00:00:12'];
  const plug = (mac: string, at: string | null, more = {}): Promise<void> =>
    estate.tell({ do: 'plug', mac, at: at === null ? null : `${serial}:${at}`, ...more });
  await plug(GUEST, '13', { name: 'visitor-laptop' });
  await passes(GUEST, false);
  // By cable too DHCP says where it learns how it stands.
  expect(await learns(GUEST)).toMatchObject({ captive: true });
  await signIn(GUEST);
  await passes(GUEST, true);
  expect(await learns(GUEST)).toMatchObject({ captive: false });
  const visit = async (mac: string): Promise<Json | undefined> =>
    ((await estate.call('GET', '/api/visits')) as Json[]).find((each) => each['mac'] === mac);
  expect(await visit(GUEST)).toMatchObject({ at: '13', portalId, state: 'in' });
  await estate.until('what it takes is counted', async () => ((await visit(GUEST))?.['octets'] ?? 0) > 0);
  await plug(GUEST, null);

  const says = (user: string, password: string): object => ({
    enters: { method: 'eap-ttls', user, password, believes: 'stand-ins' },
  });
  await estate.edit([
    {
      ...{ type: 'class.add' },
      accessClass: { id: randomUUID(), name: 'Crew', segment: 'Crew', members: [], reach: { kind: 'estate' } },
    },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await plug(PROVEN, '13', says('marn.ellis', 'lantern fish 4'));
  await passes(PROVEN, true);
  await plug(PROVEN, null);
  await plug(PROVEN, '13', says('odo.brack', 'tar brush 7'));
  await passes(PROVEN, false);
  await signIn(PROVEN);
  await passes(PROVEN, true);
  expect(await visit(PROVEN)).toMatchObject({ at: '13', portalId: named.id, state: 'in' });
  await plug(PROVEN, null);
}, 180_000);
