import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { DraftView, SiteDraft, TunnelKeyView } from '@iron-lattice/core/assess';
import type { GatewayDocument } from '@iron-lattice/core/document';
import type { BranchesCommon, BranchesSeen, DeviceRows, EstateView, SiteRemoval } from '@iron-lattice/core/intake';
import type { Operation } from '@iron-lattice/core/intent';
import { TestController, type TestCaller } from '../../testing/test-controller';
import { TestDevice } from '../../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let hub: TestDevice;
let quay: string;
let draftId: string;
const recipeId = randomUUID();
let common: BranchesCommon;

const HEAD = ['name', 'gateway', 'model', 'uplinks', 'tags'];
const row = (n: number, more: readonly string[] = ['dhcp 100/20', 'terminal']): string[] => [
  ...[`Stop ${n}`, `BR-100${n}`, 'GW-4', ...more],
];
const tableOf = (...rows: string[][]) => [HEAD, ...rows];
const edit = async (...operations: Operation[]): Promise<void> => {
  const { head } = await ada.get(`/api/drafts/${draftId}`);
  const answer = await ada.ask('POST', `/api/drafts/${draftId}/operations`, { head, operations });
  expect(answer.json).toMatchObject({ id: draftId });
};
const ask = (path: 'branches' | 'branches/look', body: object) =>
  ada.ask('POST', `/api/drafts/${draftId}/${path}`, { common, ...body });
const look = async (table: string[][]): Promise<BranchesSeen> => (await ask('branches/look', { table })).json;
const make = async (table: string[][], leaveOutBad = false) => {
  const { basis } = await look(table);
  return ask('branches', { table, basis, leaveOutBad });
};
const siteCalled = async (name: string) =>
  ((await ada.get('/api/estate')) as EstateView).sites.find((site) => site.name === name);

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  quay = (await ada.post('/api/sites', { name: 'Quay', code: 'qu', country: 'IE', timeZone: 'Europe/Dublin' })).id;
  hub = new TestDevice(setting.controller.url, 'HB-0001', 'GW-4', '02:00:00:00:93:01');
  await hub.call();
  await ada.until('/api/calling', (all: unknown[]) => all.length === 1);
  const { claimed } = await ada.post(`/api/sites/${quay}/claims`, { serials: [hub.serial] });
  await hub.comply();
  draftId = (await ada.get('/api/drafts/current')).id;
  const [key] = (await ada.post('/api/tunnel-keys', { count: 1 })) as TunnelKeyView[];
  await edit(
    { type: 'overlay.set', from: null, to: { spans: ['10.0.0.0/8'] } },
    {
      type: 'member.add',
      member: {
        ...{ id: randomUUID(), siteId: quay, deviceId: claimed[0].id, role: 'hub', hubs: [], direct: [], prefixes: [] },
        ...{ segments: 'all', takes: null, leaves: 'here', found: { wan1: '203.0.113.9' }, key: key! },
      },
    },
    {
      type: 'recipe.add',
      recipe: {
        ...{ id: recipeId, name: 'Tickets', vlan: 20, purpose: '', domain: '', length: 24, parent: null },
        leaseSeconds: 3600,
      },
    },
  );
  common = { recipeIds: [recipeId], hubs: [quay], shares: [], leaves: 'here', like: null, pool: null };
});
afterAll(async () => {
  hub.hangUp();
  await setting.end();
});

test('branches are seen before anything of them is there: each in full, and who else would be told', async () => {
  const seen = await look(tableOf(row(1), row(2), ['Stop 3', 'BR-1001', 'GW-4', '', '']));
  expect(seen.rows.map(({ flaws }) => flaws.map(({ field }) => field))).toEqual([[], [], ['serial']]);
  expect(seen.count).toEqual({ sites: 2, devices: 2, calling: 0, edits: 6 });
  expect(seen.elsewhere).toEqual([{ siteId: quay, name: 'Quay', devices: 1 }]);
  expect(seen.rows[0]!.good!.parts.map(({ what }) => what)).toContain('Tickets');
  expect(await siteCalled('Stop 1')).toBeUndefined();
  expect((await ada.get(`/api/drafts/${draftId}`)).edits).toBe(3);
});

test('what would be found at them is told, as it will be once their boxes are there', async () => {
  const guarantee = {
    ...{ id: randomUUID(), kind: 'never' as const, from: [{ kind: 'segment' as const, name: 'Tickets' }] },
    ...{ to: [{ kind: 'internet' as const }], services: [{ protocol: 'any' as const }] },
  };
  await edit({ type: 'guarantee.add', shared: true, guarantee });
  const { findings } = await look(tableOf(row(1)));
  expect(findings).toMatchObject([
    { name: 'Stop 1', found: [{ severity: 'error', message: expect.stringMatching(/^Broken: /) as string }] },
  ]);
  await edit({ type: 'guarantee.remove', shared: true, guaranteeId: guarantee.id });
  // A gateway that is expected routes: no segment is told to be without one.
  expect((await look(tableOf(row(1)))).findings).toEqual([]);
});

test('a bad row means that none is made, unless it may be left out; what was seen is what is made', async () => {
  const table = tableOf(row(1), ['', 'BR-1009', 'GW-4', '', '']);
  expect(await make(table)).toMatchObject({ status: 422, json: { type: 'about:lattice/list.refused' } });
  const { basis } = await look(tableOf(row(1)));
  const other = await ask('branches', { table: tableOf(row(2)), basis, leaveOutBad: false });
  expect(other).toMatchObject({ status: 409, json: { type: 'about:lattice/branches.moved' } });
  expect(await siteCalled('Stop 1')).toBeUndefined();
});

test('made, their sites are there and their boxes expected at once, and the rest waits in the draft', async () => {
  const made = await make(tableOf(row(1), row(2), ['', 'BR-1009', 'GW-4', '', '']), true);
  expect(made).toMatchObject({ status: 201, json: { sites: 2, devices: 2, edits: 6 } });
  const site = (await siteCalled('Stop 1'))!;
  expect(site).toMatchObject({ tags: ['terminal'], devices: { expected: 1 }, timeZone: 'Europe/Dublin' });
  expect(site.code).toMatch(/^[a-z0-9]{2,8}$/);
  // Said once, undone once.
  expect(await ada.get(`/api/drafts/${draftId}`)).toMatchObject({ edits: 11, undoes: 6 } satisfies Partial<DraftView>);
  const there: SiteDraft = await ada.get(`/api/drafts/${draftId}/sites/${site.id}`);
  expect(there.roster).toMatchObject([{ name: `${site.code}-gw-01`, model: 'GW-4', expected: true }]);
  expect(there.site.uplinks![there.roster[0]!.id]).toEqual({ wan1: { down: 100, up: 20 } });
  // Nobody who is not there is told anything.
  expect(there.consequences.changes).toEqual([]);
  const { basis } = await look(tableOf(row(4)));
  const again = await ask('branches', { table: tableOf(row(1)), basis, leaveOutBad: false });
  expect(again.status).toBe(422);
});

test('rolled out, their hub is told; a box that calls then is taken in under its name with all that was said', async () => {
  const check = await ada.get(`/api/drafts/${draftId}/rollout-check`);
  expect([check.devices, check.silent]).toEqual([1, 0]);
  const told = hub.next('document');
  await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  const frame = await told;
  hub.say({ type: 'applied', hash: frame.hash });
  await hub.next('keep');
  hub.say({ type: 'kept', hash: frame.hash });
  await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done');
  const { peers } = (frame.document as GatewayDocument).overlay!;
  expect(peers.map(({ name }) => name)).toEqual(['Stop 1', 'Stop 2']);

  const site = (await siteCalled('Stop 1'))!;
  const box = new TestDevice(setting.controller.url, 'BR-1001', 'GW-4', '02:00:00:00:93:11');
  const first = box.next('document').then(({ document }) => document as GatewayDocument);
  await box.call();
  const document = await first;
  expect(document.device).toMatchObject({ name: `${site.code}-gw-01`, serial: 'BR-1001' });
  expect(document.overlay).toMatchObject({ role: 'spoke', name: 'Stop 1', public: peers[0]!.public });
  expect(document.overlay!.peers[0]).toMatchObject({ name: 'Quay', at: ['203.0.113.9'] });
  expect(document.uplinks[0]).toMatchObject({ port: 'wan1' });
  const rows: DeviceRows = await ada.get(`/api/devices?siteId=${site.id}`);
  expect(rows.rows).toMatchObject([{ name: `${site.code}-gw-01`, serial: 'BR-1001' }]);
  box.hangUp();
});

test('what was said of a box that is no longer expected no longer fits, and nothing else is lost', async () => {
  draftId = (await ada.get('/api/drafts/current')).id;
  expect((await make(tableOf(row(5), row(6)))).status).toBe(201);
  const { edits } = await ada.get(`/api/drafts/${draftId}`);
  const site = (await siteCalled('Stop 5'))!;
  const there: SiteDraft = await ada.get(`/api/drafts/${draftId}/sites/${site.id}`);
  await ada.ask('POST', '/api/expected/removals', { deviceIds: [there.roster[0]!.id] });
  const after: DraftView = await ada.get(`/api/drafts/${draftId}`);
  expect(after.misfits.map(({ operation: { type } }) => type).sort()).toEqual(['member.add', 'uplink.set']);
  expect(after.edits).toBe(edits);
});

test('a box that calls already is taken in at once, by its serial number alone', async () => {
  const box = new TestDevice(setting.controller.url, 'BR-1007', 'GW-4', '02:00:00:00:93:17');
  await box.call();
  await ada.until('/api/calling', (all: { serial: string }[]) => all.some(({ serial }) => serial === 'BR-1007'));
  const table = tableOf(['Stop 7', 'BR-1007', '', 'dhcp', '']);
  const { count, elsewhere } = await look(table);
  expect(count).toMatchObject({ devices: 1, calling: 1 });
  // It is told what is live at once; the draft tells it the rest.
  expect(elsewhere).toContainEqual({ siteId: expect.any(String) as string, name: 'Stop 7', devices: 1 });
  expect((await make(table)).status).toBe(201);
  const site = (await siteCalled('Stop 7'))!;
  await box.comply();
  const there: SiteDraft = await ada.until(`/api/drafts/${draftId}/sites/${site.id}`, ({ roster }: SiteDraft) =>
    roster.some(({ expected }) => !expected),
  );
  expect(there.draft.misfits.filter(({ words }) => words.includes('Stop 7'))).toEqual([]);
  expect(there.consequences.changes).toMatchObject([{ name: `${site.code}-gw-01` }]);
  box.hangUp();
});

test('a branch that was made by mistake is taken away again, with its boxes and what the draft says of it; nothing else goes', async () => {
  const { edits } = await ada.get(`/api/drafts/${draftId}`);
  expect((await make(tableOf(row(10), row(11)))).status).toBe(201);
  const site = (await siteCalled('Stop 10'))!;
  const there: SiteDraft = await ada.get(`/api/drafts/${draftId}/sites/${site.id}`);
  // What was said of it since goes too.
  const member = there.estate.members!.find(({ siteId }) => siteId === site.id)!;
  await edit({ type: 'member.set', memberId: member.id, from: { leaves: 'here' }, to: { leaves: 'hub' } });
  const path = `/api/sites/${site.id}/removal`;
  const seen: SiteRemoval = await ada.get(path);
  expect(seen).toMatchObject({ why: null, boxes: 1, edits: 4 });
  const { boxes, edits: going } = seen;
  const stale = await ada.ask('POST', path, { boxes, edits: going - 1 });
  expect(stale).toMatchObject({ status: 409, json: { type: 'about:lattice/site.stale' } });
  expect((await ada.ask('POST', path, { boxes, edits: going })).status).toBe(204);
  expect(await siteCalled('Stop 10')).toBeUndefined();
  expect(await ada.get(`/api/drafts/${draftId}`)).toMatchObject({ edits: edits + 3 });
  expect(
    (await ada.get(`/api/drafts/${draftId}`)).misfits.filter(({ words }: { words: string }) => words.includes('Stop')),
  ).toEqual([]);
  // Its name and its box are free again.
  expect((await look(tableOf(row(10)))).rows[0]!.flaws).toEqual([]);
  expect((await ada.ask('GET', path)).status).toBe(404);
});

test('a site where devices are, or that what is live or a draft names beside others, stays, and it is said what to do first', async () => {
  const why = async (siteId: string): Promise<string | null> =>
    ((await ada.get(`/api/sites/${siteId}/removal`)) as SiteRemoval).why;
  expect(await why(quay)).toMatch(/^1 device is at Quay\./);
  // Rolled out with its hub: what joins sites names it, though its box never called.
  const second = (await siteCalled('Stop 2'))!;
  expect(await why(second.id)).toMatch(/^What joins sites names Stop 2 where it is live\./);
  expect(await ada.ask('POST', `/api/sites/${second.id}/removal`, { boxes: 1, edits: 0 })).toMatchObject({
    status: 409,
    json: { type: 'about:lattice/site.named' },
  });
  const eleven = (await siteCalled('Stop 11'))!;
  const guarantee = {
    ...{ id: randomUUID(), kind: 'never' as const, from: [{ kind: 'any' as const }], to: [{ kind: 'any' as const }] },
    ...{ services: [{ protocol: 'any' as const }], toSite: eleven.id },
  };
  await edit({ type: 'guarantee.add', siteId: quay, guarantee });
  expect(await why(eleven.id)).toMatch(/names Stop 11 beside other sites/);
  const oli = await setting.as('oli');
  expect((await oli.ask('POST', `/api/sites/${eleven.id}/removal`, { boxes: 1, edits: 3 })).status).toBe(403);
});

test('observers look at none, and lists have an end', async () => {
  const oli = await setting.as('oli');
  const body = { table: tableOf(row(8)), common };
  expect((await oli.ask('POST', `/api/drafts/${draftId}/branches/look`, body)).status).toBe(403);
  const many = tableOf(...Array.from({ length: 201 }, (_, i) => row(i)));
  expect((await look(many)).flaws).toMatchObject([{ code: 'list.long' }]);
  expect((await ask('branches/look', { table: [...many, ...many] })).status).toBe(400);
  const sample = await ada.fetch('GET', '/api/branch-lists/sample');
  expect(await sample.text()).toMatch(/^name,gateway,model,country/);
});
