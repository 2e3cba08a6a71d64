import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
const boxes: TestDevice[] = [];
const ids: string[] = [];
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  for (const [i, model] of ['GW-4', 'AP-6', 'AP-6'].entries()) {
    const box = new TestDevice(setting.controller.url, `CHG-0${i}`, model, `02:00:00:06:00:0${i}`);
    await box.call();
    await ada.until('/api/calling', (list: unknown[]) => list.length === 1);
    const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] });
    await box.comply();
    boxes.push(box);
    ids.push(claimed[0].id);
  }
});
afterAll(async () => {
  for (const box of boxes) box.hangUp();
  await setting.end();
});

const change = (at: number, body: object) => ada.ask('PATCH', `/api/devices/${ids[at]}`, body);

test('a new name goes into the document, and is refused when it is none or somebody’s', async () => {
  expect((await change(1, { name: 'pr-ap-mast' })).json.name).toBe('pr-ap-mast');
  expect((await boxes[1]!.next('document')).document.device.name).toBe('pr-ap-mast');
  for (const [name, code] of [
    ['', 'device.name-empty'],
    ['no spaces', 'device.name'],
    ['pr-gw-01', 'device.name-taken'],
  ])
    expect((await change(1, { name })).json.flaws[0]).toMatchObject({ code, field: 'name' });
  expect((await ada.get(`/api/devices/${ids[1]}/proposals`)).name).toBe('pr-ap-01');
});

test('the status light is part of the document only when it is off', async () => {
  await change(2, { lightOff: true });
  const { hash, document } = await boxes[2]!.next('document');
  expect(document.light).toBe('off');
  boxes[2]!.say({ type: 'applied', hash });
  await boxes[2]!.next('keep');
  boxes[2]!.say({ type: 'kept', hash });
  await ada.until(`/api/devices/${ids[2]}`, (view: { state: string }) => view.state === 'in step');
  await change(2, { lightOff: false });
  expect((await boxes[2]!.next('document')).document).not.toHaveProperty('light');
});

test('an address that another device has is refused, and a gateway keeps the segment’s own', async () => {
  const fixed = { address: '10.5.1.9', length: '24', gateway: '10.5.1.1', dns: '10.5.1.1' };
  expect((await change(1, { fixed })).json.fixed).toMatchObject({ address: '10.5.1.9', length: 24 });
  expect((await change(2, { fixed })).json.flaws[0].message).toBe('10.5.1.9 is taken by pr-ap-mast.');
  expect((await change(0, { fixed: { ...fixed, address: '10.5.1.10' } })).json.flaws[0].code).toBe(
    'address.gateway-itself',
  );
  const { address } = await ada.get(`/api/devices/${ids[2]}/proposals`);
  expect(address).toMatchObject({ address: '10.5.1.2', gateway: '10.5.1.1' });
  expect((await change(1, { fixed: null })).json.fixed).toBeNull();
});

test('tags are replaced only by who saw them, and many at once are added to what is there', async () => {
  const { version } = await ada.get(`/api/devices/${ids[2]}`);
  expect((await change(2, { tags: ['mine'] })).status).toBe(400);
  expect((await change(2, { version, tags: ['first'] })).json).toMatchObject({ tags: ['first'], version: version + 1 });
  const late = await change(2, { version, tags: ['second'] });
  expect([late.status, late.json.type]).toEqual([409, 'about:lattice/device.stale']);
  const both = ['a', 'b', 'c', 'd'].map((tag) =>
    ada.ask('PATCH', '/api/devices', { deviceIds: [ids[2]], addTags: [tag] }),
  );
  await Promise.all(both);
  expect((await ada.get(`/api/devices/${ids[2]}`)).tags.sort()).toEqual(['a', 'b', 'c', 'd', 'first']);
  const clear = { version: version + 5, tags: [] };
  expect((await change(2, clear)).status).toBe(200);
});

test('many are tagged at once; what happened is each one’s history', async () => {
  const many = (body: object) => ada.ask('PATCH', '/api/devices', { deviceIds: ids, ...body });
  expect((await many({ addTags: ['Deck', 'spare'] })).json).toEqual({ done: 3, failed: [] });
  await many({ removeTags: ['spare'], policy: 'window' });
  expect(await ada.get(`/api/devices/${ids[2]}`)).toMatchObject({ tags: ['deck'], policy: 'window' });
  const words = (await ada.get(`/api/devices/${ids[2]}/history`)).map((entry: { words: string }) => entry.words);
  expect(words.slice(0, 3).sort()).toEqual([
    'Firmware policy: kept current in the site’s window.',
    'Tags: deck, spare.',
    'Tags: deck.',
  ]);
});

test('a gateway’s sweep is followed as it goes on, and what it finds is told apart', async () => {
  const started = await ada.post('/api/sweeps', { prefix: '10.5.0.0/22', deviceId: ids[0], siteId });
  const { id, target } = await boxes[0]!.next('command');
  expect([id, target]).toEqual([started.id, '10.5.0.0/22']);
  const found = [
    { address: '10.5.1.40', serial: 'NEW-01', model: 'AP-6', mac: '02:00:00:06:01:01', firmware: '1.0.0' },
    { address: '10.5.1.9', serial: 'CHG-01', model: 'AP-6', mac: '02:00:00:06:00:01', firmware: '1.0.0' },
  ];
  boxes[0]!.say({ type: 'progress', id, done: 512, of: 1024, found });
  await ada.until(`/api/sweeps/${id}`, (sweep: { done: number }) => sweep.done === 512);
  boxes[0]!.say({ type: 'answer', id, ok: true, text: '1024 addresses.', found });
  const sweep = await ada.until(`/api/sweeps/${id}`, (each: { state: string }) => each.state === 'done');
  expect(sweep).toMatchObject({ done: 1024, of: 1024, by: 'pr-gw-01' });
  expect(
    (sweep as unknown as { found: { serial: string; known: string }[] }).found.map((each) => [each.serial, each.known]),
  ).toEqual([
    ['NEW-01', 'new'],
    ['CHG-01', 'ours'],
  ]);
  const invited = ada.ask('POST', `/api/sweeps/${id}/invitations`, { address: '10.5.1.40' });
  const command = await boxes[0]!.next('command');
  expect(command).toMatchObject({ name: 'invite', target: '10.5.1.40' });
  boxes[0]!.say({ type: 'answer', id: command.id, ok: false, text: 'Nobody answers at 10.5.1.40 any more.' });
  expect((await invited).json.title).toBe('Nobody answers at 10.5.1.40 any more.');
});

test('a capture is a file of what the device took, and nothing it says can be anything else', async () => {
  const asked = ada.fetch('POST', `/api/devices/${ids[1]}/captures`, { port: 'lan', seconds: 1 });
  const { id, seconds, target } = await boxes[1]!.next('command');
  expect([seconds, target]).toEqual([1, 'lan']);
  const bytes = Buffer.alloc(60, 1).toString('base64');
  boxes[1]!.say({
    type: 'answer',
    id,
    ok: true,
    text: '1 frame.',
    packets: [{ at: 1_795_420_800_000_000, bytes, length: 60 }],
  });
  const response = await asked;
  const file = Buffer.from(await response.arrayBuffer());
  expect([response.status, file.readUInt32LE(0), file.length % 4]).toEqual([200, 0x0a0d0d0a, 0]);
  expect(file.includes(Buffer.alloc(60, 1))).toBe(true);
});
