import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let pier: { id: string; version: number; tags: string[] };
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0];
});
afterAll(() => setting.end());

const WISH = { name: 'Copy', code: 'cp', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: ['pier'] };

test('a copy has the other’s segments in space of its own, and its SSIDs are put to the draft, not sent', async () => {
  const draft = await ada.get('/api/drafts/current');
  const secret = crypto.randomUUID();
  const ssid = {
    id: crypto.randomUUID(),
    name: 'Deck',
    security: 'wpa3-sae',
    passphrase: { secret },
    bands: ['5'],
    segment: 'Crew',
    reach: { kind: 'sites', siteIds: [pier.id] },
  };
  const added = await ada.ask('POST', `/api/drafts/${draft.id}/operations`, {
    head: draft.head,
    operations: [{ type: 'ssid.add', ssid }],
    secrets: { [secret]: 'half past nine' },
  });
  expect(added.status).toBe(200);
  const copy = (await ada.ask('POST', '/api/site-copies', { ...WISH, from: pier.id })).json;
  expect(copy).toMatchObject({ name: 'Copy', tags: ['pier'], drafts: 0 });
  const { site, estate } = await ada.get(`/api/drafts/current/sites/${copy.id}`);
  expect(site.segments.map((each: { name: string; vlan: number }) => [each.name, each.vlan])).toEqual([
    ['Management', 1],
    ['Crew', 10],
  ]);
  const subnets = site.segments.map((each: { subnet: string }) => each.subnet);
  expect(subnets.some((subnet: string) => subnet.startsWith('10.5.'))).toBe(false);
  expect(estate.ssids[0].reach.siteIds).toEqual([pier.id, copy.id]);
  expect((await ada.ask('POST', '/api/site-copies', { ...WISH, from: pier.id })).json.title).toBe(
    'There is already a site “Copy”.',
  );
});

test('address, tags and window act at once and are kept; a window that is none is refused', async () => {
  const change = {
    address: '1 Pier Head',
    coordinates: { latitude: 53.3498, longitude: -6.2603 },
    purpose: 'Where the night boat lands',
    tags: ['pier', 'north'],
    window: { day: 2, from: 60, minutes: 90 },
  };
  const { version } = pier;
  const patch = (more: object) => ada.ask('PATCH', `/api/sites/${pier.id}`, { version, ...change, ...more });
  expect((await patch({})).json).toMatchObject({ ...change, version: version + 1 });
  expect((await ada.get('/api/estate')).sites.find((site: { id: string }) => site.id === pier.id)).toMatchObject(
    change,
  );
  const stale = await patch({ tags: ['mine'] }); // somebody who looked before that
  expect([stale.status, stale.json.type]).toEqual([409, 'about:lattice/site.stale']);
  expect(stale.json.title).toContain('the tags “pier, north” now');
  expect((await ada.ask('PATCH', `/api/sites/${pier.id}`, change)).status).toBe(400);
  const bad = await patch({ version: version + 1, window: { day: 2, from: 60, minutes: 5 } });
  expect([bad.status, bad.json.flaws[0].field]).toEqual([422, 'minutes']);
  const off = { latitude: 91, longitude: 0 };
  expect((await patch({ version: version + 1, coordinates: off })).status).toBe(400);
  expect(await ada.get('/api/search?q=night%20boat')).toMatchObject([{ kind: 'site', title: 'Pier' }]);
});

test('a site says how many drafts with edits of it wait', async () => {
  const before = (await ada.get('/api/estate')).sites.find((site: { id: string }) => site.id === pier.id).drafts;
  const draft = await ada.get('/api/drafts/current');
  const { site } = await ada.get(`/api/drafts/current/sites/${pier.id}`);
  const segmentId = site.segments[1].id;
  await ada.post(`/api/drafts/${draft.id}/operations`, {
    head: draft.head,
    operations: [{ type: 'segment.set', siteId: pier.id, segmentId, from: { name: 'Crew' }, to: { name: 'Hands' } }],
  });
  const count = async () =>
    (await ada.get('/api/estate')).sites.find((each: { id: string }) => each.id === pier.id).drafts;
  expect([before, await count()]).toEqual([0, 1]);
  await ada.ask('POST', `/api/drafts/${draft.id}/undo`, {});
  expect(await count()).toBe(0);
});

test.each([
  ['10.1.0.0/8', /16,384 addresses/],
  ['8.8.8.0/24', /your own networks/],
  ['nonsense', /is not a prefix/],
  ['2001:db8::/64', /IPv6/],
])('a sweep of %s is refused with the reason', async (prefix, reason) => {
  const refused = await ada.ask('POST', '/api/sweeps', { prefix, deviceId: null, siteId: null });
  expect([refused.status, refused.json.flaws[0].field]).toEqual([422, 'prefix']);
  expect(refused.json.title).toMatch(reason);
});

test('a sweep is done by a gateway that is there, or not at all', async () => {
  const { rows } = await ada.get('/api/devices');
  const deviceId = rows[0].id; // a switch, and silent
  const refused = await ada.ask('POST', '/api/sweeps', { prefix: '10.5.1.0/24', deviceId, siteId: pier.id });
  expect(refused.json.title).toBe('pr-sw-01 is silent. Check its power and cable.');
});
