import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let [pier, quay] = ['', ''];
let box: TestDevice;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0].id;
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  quay = (await ada.post('/api/sites', wish)).id;
  box = new TestDevice(setting.controller.url, 'SW-0001');
  await box.call();
  const { hash } = await box.next('document');
  box.say({ type: 'applied', hash });
  await box.next('keep');
  box.say({ type: 'kept', hash });
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});

const current = () => ada.get('/api/drafts/current');
async function edit(...operations: object[]) {
  const { id, head } = await current();
  const { status, json } = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
  expect([status, json.title]).toEqual([200, undefined]);
}
const touched = async () => ada.get(`/api/drafts/${(await current()).id}/touched`);
const reviews = async (...sites: string[]) =>
  ada.get(`/api/drafts/${(await current()).id}/reviews?sites=${sites.join(',')}`);
const check = async () => ada.get(`/api/drafts/${(await current()).id}/rollout-check`);
const rule = () => ({
  id: randomUUID(),
  verdict: 'deny',
  from: [{ kind: 'any' }],
  to: [{ kind: 'addresses', text: '10.9.0.0/16' }],
  services: [{ protocol: 'any' }],
});
const undo = async () => ada.post(`/api/drafts/${(await current()).id}/undo`, {});

test('a draft touches the sites at which it says something else, and no other', async () => {
  expect(await touched()).toMatchObject({ sites: [] });
  await edit({
    type: 'segment.add',
    siteId: pier,
    segment: { id: randomUUID(), name: 'A', vlan: 20, subnet: '10.5.20.0/24', gateway: '10.5.20.1', addresses: null },
  });
  expect((await touched()).sites).toEqual([{ id: pier, name: 'Pier' }]);
  await edit({ type: 'rule.add', book: 'before', behind: null, rules: [rule()] });
  const both = await touched();
  expect(both.sites.map(({ id }: { id: string }) => id).sort()).toEqual([pier, quay].sort());
  expect(both.head).toBe((await current()).head);
});

test('a review of a site is what the site itself shows, and names who is silent', async () => {
  const [here, there] = await reviews(pier, quay, randomUUID());
  const { consequences } = await ada.get(`/api/drafts/current/sites/${pier}`);
  expect(here.changes.map(({ deviceId }: { deviceId: string }) => deviceId)).toEqual(
    consequences.changes.map(({ deviceId }: { deviceId: string }) => deviceId),
  );
  const { lines, ...tally } = here.differences[here.changes[0].told];
  expect([tally, lines.length]).toEqual([consequences.changes[0].difference, tally.added]);
  expect(here.findings).toEqual(consequences.findings);
  expect(here.silent).toEqual([]);
  expect(there).toMatchObject({ siteId: quay, name: 'Quay', changes: [] });
  for (const wrong of ['', 'x', `${pier},`, Array(60).fill(pier).join(',')])
    expect((await ada.ask('GET', `/api/drafts/current/reviews?sites=${wrong}`)).status).toBe(400);
});

test('what is told is what was seen: another number of devices is refused', async () => {
  expect(await check()).toMatchObject({ devices: 1, silent: 0 });
  const { id } = await current();
  const wrong = await ada.ask('POST', '/api/rollouts', { draftId: id, despiteErrors: true, devices: 2 });
  expect([wrong.status, wrong.json.title]).toEqual([
    409,
    'It would tell 1 device by now, not 2. Look at it again, then roll it out.',
  ]);
  const begun = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true, devices: 1 });
  expect(begun.steps).toHaveLength(1);
  const { hash } = await box.next('document');
  box.say({ type: 'applied', hash });
  await box.next('keep');
  box.say({ type: 'kept', hash });
  for (let view = begun; view.endedAt === null; view = await ada.get(`/api/rollouts/${begun.id}`))
    expect(['waiting', 'running', 'done']).toContain(view.state);
});

test('what is taken back is no longer touched, and who has gone is silent', async () => {
  await edit({ type: 'rule.add', siteId: pier, behind: null, rules: [rule()] });
  expect((await touched()).sites).toHaveLength(1);
  box.hangUp();
  for (let silent: string[] = []; silent.length === 0;) [{ silent }] = await reviews(pier);
  await undo();
  expect((await touched()).sites).toEqual([]);
});
