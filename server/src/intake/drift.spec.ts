import { randomUUID } from 'node:crypto';
import { hashOf, type DeviceDocument } from '@iron-lattice/core/document';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let pier = '';
let box: TestDevice;
let id = '';
/** What it was told last. */
let told: DeviceDocument;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0].id;
  box = new TestDevice(setting.controller.url, 'PLC-01', 'SW-8P', '02:00:00:05:00:01');
  await box.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some((each) => each.serial === box.serial));
  const { claimed } = await ada.post(`/api/sites/${pier}/claims`, { serials: [box.serial] });
  id = claimed[0].id as string;
  told = (await box.next('document')).document;
  await keeps(told);
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});

async function keeps(document: DeviceDocument): Promise<void> {
  const hash = hashOf(document);
  box.say({ type: 'applied', hash });
  await box.next('keep');
  box.say({ type: 'kept', hash });
  await ada.until(`/api/devices/${id}`, ({ state }: { state: string }) => state === 'in step', 10_000);
}
const view = () => ada.get(`/api/devices/${id}`);
const drift = async () => (await ada.get(`/api/devices/${id}/drift`)).drift;
const hitches = async () =>
  (await ada.get('/api/hitches')).hitches.filter((each: { serial: string }) => each.serial === box.serial);
/** The document with some fields of a port changed, as somebody would at the box itself. */
const byHand = (port: string, change: object): DeviceDocument => ({
  ...told,
  ports: told.ports.map((each) => (each.name === port ? { ...each, ...change } : each)),
});
/** Says that it was changed, and what it runs once it is asked. */
async function changes(document: DeviceDocument): Promise<void> {
  const hash = hashOf(document);
  box.say({ type: 'changed', hash });
  expect((await box.next('tell-back')).hash).toBe(hash);
  box.say({ type: 'told-back', hash, document });
  await ada.until(
    `/api/devices/${id}/drift`,
    (now: { drift: { at: string | null } | null }) => !!now.drift?.at,
    10_000,
  );
}

test('a device that was changed by hand is told nothing, says what it runs, and that is shown', async () => {
  await changes(byHand('3', { poe: 'off' }));
  expect(await view()).toMatchObject({ state: 'stuck', trouble: expect.stringContaining('nobody here sent') });
  expect(await hitches()).toMatchObject([{ code: 'hash', who: expect.any(String) }]);
  expect(await drift()).toMatchObject({
    difference: { lines: [{ path: ['ports', '3', 'poe'], after: 'off' }] },
    operations: [{ type: 'port.set', port: '3', to: { poe: 'off' } }],
    left: [],
  });
});

test('put right, it is told what it should run, and nothing is left of it', async () => {
  await ada.post(`/api/devices/${id}/retry`, {});
  expect((await box.next('document')).hash).toBe(hashOf(told));
  await keeps(told);
  expect(await drift()).toBeNull();
  expect(await hitches()).toEqual([]);
});

test('taken over, the draft says what it runs, and rolling it out leaves the device as it is', async () => {
  const document = byHand('4', { storm: 5 });
  await changes(document);
  const { operations } = await drift();
  const { id: draftId, head } = await ada.get('/api/drafts/current');
  const edit = (sent: object[], on: number) =>
    ada.post(`/api/drafts/${draftId}/operations`, { head: on, operations: sent });
  const check = () => ada.get(`/api/drafts/${draftId}/rollout-check`);
  const start = (more: object) => ada.ask('POST', '/api/rollouts', { draftId, despiteErrors: true, ...more });
  // Told something else, it would lose what was changed: that is said before.
  const other = { type: 'port.set', siteId: pier, deviceId: id, port: '7', from: null, to: { poe: 'off' } };
  await edit([other], head);
  expect(await check()).toMatchObject({ devices: 1, drifted: [{ siteName: 'Pier', name: (await view()).name }] });
  expect((await start({})).json).toMatchObject({ type: 'about:lattice/rollout.drift' });
  await ada.post(`/api/drafts/${draftId}/undo`, {});

  await edit(operations, (await ada.get('/api/drafts/current')).head);
  expect((await drift()).operations).toEqual([]); // the draft says so already
  expect(await check()).toMatchObject({ devices: 1, drifted: [] });
  const { id: rolloutId } = (await start({})).json;
  told = document; // it is not told what it runs already
  await ada.until('/api/rollouts', (all: { id: string; state: string }[]) =>
    all.some((each) => each.id === rolloutId && each.state === 'done'),
  );
  expect((await view()).state).toBe('in step');
  expect(await drift()).toBeNull();
  expect(await hitches()).toEqual([]);
});

test('a device that calls with what nobody sent is asked, and one that is changed back is in step by itself', async () => {
  const document = byHand('2', { isolated: true });
  box.hangUp();
  await box.untilClosed();
  await box.call(hashOf(document));
  expect((await box.next('tell-back')).hash).toBe(hashOf(document));
  expect(await drift()).toMatchObject({ at: null, difference: null, operations: [] });
  box.say({ type: 'changed', hash: hashOf(told) });
  await ada.until(`/api/devices/${id}`, ({ state }: { state: string }) => state === 'in step', 10_000);
  expect(await hitches()).toEqual([]);
});

test('a document that it refused is not told again because it says that something changed', async () => {
  await ada.ask('PATCH', `/api/devices/${id}`, { lightOff: true });
  const { hash } = await box.next('document');
  box.say({ type: 'refused', hash, runs: hashOf(told), reason: 'flash is full' });
  await ada.until(`/api/devices/${id}`, ({ state }: { state: string }) => state === 'stuck', 10_000);
  // Once the second is heard, the first was dealt with.
  for (let i = 0; i < 2; i++) {
    const { heardAt } = await view();
    box.say({ type: 'changed', hash: hashOf(told) });
    await ada.until(`/api/devices/${id}`, (now: { heardAt: string }) => now.heardAt !== heardAt, 10_000);
  }
  expect(await view()).toMatchObject({ state: 'stuck', trouble: 'It refused its document: flash is full.' });
  await ada.ask('PATCH', `/api/devices/${id}`, { lightOff: false });
  await ada.until(`/api/devices/${id}`, ({ state }: { state: string }) => state === 'in step', 10_000);
});

test('what is told back is taken only when it was asked for and is what it is said to be', async () => {
  const document = byHand('5', { poe: 'off' });
  const hash = hashOf(document);
  box.say({ type: 'told-back', hash, document }); // nobody asked
  box.say({ type: 'changed', hash });
  await box.next('tell-back');
  for (const other of [
    byHand('6', { poe: 'off' }), // another
    { ...document, ports: 'all' } as unknown as DeviceDocument,
    { ...document, odd: [[{}], [null]] } as unknown as DeviceDocument,
  ])
    box.say({ type: 'told-back', hash, document: other });
  await ada.until('/api/hitches', ({ hitches }: { hitches: { code: string; serial: string }[] }) =>
    hitches.some((each) => each.code === 'frame' && each.serial === box.serial),
  );
  expect((await drift()).at).toBeNull();
  // The true one is still taken.
  box.say({ type: 'told-back', hash, document });
  await ada.until(`/api/devices/${id}/drift`, (now: { drift: { at: string | null } }) => now.drift.at !== null, 10_000);
  // A document for another box is none of its own, though it is what it says that it runs.
  const foreign = { ...document, device: { ...document.device, serial: randomUUID() } };
  box.say({ type: 'changed', hash: hashOf(foreign) });
  await box.next('tell-back');
  box.say({ type: 'told-back', hash: hashOf(foreign), document: foreign });
  await ada.until(`/api/devices/${id}/drift`, (now: { drift: { hash: string } }) => now.drift.hash === hashOf(foreign));
  expect((await drift()).at).toBeNull();
});
