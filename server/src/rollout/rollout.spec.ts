import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let box: TestDevice;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  box = new TestDevice(setting.controller.url, 'SW-0001');
  await box.call();
  await obey();
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});

/** Takes the next document, and keeps it. @returns its hash. */
async function obey(device = box): Promise<string> {
  const { hash } = await device.next('document');
  device.say({ type: 'applied', hash });
  await device.next('keep');
  device.say({ type: 'kept', hash });
  return hash;
}

async function addSegment(vlan: number): Promise<{ id: string }> {
  const draft = await ada.get('/api/drafts/current');
  const subnet = `10.5.${vlan}`;
  const segment = {
    id: randomUUID(),
    name: `S${vlan}`,
    vlan,
    subnet: `${subnet}.0/24`,
    gateway: `${subnet}.1`,
    addresses: null,
  };
  await ada.post(`/api/drafts/${draft.id}/operations`, {
    head: draft.head,
    operations: [{ type: 'segment.add', siteId, segment }],
  });
  return draft;
}

async function over(id: string) {
  for (;;) {
    const rollout = await ada.get(`/api/rollouts/${id}`);
    if (rollout.endedAt !== null) return rollout;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
const start = (draftId: string) => ada.post('/api/rollouts', { draftId, despiteErrors: true });

test('errors must be accepted, an empty draft is not sent, and only one rollout runs at a time', async () => {
  const empty = await ada.get('/api/drafts/current');
  expect((await start(empty.id)).title).toBe('This draft changes nothing.');
  const draft = await addSegment(20);
  const careful = await ada.ask('POST', '/api/rollouts', { draftId: draft.id });
  expect(careful.status).toBe(409); // the site has no gateway
  expect(careful.json.type).toBe('about:lattice/rollout.findings');
  const unseen = await ada.ask('POST', '/api/rollouts', { draftId: draft.id, head: empty.head, despiteErrors: true });
  expect([unseen.status, unseen.json.type]).toEqual([409, 'about:lattice/rollout.moved']); // edited since they looked
  const rollout = await start(draft.id);
  expect((await ada.ask('POST', '/api/rollouts', { draftId: draft.id, despiteErrors: true })).status).toBe(409);
  const late = await ada.ask('POST', `/api/drafts/${draft.id}/undo`, {});
  expect(late.json.title).toBe('This draft is being rolled out. Edit it when that is over.');
  await obey();
  expect(await over(rollout.id)).toMatchObject({
    state: 'done',
    revision: 1,
    steps: [{ name: 'pr-sw-01', state: 'kept', added: 3 }],
  });
  expect(await ada.get('/api/revisions')).toMatchObject([{ number: 1, name: 'Draft 1', by: 'Ada' }]);
});

test('a device that refuses stops the rollout; the draft is open again and nothing is live', async () => {
  const draft = await addSegment(30);
  const rollout = await start(draft.id);
  const { hash } = await box.next('document');
  const before = (await ada.get(`/api/sites/${siteId}/devices`))[0].runs;
  box.say({ type: 'refused', hash, runs: before, reason: 'no such port' });
  const ended = await over(rollout.id);
  expect(ended).toMatchObject({
    state: 'put-back',
    revision: null,
    reason: 'pr-sw-01: It refused its document: no such port.',
  });
  expect(ended.steps[0]).toMatchObject({ state: 'failed' });
  expect((await ada.get('/api/estate')).revision).toBe(1);
  expect(await ada.get(`/api/drafts/${draft.id}`)).toMatchObject({ state: 'open', edits: 1 });
  expect((await ada.get(`/api/sites/${siteId}/devices`))[0]).toMatchObject({ state: 'in step', trouble: null });
});

test('a cancelled rollout puts back what was told and does not tell the rest', async () => {
  const gateway = new TestDevice(setting.controller.url, 'GW-0001', 'GW-4', '02:00:00:00:00:09');
  await gateway.call();
  await ada.post(`/api/sites/${siteId}/claims`, { serials: ['GW-0001'] });
  const before = await obey(gateway);
  const draft = await ada.get('/api/drafts/current');
  const rollout = await start(draft.id);
  const { hash } = await gateway.next('document');
  expect((await ada.fetch('POST', `/api/rollouts/${rollout.id}/cancel`, {})).status).toBe(204);
  gateway.say({ type: 'applied', hash });
  await gateway.next('keep');
  gateway.say({ type: 'kept', hash });
  expect(await obey(gateway)).toBe(before);
  const ended = await over(rollout.id);
  expect(ended).toMatchObject({ state: 'put-back', reason: 'It was cancelled.' });
  expect(ended.steps.map((step: { name: string; state: string }) => [step.name, step.state])).toEqual([
    ['pr-gw-01', 'put-back'],
    ['pr-sw-01', 'not-told'],
  ]);
  expect((await ada.ask('POST', `/api/rollouts/${rollout.id}/cancel`, {})).status).toBe(409);
  gateway.hangUp();
});

test('a silent device does not hold the rollout up and gets its document when it calls', async () => {
  box.hangUp();
  const look = async () =>
    (await ada.get(`/api/sites/${siteId}/devices`)).find((device: { serial: string }) => device.serial === 'SW-0001');
  while ((await look()).state !== 'silent') await new Promise((resolve) => setTimeout(resolve, 20));
  const draft = await addSegment(50);
  const ended = await over((await start(draft.id)).id);
  expect(ended).toMatchObject({
    state: 'done',
    steps: [
      { name: 'pr-gw-01', state: 'later' },
      { name: 'pr-sw-01', state: 'later' },
    ],
  });
  await box.call();
  const hash = await obey();
  let device = await look();
  while (device.state !== 'in step') device = await look();
  expect(device.runs).toBe(hash);
});
