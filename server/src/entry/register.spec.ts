import type { SearchHit } from '@iron-lattice/core/base';
import type { ClientStay, RegisterErased, RegisterKeeping, RegisterView } from '@iron-lattice/core/entry';
import type { Report } from '@iron-lattice/core/line';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { REGISTER_HOUSEKEEPING } from './register/keeping.service';

const [MARN, LISTED, TILL] = ['0e:c4:60:00:00:02', '0c:c4:60:00:00:08', '0c:c4:60:00:00:09'];
const KIOSKS = crypto.randomUUID();
let setting: TestController;
let ada: TestCaller;
let oli: TestCaller;
let ap: TestDevice;
let siteId = '';
let ssidId = '';

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  oli = await setting.as('oli');
  const { sites } = await ada.get('/api/estate');
  siteId = sites[0].id;
  ap = new TestDevice(setting.controller.url, 'REG-01', 'AP-6', '02:00:00:08:00:01');
  await ap.call();
  await ada.until('/api/calling', (list: unknown[]) => list.length === 1);
  await ada.post(`/api/sites/${siteId}/claims`, { serials: [ap.serial] });
  await ap.comply();
  const { id, head } = await ada.get('/api/drafts/current');
  ssidId = crypto.randomUUID();
  const ssid = {
    id: ssidId,
    name: 'Quay guests',
    security: 'open',
    passphrase: null,
    bands: ['5'],
    segment: 'Crew',
    reach: { kind: 'estate' },
  };
  const tills = {
    ...{ id: KIOSKS, name: 'Kiosks', segment: 'Crew', members: [{ mac: TILL, name: 'Till' }] },
    reach: { kind: 'estate' },
  };
  const operations = [
    { type: 'ssid.add', ssid },
    { type: 'class.add', accessClass: tills },
  ];
  const edited = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
  expect(edited.json.flaws ?? []).toEqual([]);
  const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ap.comply();
  await ada.until(`/api/rollouts/${rollout.id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null);
});
afterAll(async () => {
  ap.hangUp();
  await setting.end();
});

const T = Date.now() - 3_600_000;
type Air = Report['clients'][number];

const MARN_HERE: Air = {
  ...{
    mac: MARN,
    ssid: 'Deck',
    vlan: 10,
    address: '10.1.10.20',
    since: T + 1_000,
    name: 'marn-laptop',
    band: '5',
    signal: -60,
  },
  entered: { user: 'marn.ellis', method: 'peap', server: 'Quay' },
};
const LISTED_HERE: Air = {
  ...{ mac: LISTED, ssid: 'Quay guests', vlan: 20, address: null, since: T + 1_000, band: '5', signal: -60 },
};
const report = (clients: Air[], more: Partial<Report> = {}): void =>
  ap.say({
    type: 'report',
    report: {
      ...{ address: null, uptime: 60, neighbours: [], uplinks: [], leases: [], counters: [] },
      ...{ clients, ...more },
    },
  });
const all = (query = ''): Promise<RegisterView> => ada.get(`/api/clients${query}`);
const listed = (macs: string[]) =>
  ada.until(
    '/api/clients',
    ({ clients }: RegisterView) =>
      clients
        .map(({ mac }) => mac)
        .sort()
        .join() === macs.sort().join(),
  );
/** How often it is kept beside the register that a client was on the air. */
const traces = async (mac: string): Promise<number> => {
  const { database } = setting.controller;
  return (await database.query(`SELECT 1 FROM air_visit WHERE mac = '${mac}'`))[0].length;
};
const here = (mac: string, is: boolean) =>
  ada.until('/api/clients', ({ clients }: RegisterView) => clients.find((each) => each.mac === mac)?.here === is);

test('everybody who is seen is kept: when first and last, where, as what; and found by what is known of it', async () => {
  report(
    [
      MARN_HERE,
      LISTED_HERE,
      { ...MARN_HERE, mac: ap.mac },
      { ...MARN_HERE, mac: '01:00:5e:00:00:01' },
      { ...MARN_HERE, mac: 'nobody' },
    ],
    {
      wired: [{ mac: TILL, port: '1', vlan: 10, classId: KIOSKS }],
      leases: [{ vlan: 10, mac: TILL, address: '10.1.10.30', since: T + 1_000, name: 'till-3' }],
    },
  );
  // Neither devices of ours, nor addresses of groups, nor what is no address at all.
  const { clients, count } = await listed([MARN, LISTED, TILL]);
  expect(count).toBe(3);
  expect(clients.find(({ mac }: { mac: string }) => mac === MARN)).toMatchObject({
    ...{ said: 'marn-laptop', here: true, name: '', note: '' },
    last: {
      siteId,
      ssid: 'Deck',
      port: null,
      user: 'marn.ellis',
      server: 'Quay',
      accessClass: '',
      address: '10.1.10.20',
      times: 1,
    },
  });
  expect(clients.find(({ mac }: { mac: string }) => mac === TILL)).toMatchObject({
    ...{ said: 'till-3', last: { port: '1', ssid: null, accessClass: 'Kiosks', segment: 'Crew' } },
  });

  report([LISTED_HERE, { ...MARN_HERE, since: T + 2_000, ssid: 'Crew' }]);
  await here(TILL, false);
  const stays: ClientStay[] = await ada.get(`/api/clients/${MARN}/stays`);
  expect(stays.map(({ ssid, here: is }) => [ssid, is])).toEqual([
    ['Crew', true],
    ['Deck', false],
  ]);
  report([LISTED_HERE, { ...MARN_HERE, since: T + 3_000, ssid: 'Crew' }]);
  await ada.until(`/api/clients/${MARN}/stays`, ([last]: ClientStay[]) => last?.times === 2);

  const found = async (words: string) =>
    (await all(`?words=${encodeURIComponent(words)}`)).clients.map(({ mac }) => mac);
  expect(await found('0EC4.6000')).toEqual([MARN]);
  expect(await found('marn.ell')).toEqual([MARN]);
  expect(await found('%')).toEqual([]);
  expect(await found('...')).toEqual([]);
  expect((await all(`?siteId=${siteId}`)).count).toBe(3);
  expect((await all(`?siteId=${'0'.repeat(8)}-0000-4000-8000-000000000000`)).count).toBe(0);
});

test('a client has a name and a note, which stand wherever it is shown, and no two people overwrite each other', async () => {
  const [was, to] = [
    { name: '', note: '' },
    { name: ' Till of the kiosk ', note: 'lent until spring' },
  ];
  expect((await oli.ask('PATCH', `/api/clients/${TILL}`, { was, to })).status).toBe(403);
  expect((await ada.ask('PATCH', `/api/clients/${TILL}`, { was, to })).status).toBe(204);
  expect((await ada.ask('PATCH', `/api/clients/${TILL}`, { was, to })).json).toMatchObject({
    type: expect.stringContaining('client.changed'),
  });
  expect(
    (await ada.ask('PATCH', `/api/clients/${TILL}`, { was: to, to: { ...to, name: 'x'.repeat(65) } })).status,
  ).toBe(422);
  expect((await all('?words=kiosk')).clients).toMatchObject([{ mac: TILL, name: 'Till of the kiosk' }]);
  // Found by name wherever one looks, however its MAC address is written; by two characters nobody is.
  const search = async (words: string): Promise<SearchHit[]> =>
    ((await oli.get(`/api/search?q=${encodeURIComponent(words)}`)) as SearchHit[]).filter(
      ({ kind }) => kind === 'client',
    );
  const hit = { kind: 'client', id: TILL, siteId: null, title: 'Till of the kiosk' };
  expect(await search('of the kio')).toMatchObject([hit]);
  expect(await search(TILL.toUpperCase().replaceAll(':', '-'))).toMatchObject([hit]);
  expect(await search('ki')).toEqual([]);
  report([LISTED_HERE], {
    wired: [{ mac: TILL, port: '1', vlan: 10, classId: KIOSKS }],
    unknown: [{ mac: TILL, port: '1', why: 'unlisted' }],
  });
  await ada.until(`/api/sites/${siteId}/clients`, (list: { mac: string; name: string }[]) =>
    list.some(({ mac, name }) => mac === TILL && name === 'Till of the kiosk'),
  );
  expect(await ada.get(`/api/sites/${siteId}/unknown-clients`)).toMatchObject([
    { mac: TILL, name: 'Till of the kiosk' },
  ]);
  // The journal is for good, and clients are not.
  const [rows] = await setting.controller.database.query(`SELECT detail FROM journal WHERE act LIKE 'client.%'`);
  expect(JSON.stringify(rows)).not.toMatch(/kiosk|0c:c4/);
});

async function renames(from: string, to: string): Promise<void> {
  const { id, head } = await ada.get('/api/drafts/current');
  const operations = [{ type: 'ssid.set', ssidId, from: { name: from }, to: { name: to } }];
  await ada.post(`/api/drafts/${id}/operations`, { head, operations });
  const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ap.comply();
  await ada.until(`/api/rollouts/${rollout.id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null);
}

test('of clients of an SSID nothing is kept by whatever name it is sent', async () => {
  const usual: RegisterKeeping = await ada.get('/api/register-keeping');
  await ada.post('/api/register-keeping', { ...usual, ssidIds: [ssidId] });
  await renames('Quay guests', 'Quay visitors');
  report([
    { ...LISTED_HERE, ssid: 'Quay visitors' },
    { ...MARN_HERE, ssid: 'Bridge' },
  ]);
  await ada.until(`/api/clients/${MARN}/stays`, ([last]: ClientStay[]) => last?.ssid === 'Bridge');
  expect((await all()).clients.map(({ mac }) => mac)).not.toContain(LISTED);
  await renames('Quay visitors', 'Quay guests');
  await ada.post('/api/register-keeping', usual);
  report([{ ...LISTED_HERE, since: T + 4_000 }, MARN_HERE], { wired: [{ mac: TILL, port: '1', vlan: 10 }] });
  await here(LISTED, true);
});

test('whoever is at a device that is not heard any more was there until then, and is gone after the days that are kept', async () => {
  ap.hangUp();
  await ada.until(`/api/sites/${siteId}/devices`, ([device]: { online: boolean }[]) => !device!.online);
  const { database } = setting.controller;
  const tidy = async () => {
    for (const sql of REGISTER_HOUSEKEEPING) await database.query(sql);
  };
  await tidy();
  expect((await all()).clients.map(({ here: is }) => is)).toEqual([false, false, false]);
  await database.query(`UPDATE client_seen SET last_at = now() - interval '91 days' WHERE mac = '${MARN}'`);
  await database.query(`UPDATE client_place SET last_at = now() - interval '91 days' WHERE mac = '${MARN}'`);
  await tidy();
  expect((await all()).clients.map(({ mac }) => mac).sort()).toEqual([LISTED, TILL].sort());
  await ap.call();
  report([MARN_HERE, LISTED_HERE], { wired: [{ mac: TILL, port: '1', vlan: 10 }] });
  await here(MARN, true);
  await here(TILL, true);
  // Whoever went while its line was away is not there any more, as soon as it says who is.
  ap.hangUp();
  await ada.until(`/api/sites/${siteId}/devices`, ([device]: { online: boolean }[]) => !device!.online);
  await ap.call();
  report([LISTED_HERE], { wired: [{ mac: TILL, port: '1', vlan: 10 }] });
  await here(MARN, false);
  const [rows] = await database.query(`SELECT here FROM client_seen WHERE mac = '${MARN}'`);
  expect(rows).toEqual([{ here: false }]);
  report([MARN_HERE, LISTED_HERE], { wired: [{ mac: TILL, port: '1', vlan: 10 }] });
  await here(MARN, true);
});

test('of clients of an SSID or a site nothing is kept where so chosen, and what would be erased is said before', async () => {
  const usual: RegisterKeeping = await ada.get('/api/register-keeping');
  expect(usual).toEqual({ days: 90, siteIds: [], ssidIds: [] });
  const wanted = { ...usual, ssidIds: [ssidId] };
  const looked: RegisterErased = await ada.post('/api/register-keeping/look', wanted);
  expect(looked).toEqual({ clients: 1, noted: 0, places: 0 });
  expect((await all()).count).toBe(3);
  expect((await oli.ask('POST', '/api/register-keeping', wanted)).status).toBe(403);
  await expect.poll(() => traces(LISTED)).toBeGreaterThan(0);
  expect(await ada.post('/api/register-keeping', wanted)).toEqual(looked);
  expect(await traces(LISTED)).toBe(0);
  await expect.poll(() => traces(MARN)).toBeGreaterThan(0);
  expect((await all()).clients.map(({ mac }) => mac).sort()).toEqual([MARN, TILL].sort());
  report([MARN_HERE, { ...LISTED_HERE, since: T + 5_000 }], { wired: [{ mac: TILL, port: '1', vlan: 11 }] });
  await ada.until(`/api/clients/${TILL}/stays`, ([last]: ClientStay[]) => last?.segment === 'VLAN 11');
  expect((await all()).count).toBe(2);
  expect(await traces(LISTED)).toBe(0);

  expect(await ada.post('/api/register-keeping', { ...usual, siteIds: [siteId] })).toEqual({
    clients: 2,
    noted: 1,
    places: 0,
  });
  report([MARN_HERE]);
  expect((await all()).count).toBe(0);
  // Kept again: whoever is there stands there at once, and nobody is asked to come anew.
  await ada.post('/api/register-keeping', usual);
  report([MARN_HERE, LISTED_HERE]);
  await listed([MARN, LISTED]);
  for (const bad of [
    { ...usual, days: 0 },
    { ...usual, siteIds: [ssidId, ssidId] },
  ])
    expect((await ada.ask('POST', '/api/register-keeping', bad)).status).toBe(400);
  expect((await ada.ask('POST', '/api/register-keeping', { ...usual, siteIds: [ssidId] })).status).toBe(404);
});

test('somebody is erased when that is wanted, and who was cannot be told from anything that is left', async () => {
  expect((await oli.ask('POST', '/api/clients/forget', { macs: [MARN] })).status).toBe(403);
  // Its latest visit is known of already, and written down a moment later.
  report([{ ...MARN_HERE, since: T + 6_000 }, LISTED_HERE]);
  await ada.until(`/api/clients/${MARN}/stays`, ([last]: ClientStay[]) => last?.times === 2);
  expect(await ada.post('/api/clients/forget', { macs: [MARN, TILL] })).toEqual({ count: 1 });
  expect((await all()).clients.map(({ mac }) => mac)).toEqual([LISTED]);
  expect(await ada.get(`/api/clients/${MARN}/stays`)).toEqual([]);
  expect(await traces(MARN)).toBe(0);
  const before = await traces(LISTED);
  report([{ ...LISTED_HERE, since: T + 7_000 }]);
  await expect.poll(() => traces(LISTED)).toBeGreaterThan(before);
  expect(await traces(MARN)).toBe(0);
});
