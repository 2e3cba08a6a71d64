import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId: string;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const WISH = {
  ...{ name: 'Visitors', security: 'open', bands: ['5'], ways: ['accept', 'code'], visit: 240, hours: null },
  ...{ caps: { client: { down: 8000, up: 2000 } }, dns: [] },
};
const composed = async (more: object = {}) => {
  const { id } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/guest-network`, { ...WISH, siteIds: [siteId], ...more });
};

test('a guest network is composed without a change, and its edits make it in one', async () => {
  const before = await ada.get('/api/drafts/current');
  const { status, json } = await composed();
  expect(status).toBe(200);
  expect(json.parts.map(({ kind }: { kind: string }) => kind)).toEqual(['segment', 'guarantee', 'portal', 'ssid']);
  expect(await ada.get('/api/drafts/current')).toEqual(before);
  const { operations, mends } = json;
  const all = [...operations, ...mends.flatMap((site: any) => site.steps.flatMap((step: any) => step.operations))];
  const edited = await ada.ask('POST', `/api/drafts/${before.id}/operations`, { head: before.head, operations: all });
  expect(edited.status).toBe(200);
  const { estate, site } = await ada.get(`/api/drafts/current/sites/${siteId}`);
  expect(estate.portals).toEqual([expect.objectContaining({ id: json.portalId, name: 'Visitors', visit: 240 })]);
  expect(site.segments.map(({ name }: { name: string }) => name)).toContain('Visitors');
  expect(site.guarantees).toHaveLength(1);
  // What one press made, one press takes back, and brings back.
  const portals = async () => (await ada.get(`/api/drafts/current/sites/${siteId}`)).estate.portals ?? [];
  const undone = await ada.post(`/api/drafts/${before.id}/undo`);
  expect([undone.edits, undone.canUndo, undone.canRedo, await portals()]).toEqual([0, false, true, []]);
  const redone = await ada.post(`/api/drafts/${before.id}/redo`);
  expect([redone.edits, redone.canUndo, redone.canRedo]).toEqual([all.length, true, false]);
  expect(await portals()).toHaveLength(1);
  await ada.post(`/api/drafts/${before.id}/undo`);
});

test('the port that an AP hangs on is among what would be mended; what is wrong already is not', async () => {
  const gw = new TestDevice(setting.controller.url, 'GN-0', 'GW-4', '02:00:00:0a:00:06');
  const sw = new TestDevice(setting.controller.url, 'SW-0001', 'SW-8P', '02:00:00:00:00:01');
  const ap = new TestDevice(setting.controller.url, 'GN-1', 'AP-6', '02:00:00:0a:00:07');
  const boxes = [gw, sw, ap];
  for (const box of boxes) await box.call();
  await ada.until('/api/calling', (all: unknown[]) => all.length === 2);
  await ada.post(`/api/sites/${siteId}/claims`, { serials: [gw.serial, ap.serial] });
  for (const box of boxes) await box.comply();
  const bare = { address: null, uptime: 60, uplinks: [], clients: [], leases: [], counters: [] };
  const reports = (box: TestDevice, ...neighbours: { port: string; chassis: string; theirPort: string }[]): void =>
    box.say({ type: 'report', report: { ...bare, neighbours } });
  reports(ap, { port: 'lan', chassis: sw.mac, theirPort: '3' });
  reports(gw, { port: '1', chassis: sw.mac, theirPort: '1' });
  reports(sw, { port: '3', chassis: ap.mac, theirPort: 'lan' }, { port: '1', chassis: gw.mac, theirPort: '1' });
  await ada.until(`/api/sites/${siteId}/devices`, (all: { neighbours: unknown[] }[]) =>
    all.every(({ neighbours }) => neighbours.length > 0),
  );
  const mends = async () => (await composed()).json.mends.flatMap(({ steps }: { steps: unknown[] }) => steps);
  const codes = (steps: { finding: { code: string } }[]) => steps.map(({ finding }) => finding.code);
  expect(codes(await mends())).toEqual(['lattice.not-carried']);
  // Another SSID whose segment its port does not carry is not the guests’ business.
  const { id, head } = await ada.get('/api/drafts/current');
  const ssid = { id: randomUUID(), name: 'Crew', security: 'open', passphrase: null, bands: ['5'], segment: 'Crew', reach: { kind: 'estate' } }; // prettier-ignore
  await ada.post(`/api/drafts/${id}/operations`, { head, operations: [{ type: 'ssid.add', ssid }] });
  const known = await ada.post(`/api/drafts/${id}/mends`, { siteIds: [siteId], given: [] });
  expect(codes(known.flatMap(({ steps }: { steps: unknown[] }) => steps))).toContain('lattice.not-carried');
  const both = (await mends()).flatMap(({ operations }: { operations: unknown[] }) => operations);
  expect(JSON.stringify(both)).not.toContain('Crew');
  for (const box of boxes) box.hangUp();
});

test('what is wrong is said at its field, and nothing else may be said', async () => {
  const flawsOf = async (more: object) => {
    const { status, json } = await composed(more);
    return [status, json.flaws?.map(({ field }: { field?: string }) => field)];
  };
  expect(await flawsOf({ name: '' })).toEqual([422, ['name']]);
  expect(await flawsOf({ siteIds: [] })).toEqual([422, ['siteIds']]);
  expect((await flawsOf({ visit: 1 }))[1]).toContain('visit');
  expect(await flawsOf({ dns: ['names.example'] })).toEqual([422, ['dns']]);
  expect((await flawsOf({ security: 'wpa2' }))[0]).toBe(400);
  expect((await flawsOf({ ways: [] }))[0]).toBe(400);
  const oli = await setting.as('oli');
  const { id } = await ada.get('/api/drafts/current');
  expect((await oli.ask('POST', `/api/drafts/${id}/guest-network`, WISH)).status).toBe(403);
});
