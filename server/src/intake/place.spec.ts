import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let pier = '';
let slip = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0].id;
  slip = (await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' })).id;
});
afterAll(() => setting.end());

let count = 0;
const box = (model: string) => {
  const number = String(++count).padStart(2, '0');
  return new TestDevice(setting.controller.url, `PLC-${number}`, model, `02:00:00:05:00:${number}`);
};
const calling = async (model: string): Promise<TestDevice> => {
  const device = box(model);
  await device.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some((each) => each.serial === device.serial));
  return device;
};
const ours = async (model: string, siteId = pier) => {
  const device = await calling(model);
  const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [device.serial] });
  const hash = await device.comply();
  return { device, hash, id: claimed[0].id as string, name: claimed[0].name as string };
};

test('a smaller box is refused until the person saw what would be lost; one of another kind always', async () => {
  const old = await ours('AP-6E');
  const [smaller, other] = [await calling('AP-6'), await calling('SW-8P')];
  const replace = (serial: string, despiteLosses: boolean) =>
    ada.ask('POST', `/api/devices/${old.id}/replace`, { serial, despiteLosses });
  const candidates = await ada.get(`/api/devices/${old.id}/replacements`);
  expect(candidates.map((each: { serial: string }) => each.serial)).toEqual([smaller.serial, other.serial]);
  expect((await replace(smaller.serial, false)).json).toMatchObject({ type: 'about:lattice/replace.losses' });
  expect((await replace(other.serial, true)).json.title).toBe('A switch cannot take the place of an access point.');
  expect((await replace('NEVER-01', true)).json.title).toBe('No device with serial number NEVER-01 has ever called.');
  expect((await replace('SW-0001', true)).json.title).toBe('SW-0001 is ours already, as pr-sw-01.');
  expect((await replace(smaller.serial, true)).json).toMatchObject({
    id: old.id,
    name: old.name,
    serial: smaller.serial,
  });

  await smaller.untilClosed(); // both call again, as what they are now
  expect((await smaller.call()).claimed).toBe(true);
  expect((await smaller.next('document')).document.device).toEqual({
    name: old.name,
    serial: smaller.serial,
    model: 'AP-6',
  });
  expect((await old.device.call(old.hash)).claimed).toBe(false);
  expect(await old.device.next('command')).toMatchObject({ name: 'forget' });
  for (const each of [smaller, other, old.device]) each.hangUp();
});

test('what is set on ports, tags and policy stays with the place', async () => {
  const old = await ours('SW-8P');
  const draft = await ada.get('/api/drafts/current');
  const { site } = await ada.get(`/api/drafts/current/sites/${pier}`);
  const segmentId = site.segments[1].id;
  const operations = [{ type: 'port.tag', siteId: pier, deviceId: old.id, port: '3', segmentId }];
  await ada.post(`/api/drafts/${draft.id}/operations`, { head: draft.head, operations });
  await ada.post('/api/rollouts', { draftId: draft.id, despiteErrors: true });
  await old.device.comply();
  await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done', 20_000);
  await ada.ask('PATCH', `/api/devices/${old.id}`, { version: 0, tags: ['deck'], policy: 'window' });
  const fresh = await calling('SW-8P');
  await ada.post(`/api/devices/${old.id}/replace`, { serial: fresh.serial, despiteLosses: false });
  await fresh.untilClosed();
  await fresh.call();
  const { document } = await fresh.next('document');
  expect(document.ports.find((port) => port.name === '3')).toMatchObject({ tagged: [10] });
  expect(await ada.get(`/api/devices/${old.id}`)).toMatchObject({
    tags: ['deck'],
    policy: 'window',
    serial: fresh.serial,
  });
  for (const each of [fresh, old.device]) each.hangUp();
});

test('a moved device gets the other site’s next name and documents, and lets go of its fixed address', async () => {
  const { device, id } = await ours('AP-6');
  const fixed = { address: '10.5.1.9', length: '24', gateway: '10.5.1.1', dns: '10.5.1.1' };
  expect((await ada.ask('PATCH', `/api/devices/${id}`, { fixed })).status).toBe(200);
  expect((await device.next('document')).document.management.address?.address).toBe('10.5.1.9');
  const moved = await ada.ask('POST', `/api/devices/${id}/move`, { siteId: slip });
  expect(moved.json).toMatchObject({ name: 'sl-ap-01', siteId: slip, fixed: null });
  expect(await device.documentOf('Slip')).toMatchObject({ management: { vlan: 1 } });
  expect((await ada.ask('POST', `/api/devices/${id}/move`, { siteId: slip })).json.title).toBe(
    'sl-ap-01 is at Slip already.',
  );
  device.hangUp();
});

test('a released device is asked to forget, is nobody’s, and its name is free again', async () => {
  const { device, id, name } = await ours('AP-6');
  const released = ada.ask('POST', `/api/devices/${id}/release`, {});
  const { id: commandId } = await device.next('command');
  device.say({ type: 'answer', id: commandId, ok: true, text: 'It forgets.' });
  expect((await released).status).toBe(204);
  await device.untilClosed();
  expect((await device.call(null)).claimed).toBe(false);
  expect(await ada.until(`/api/devices/${id}`, (view: { state: string }) => view.state === 'calling')).toMatchObject({
    name: null,
    siteId: null,
  });
  expect((await ada.post(`/api/sites/${pier}/claim-preview`, { serials: [device.serial] })).names).toEqual([name]);
  device.hangUp();
});

test('only those who may change may do so, and only to what is ours', async () => {
  const oli = await setting.as('oli');
  const { device, id } = await ours('AP-6');
  for (const path of ['replace', 'move', 'release'])
    expect(
      (await oli.ask('POST', `/api/devices/${id}/${path}`, { serial: 'X', despiteLosses: true, siteId: slip })).status,
    ).toBe(403);
  const stranger = await calling('AP-6');
  const { rows } = await ada.get('/api/devices');
  const strangerId = rows.find((row: { serial: string }) => row.serial === stranger.serial).id;
  expect((await ada.ask('POST', `/api/devices/${strangerId}/release`, {})).status).toBe(404);
  for (const each of [device, stranger]) each.hangUp();
});
