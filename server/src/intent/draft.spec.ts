import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test, vi } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { OperationRow } from './intent.model';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const current = () => ada.get('/api/drafts/current');
const site = async () => (await ada.get(`/api/drafts/current/sites/${siteId}`)).site;
const names = async (): Promise<string[]> => (await site()).segments.map((segment: { name: string }) => segment.name);
const edit = async (operations: object[], more: object = {}) => {
  const { id, head } = await current();
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, ...more });
};
const segment = (name: string, vlan: number) => ({
  type: 'segment.add',
  siteId,
  segment: { id: randomUUID(), name, vlan, subnet: `10.5.${vlan}.0/24`, gateway: `10.5.${vlan}.1`, addresses: null },
});
async function rollOut(draftId: string) {
  let rollout = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  while (rollout.endedAt === null) rollout = await ada.get(`/api/rollouts/${rollout.id}`);
  return rollout;
}
const turn = async (way: 'undo' | 'redo') => ada.ask('POST', `/api/drafts/${(await current()).id}/${way}`, {});

test('edits are taken back and brought back in order, and a new edit ends what could be brought back', async () => {
  await edit([segment('A', 20)]);
  await edit([segment('B', 30)]);
  await edit([segment('C', 40)]);
  await turn('undo');
  await turn('undo');
  expect(await names()).toEqual(['Management', 'Crew', 'A']);
  expect((await turn('redo')).json).toMatchObject({ edits: 2, canUndo: true, canRedo: true, undoesLive: false });
  expect(await names()).toEqual(['Management', 'Crew', 'A', 'B']);
  await edit([segment('D', 50)]);
  expect((await turn('redo')).json).toMatchObject({ status: 409, type: 'about:lattice/draft.nothing' });
  for (let i = 0; i < 3; i++) await turn('undo');
  expect(await names()).toEqual(['Management', 'Crew']);
  expect((await turn('undo')).status).toBe(409);
});

test('what one press made is taken back by one, and brought back by one; what was made before stays', async () => {
  await edit([segment('A', 20)]);
  const { edits } = await current();
  await edit([segment('B', 30), segment('C', 40), segment('D', 50)]);
  expect(await names()).toEqual(['Management', 'Crew', 'A', 'B', 'C', 'D']);
  expect(await current()).toMatchObject({ undoes: 3, undoesLive: false });
  expect((await turn('undo')).json).toMatchObject({ edits, canRedo: true });
  expect(await names()).toEqual(['Management', 'Crew', 'A']);
  expect((await turn('redo')).json).toMatchObject({ edits: edits + 3, canRedo: false });
  expect(await names()).toEqual(['Management', 'Crew', 'A', 'B', 'C', 'D']);
  await turn('undo');
  await turn('undo');
  expect(await names()).toEqual(['Management', 'Crew']);
  expect((await turn('redo')).json).toMatchObject({ edits, canRedo: true });
  await turn('redo');
  expect(await names()).toEqual(['Management', 'Crew', 'A', 'B', 'C', 'D']);
  for (let i = 0; i < 2; i++) await turn('undo');
  expect(await names()).toEqual(['Management', 'Crew']);
});

test('sites tell how many findings they have in the draft, as the draft is now', async () => {
  const found = (ids: string) => ada.ask('GET', `/api/drafts/current/findings?sites=${ids}`);
  const count = async (): Promise<number> => {
    const { findings } = (await ada.get(`/api/drafts/current/sites/${siteId}`)).consequences;
    return findings.filter((each: { severity: string }) => each.severity === 'error').length;
  };
  const [before, errors] = [(await found(siteId)).json, await count()];
  expect(before).toMatchObject([{ siteId, errors }]);
  // A rule that names a segment that is gone is an error.
  const crew = (await site()).segments.find((each: { name: string }) => each.name === 'Crew');
  const rule = { id: randomUUID(), verdict: 'deny', services: [{ protocol: 'any' }] };
  const [from, to] = [[{ kind: 'segment', name: 'Crew' }], [{ kind: 'any' }]];
  await edit([{ type: 'rule.add', siteId, rules: [{ ...rule, from, to }], behind: null }]);
  await edit([{ type: 'segment.remove', siteId, segmentId: crew.id }]);
  const after = (await found(`${siteId},${randomUUID()}`)).json;
  expect(after).toMatchObject([{ siteId, errors: await count() }]);
  expect(after[0].errors).toBeGreaterThan(errors);
  await turn('undo');
  await turn('undo');
  expect((await found(siteId)).json).toEqual(before);
  for (const wrong of ['', 'x', `${siteId},`, Array(60).fill(siteId).join(',')])
    expect((await found(wrong)).status).toBe(400);
});

test('of several edits in one request either all are taken or none', async () => {
  const before = await current();
  const answer = await edit([segment('E', 60), segment('F', 60)]);
  expect(answer.status).toBe(422);
  expect(answer.json.flaws.map((flaw: { code: string }) => flaw.code)).toEqual([
    'segment.vlan-taken',
    'segment.subnet-overlap',
  ]);
  expect(await current()).toEqual(before);
});

test('an edit made on an older state is taken when it still fits, and refused with what changed when it does not', async () => {
  const { id, head } = await current();
  const [, crew] = (await site()).segments;
  const rename = (to: string) => ({
    type: 'segment.set',
    siteId,
    segmentId: crew.id,
    from: { name: 'Crew' },
    to: { name: to },
  });
  const send = (operation: object) =>
    ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations: [operation] });
  expect((await send(rename('Deck'))).status).toBe(200);
  expect((await send(segment('G', 70))).status).toBe(200);
  const late = await send(rename('Bridge'));
  expect(late.status).toBe(409);
  expect(late.json.title).toBe('The draft changed since you looked: Somebody changed the name of “Deck” meanwhile.');
  expect(await names()).toContain('Deck');
  await turn('undo');
  await turn('undo');
});

test('two people editing at once each get their edit, one after the other', async () => {
  const answers = await Promise.all([edit([segment('H', 80)]), edit([segment('I', 90)]), edit([segment('J', 100)])]);
  expect(answers.map((answer) => answer.status)).toEqual([200, 200, 200]);
  expect(await names()).toEqual(['Management', 'Crew', 'H', 'I', 'J']);
  for (let i = 0; i < 3; i++) await turn('undo');
});

test('a passphrase that guessers try first is found, without being told to anybody', async () => {
  const [secret, next] = [randomUUID(), randomUUID()];
  const said = { name: 'Guest Wi-Fi', security: 'wpa2-psk', passphrase: { secret }, bands: ['5'], segment: 'Crew' };
  const ssid = { id: randomUUID(), ...said, reach: { kind: 'sites', siteIds: [siteId] } };
  const found = async (): Promise<string[]> => {
    const { consequences } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    const findings = consequences.findings as { code: string; message: string }[];
    return findings.filter(({ code }) => code === 'wireless.passphrase-common').map(({ message }) => message);
  };
  expect((await edit([{ type: 'ssid.add', ssid }], { secrets: { [secret]: 'Password123' } })).status).toBe(200);
  expect(await found()).toEqual(['The passphrase of “Guest Wi-Fi” is one that guessers try first']);
  const to = { passphrase: { secret: next }, security: 'wpa2-psk' };
  const from = { passphrase: { secret }, security: 'wpa2-psk' };
  const change = { type: 'ssid.set', ssidId: ssid.id, from, to };
  expect((await edit([change], { secrets: { [next]: 'heron-over-the-bar' } })).status).toBe(200);
  expect(await found()).toEqual([]);
  for (let i = 0; i < 2; i++) await turn('undo');
});

test('a passphrase is kept sealed, is in no answer, and is shown only on request, which the journal tells', async () => {
  const secret = randomUUID();
  const ssid = {
    id: randomUUID(),
    name: 'Deck Wi-Fi',
    security: 'wpa3-sae',
    passphrase: { secret },
    bands: ['5'],
    segment: 'Crew',
    reach: { kind: 'sites', siteIds: [siteId] },
  };
  const add = { type: 'ssid.add', ssid };
  expect((await edit([add])).json.title).toBe('Give the passphrase too: nothing is kept under its reference.');
  expect((await edit([add], { secrets: { [secret]: 'short' } })).json.flaws[0]).toMatchObject({
    code: 'ssid.passphrase',
    field: 'passphrase',
  });
  expect(
    (await edit([add], { secrets: { [secret]: 'gull-on-the-mast', [randomUUID()]: 'stray-secret' } })).status,
  ).toBe(422);
  expect((await edit([add], { secrets: { [secret]: 'gull-on-the-mast' } })).status).toBe(200);
  expect(JSON.stringify(await ada.get(`/api/drafts/current/sites/${siteId}`))).not.toContain('gull');
  const { database } = setting.controller;
  for (const table of ['operation', 'secret', 'part', 'document', 'journal']) {
    const [rows] = await database.query(`SELECT ${table}::text AS text FROM ${table}`);
    expect(JSON.stringify(rows)).not.toContain('gull');
  }
  expect(await ada.post(`/api/secrets/${secret}/reveal`)).toEqual({ value: 'gull-on-the-mast' });
  const [told] = await database.query(`SELECT act FROM journal WHERE detail->>'id' = '${secret}'`);
  expect(told).toEqual([{ act: 'secret.reveal' }]);
  await turn('undo');
});

test('what is not an operation is kept out', async () => {
  for (const operation of [
    { type: 'segment.drop', siteId },
    { ...segment('K', 110), extra: 1 },
    { type: 'ssid.remove', ssidId: 'x' },
  ])
    expect((await edit([operation])).status).toBe(400);
});

test('a proposal is free space for the site, and follows what was typed', async () => {
  const { id } = await current();
  const ask = (query: string) => ada.ask('GET', `/api/drafts/${id}/sites/${siteId}/segment-proposal?${query}`);
  expect((await ask('vlan=40')).json).toMatchObject({ subnet: '10.5.40.0/24', gateway: '10.5.40.1' });
  expect((await ask('vlan=40&subnet=192.168.9.0/24')).json).toMatchObject({ gateway: '192.168.9.1' });
  expect((await ask('vlan=40&subnet=nine')).json.title).toBe('“nine” is not a subnet.');
  expect((await ask('vlan=4095')).status).toBe(400);
});

test('when another draft is rolled out first, an edit that no longer fits is shown and can be dropped', async () => {
  const first = await current();
  await edit([segment('N', 140), segment('O', 150)]);
  const second = await ada.post('/api/drafts');
  const same = { ...segment('N', 140) };
  expect((await ada.ask('POST', `/api/drafts/${second.id}/operations`, { head: 0, operations: [same] })).status).toBe(
    200,
  );
  expect((await ada.get('/api/drafts')).map((draft: { id: string }) => draft.id)).toEqual([second.id, first.id]);
  expect(await rollOut(second.id)).toMatchObject({ state: 'done', revision: 1 });
  const rebased = await ada.get(`/api/drafts/${first.id}`);
  expect(rebased).toMatchObject({
    baseRevision: 1,
    misfits: [
      {
        words: 'the segment “N” added',
        flaws: [{ code: 'segment.name-taken' }, { code: 'segment.vlan-taken' }, { code: 'segment.subnet-overlap' }],
      },
    ],
  });
  expect(await names()).toEqual(['Management', 'Crew', 'N', 'O']);
  const blocked = await ada.ask('POST', '/api/rollouts', { draftId: first.id, despiteErrors: true });
  expect(blocked.json.type).toBe('about:lattice/draft.misfits');
  const dropped = await ada.ask('DELETE', `/api/drafts/${first.id}/misfits/${rebased.misfits[0].number}`);
  expect(dropped.json).toMatchObject({ misfits: [], edits: 1 });
  await turn('undo');
});

test('an undo in a draft without edits takes back the last edit that is live, and redo brings it back', async () => {
  expect(await current()).toMatchObject({ edits: 0, canUndo: true, undoesLive: true });
  expect((await turn('undo')).json).toMatchObject({ edits: 1, canRedo: true });
  expect(await names()).toEqual(['Management', 'Crew']); // N was rolled out
  expect((await turn('undo')).json.type).toBe('about:lattice/draft.nothing'); // nothing else ever was
  expect((await turn('redo')).json).toMatchObject({ edits: 0 });
  expect(await names()).toEqual(['Management', 'Crew', 'N']);
  await turn('undo');
  await edit([segment('P', 160)]);
  expect((await turn('undo')).json).toMatchObject({ edits: 1, canUndo: true });
  expect((await turn('redo')).json).toMatchObject({ edits: 2 });
  await turn('undo');
  await turn('redo');
  await turn('undo');
  expect(await names()).toEqual(['Management', 'Crew']);
});

test('a draft without edits goes on taking back what is live, press by press, the newest first', async () => {
  const draft = await ada.post('/api/drafts');
  const { id, segments } = await site();
  const segmentId = segments.find((each: { name: string }) => each.name === 'N').id;
  const deviceId = (await ada.get(`/api/sites/${id}/devices`))[0].id;
  const tag = { type: 'port.tag', siteId: id, deviceId, port: '1', segmentId };
  expect((await ada.ask('POST', `/api/drafts/${draft.id}/operations`, { head: 0, operations: [tag] })).status).toBe(
    200,
  );
  await rollOut(draft.id);
  await ada.post('/api/drafts');
  expect((await site()).ports[deviceId]['1'].tagged).toEqual([segmentId]);
  await turn('undo'); // the tag of the second revision
  expect((await site()).ports).toEqual({});
  await turn('undo'); // the segment of the first
  expect(await names()).not.toContain('N');
  await turn('redo');
  await turn('redo');
  expect((await site()).ports[deviceId]['1'].tagged).toEqual([segmentId]);
});

test('a discarded draft takes no more edits, and the next one starts empty', async () => {
  for (const draft of await ada.get('/api/drafts')) await ada.fetch('DELETE', `/api/drafts/${draft.id}`);
  await edit([segment('L', 120)]);
  const { id, head } = await current();
  expect((await ada.fetch('DELETE', `/api/drafts/${id}`)).status).toBe(204);
  const late = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations: [segment('M', 130)] });
  expect(late.json).toMatchObject({ status: 409, title: 'This draft is discarded. Start a new one.' });
  expect(await current()).toMatchObject({ edits: 0 });
  expect(await names()).toEqual(['Management', 'Crew', 'N']);
});

test('an edit that another draft was faster with can be made again on what is there now', async () => {
  const mine = await current();
  const part = (await ada.get(`/api/drafts/${mine.id}/sites/${siteId}`)).site;
  const { id: segmentId, name } = part.segments[1];
  const set = (to: string) => ({ type: 'segment.set', siteId, segmentId, from: { name }, to: { name: to } });
  await ada.post(`/api/drafts/${mine.id}/operations`, { head: mine.head, operations: [set('Mine')] });
  const theirs = await ada.post('/api/drafts');
  await ada.post(`/api/drafts/${theirs.id}/operations`, { head: 0, operations: [set('Theirs')] });
  expect(await rollOut(theirs.id)).toMatchObject({ state: 'done' });
  const { misfits } = await ada.get(`/api/drafts/${mine.id}`);
  expect(misfits).toMatchObject([{ again: true, flaws: [{ code: 'segment.changed' }] }]);
  const path = `/api/drafts/${mine.id}/misfits/${misfits[0].number}/again`;
  expect((await ada.ask('POST', path)).json).toMatchObject({ misfits: [], edits: 1 });
  const seen = await ada.get(`/api/drafts/${mine.id}/sites/${siteId}`);
  expect(seen.site.segments.find(({ id }: { id: string }) => id === segmentId).name).toBe('Mine');
  expect((await ada.ask('POST', path)).status).toBe(404); // it fits by now
  await ada.ask('DELETE', `/api/drafts/${mine.id}`);
});

test('a draft is called and described as its people say, by whoever was first; it says who began it', async () => {
  const draft = await ada.post('/api/drafts');
  expect(draft).toMatchObject({ description: '', by: 'Ada' });
  const from = { name: draft.name, description: '' };
  const to = { name: '  Summer timetable ', description: 'Request 4711: quay staff' };
  const path = `/api/drafts/${draft.id}`;
  expect((await ada.ask('PATCH', path, { from, to })).json).toMatchObject({ ...to, name: 'Summer timetable' });
  const late = await ada.ask('PATCH', path, { from, to: { name: 'Mine', description: '' } });
  expect(late).toMatchObject({ status: 409, json: { type: 'about:lattice/draft.moved' } });
  expect((await ada.ask('PATCH', path, { from: to, to: { name: ' ', description: '' } })).status).toBe(400);
  expect((await ada.get('/api/drafts')).find(({ id }: { id: string }) => id === draft.id).name).toBe(
    'Summer timetable',
  );
  await ada.ask('DELETE', path);
});

test('a draft is seen anew at once when a device that it edits is let go, though many look at it', async () => {
  const draft = await ada.post('/api/drafts');
  const path = `/api/drafts/${draft.id}`;
  const [device] = await ada.get(`/api/sites/${siteId}/devices`);
  const from = (await site()).ports[device.id]?.['1'] ?? null;
  const port = { siteId, deviceId: device.id, port: '1', from, to: { untagged: null, poe: 'off' } };
  const asked = { head: 0, operations: [{ type: 'port.set', ...port }] };
  expect((await ada.ask('POST', `${path}/operations`, asked)).json).toMatchObject({ edits: 1 });
  expect(await ada.get(path)).toMatchObject({ edits: 1, misfits: [] });
  expect((await ada.ask('POST', `/api/devices/${device.id}/release`)).status).toBeLessThan(300);
  expect(await ada.get(path)).toMatchObject({ misfits: [{ again: false }] });
  await ada.ask('DELETE', path);
});

test('what one press made and is live is taken back by one press too', async () => {
  for (const draft of await ada.get('/api/drafts')) await ada.fetch('DELETE', `/api/drafts/${draft.id}`);
  const before = await names();
  await edit([segment('R', 170), segment('S', 180)]);
  await rollOut((await current()).id);
  expect((await turn('undo')).json).toMatchObject({ edits: 2, canRedo: true });
  expect(await names()).toEqual(before);
  expect((await turn('redo')).json).toMatchObject({ edits: 0 });
  expect(await names()).toEqual([...before, 'R', 'S']);
  await turn('undo');
  await rollOut((await current()).id);
  expect(await names()).toEqual(before);
});

test('a draft that is edited while it is read is told as it was at one moment: by its head it is rolled out', async () => {
  const { id } = await ada.post('/api/drafts', {});
  const at = `/api/drafts/${id}/sites/${siteId}`;
  const findAll = OperationRow.findAll.bind(OperationRow);
  // The head has been read; before the edits are, another one comes.
  const read = vi.spyOn(OperationRow, 'findAll').mockImplementationOnce(async (options) => {
    read.mockRestore();
    const operations = [segment('Between', 77)];
    expect((await ada.ask('POST', `/api/drafts/${id}/operations`, { head: 0, operations })).status).toBe(200);
    return findAll(options);
  });
  const { draft } = await ada.get(at);
  expect([draft.head, draft.edits]).toEqual([1, 1]);
});
