import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let box: TestDevice;
const segment = { id: randomUUID(), name: 'Deck', vlan: 30, subnet: '10.5.30.0/24', gateway: '10.5.30.1' };
const rule = {
  id: randomUUID(),
  verdict: 'deny',
  from: [{ kind: 'any' }],
  to: [{ kind: 'addresses', text: '10.9.0.0/16' }],
  services: [{ protocol: 'any' }],
};

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  box = new TestDevice(setting.controller.url, 'SW-0001');
  await box.call();
  void box.obey();
  await live({ type: 'segment.add', siteId, segment: { ...segment, addresses: null } });
  await live({ type: 'segment.set', siteId, segmentId: segment.id, from: { vlan: 30 }, to: { vlan: 31 } });
  await live({ type: 'rule.add', book: 'before', behind: null, rules: [rule] });
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});

const current = () => ada.get('/api/drafts/current');
/** Makes an edit live, as a revision of its own. */
async function live(...operations: object[]): Promise<void> {
  const { id, head } = await current();
  if (operations.length > 0) await ada.post(`/api/drafts/${id}/operations`, { head, operations });
  const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ada.until<any>(`/api/rollouts/${rollout.id}`, ({ endedAt }) => endedAt !== null);
}
const compare = (from: number, to: number) => ada.get(`/api/revision-comparison?from=${from}&to=${to}`);
const compareSite = (from: number, to: number) =>
  ada.get(`/api/revision-comparison/sites/${siteId}?from=${from}&to=${to}`);
const back = async (revision: number, at: string | null) =>
  ada.ask('POST', `/api/drafts/${(await current()).id}/back`, { revision, siteId: at });
const undo = async () => ada.post(`/api/drafts/${(await current()).id}/undo`);

test('two revisions are compared: what sites share, objects of a site, and each line of its documents', async () => {
  expect(await ada.get('/api/revisions')).toMatchObject([{ number: 3 }, { number: 2, sites: 1 }, { number: 1 }]);
  expect(await compare(1, 2)).toEqual({ from: 1, to: 2, shared: [], sites: [{ siteId, name: 'Pier', objects: 1 }] });
  expect(await compare(2, 3)).toMatchObject({
    shared: [{ noun: 'rule', name: 'deny any → 10.9.0.0/16 any', what: 'added' }],
    sites: [{ objects: 0 }],
  });
  expect(await compare(0, 1)).toMatchObject({ sites: [{ objects: 1 }] });
  expect(await compare(2, 2)).toMatchObject({ shared: [], sites: [] });
  const { objects, changes, differences } = await compareSite(1, 2);
  const fields = [{ name: 'vlan', before: '30', after: '31' }];
  expect(objects).toEqual([{ noun: 'segment', name: 'Deck', what: 'changed', fields }]);
  expect(changes).toMatchObject([{ name: 'pr-sw-01' }]);
  const { lines } = differences[changes[0].told];
  expect(lines.map(({ path }: { path: string[] }) => path.join(' ')).join()).toMatch(/31/);
  expect((await ada.ask('GET', '/api/revision-comparison?from=1&to=99')).status).toBe(404);
});

test('what is compared is told by name, and nothing of a secret', async () => {
  const { id: draftId, head } = await current();
  const [secret, other] = [randomUUID(), randomUUID()];
  const ssid = { id: randomUUID(), name: 'Deck', segment: 'Crew', bands: ['5'], security: 'wpa3-sae' };
  const added = { ...ssid, passphrase: { secret }, reach: { kind: 'estate' } };
  const reach = { kind: 'sites', siteIds: [siteId] };
  const set = { type: 'ssid.set', ssidId: ssid.id, from: { reach: { kind: 'estate' } }, to: { reach } };
  const secrets = { [secret]: 'half past nine', [other]: 'half past ten' };
  const fresh = { ...set, from: { passphrase: { secret } }, to: { passphrase: { secret: other } } };
  const operations = [{ type: 'ssid.add', ssid: added }];
  await ada.post(`/api/drafts/${draftId}/operations`, { head, operations, secrets: { [secret]: secrets[secret] } });
  const rollout = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  const until = (id: string) => ada.until<any>(`/api/rollouts/${id}`, ({ endedAt }) => endedAt !== null);
  await until(rollout.id);
  const next = await current();
  const edits = { head: next.head, operations: [set, fresh], secrets: { [other]: secrets[other] } };
  await ada.post(`/api/drafts/${next.id}/operations`, edits);
  await until((await ada.post('/api/rollouts', { draftId: next.id, despiteErrors: true })).id);
  const { shared } = await compare(4, 5);
  expect(shared).toMatchObject([{ noun: 'ssid', name: 'Deck', what: 'changed' }]);
  expect(shared[0].fields).toEqual(
    expect.arrayContaining([
      { name: 'reach', before: 'kind estate', after: 'kind sites siteIds Pier' },
      { name: 'passphrase', before: 'a secret', after: 'another one' },
    ]),
  );
  expect((await back(3, null)).json.edits).toBe(1); // it is gone again
  await live();
});

test('a site is taken back to a revision as edits of the draft; what sites share stays, and nothing is told', async () => {
  const { status, json } = await back(1, siteId);
  expect([status, json.edits]).toEqual([200, 1]);
  const seen = await ada.get(`/api/drafts/${json.id}/sites/${siteId}`);
  expect(seen.site.segments.find(({ id }: { id: string }) => id === segment.id)).toMatchObject({ vlan: 30 });
  expect(seen.estate.rulesBefore).toHaveLength(1);
  expect(seen.consequences.changes).toMatchObject([{ name: 'pr-sw-01' }]);
  expect((await ada.get('/api/estate')).revision).toBe(6);
  expect(await back(1, siteId)).toMatchObject({ status: 409, json: { title: 'It stands as in revision 1 already.' } });
  await undo();
  expect((await current()).edits).toBe(0);
});

test('the whole estate is taken back, and forward again; each is a revision of its own', async () => {
  expect((await back(0, null)).json.edits).toBe(2); // the segment goes, whatever its VLAN was, and so does the rule
  const { id } = await current();
  const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ada.until<any>(`/api/rollouts/${rollout.id}`, ({ endedAt }) => endedAt !== null);
  expect(await compare(0, 7)).toMatchObject({ shared: [], sites: [] });
  expect((await back(3, null)).json.edits).toBe(2);
  const again = await ada.get(`/api/drafts/${(await current()).id}/sites/${siteId}`);
  expect(again.site.segments.find(({ id }: { id: string }) => id === segment.id)).toMatchObject({ vlan: 31 });
});

test('only who may change anything takes anything back, and only to what there was', async () => {
  const oli = await setting.as('oli');
  const { id } = await current();
  expect((await oli.ask('POST', `/api/drafts/${id}/back`, { revision: 1, siteId: null })).status).toBe(403);
  expect((await back(99, null)).status).toBe(404);
  expect((await back(1, randomUUID())).status).toBe(404);
});

test('what was live at a revision, or at a moment, is what the matrix and questions answer of', async () => {
  const { id } = await current();
  const base = `/api/drafts/${id}/sites/${siteId}`;
  const question = { from: 'Crew', to: '10.9.1.1', services: 'tcp 443' };
  const asked = async (then?: string) => {
    const { json } = await ada.ask('POST', `${base}/ask`, {
      question,
      on: 'live',
      minute: null,
      ...(then ? { then } : {}),
    });
    return json.reach;
  };
  // The rule came with revision 3, and went with revision 7.
  expect([await asked('2'), await asked('3'), await asked('7'), await asked('0')]).toEqual([
    'all',
    'none',
    'all',
    'all',
  ]);
  const revisions = await ada.get('/api/revisions');
  const at = (number: number): number => Date.parse(revisions.find((each: any) => each.number === number).at);
  const moment = (ms: number): string => new Date(ms).toISOString();
  expect(await asked(moment(at(7) - 1))).toBe('none');
  expect(await asked(moment(Date.now()))).toBe('all');
  expect(await asked(moment(at(1) - 60_000))).toBe('all');
  const [then, now] = [await ada.get(`${base}/reach?then=3`), await ada.get(`${base}/reach?then=7`)];
  expect(then.live).not.toEqual(now.live);
  for (const bad of ['yesterday', '2026-11-27', '99'])
    expect((await ada.ask('GET', `${base}/reach?then=${bad}`)).status).toBe(bad === '99' ? 404 : 400);
});

test('two drafts are compared, and the edits of one taken over into the other; what clashes is told, and made when asked for', async () => {
  const one = await ada.post('/api/drafts', {});
  const set = (name: string) => ({ type: 'set.add', shared: true, set: { id: randomUUID(), name, ports: ['443'] } });
  const there = (await ada.get(`/api/drafts/${one.id}/sites/${siteId}`)).site.segments[1];
  const vlanTo = (to: number) => ({
    type: 'segment.set',
    siteId,
    segmentId: there.id,
    from: { vlan: there.vlan },
    to: { vlan: to },
  });
  const edit = (draft: { id: string; head: number }, ...operations: object[]) =>
    ada.post(`/api/drafts/${draft.id}/operations`, { head: draft.head, operations });
  await edit(one, vlanTo(77));
  const other = await ada.post('/api/drafts', {});
  await edit(other, set('Web'), vlanTo(88));

  const compared = await ada.get(`/api/drafts/${one.id}/compare/${other.id}`);
  expect(compared).toMatchObject({ shared: [{ noun: 'set', name: 'Web', what: 'added' }], sites: [{ objects: 1 }] });
  const at = await ada.get(`/api/drafts/${one.id}/compare/${other.id}/sites/${siteId}`);
  expect(at.objects).toMatchObject([{ fields: [{ name: 'vlan', before: '77', after: '88' }] }]);

  const take = (body: object) => ada.post(`/api/drafts/${one.id}/take`, { from: other.id, ...body });
  const first = await take({});
  expect(first).toMatchObject({ taken: 1, left: [{ why: expect.stringContaining('vlan'), again: true }] });
  const second = await take({ only: [first.left[0].number], despite: true });
  expect(second).toMatchObject({ taken: 1, left: [] });
  expect(await ada.get(`/api/drafts/${one.id}/compare/${other.id}`)).toMatchObject({ shared: [], sites: [] });
  // Taken twice, nothing is there twice.
  expect(await take({})).toMatchObject({ taken: 0, left: [{ again: false }, { again: true }] });
  expect((await ada.ask('POST', `/api/drafts/${one.id}/take`, { from: one.id })).status).toBe(409);
  await ada.ask('DELETE', `/api/drafts/${other.id}`);
});
