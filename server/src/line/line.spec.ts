import { generateKeyPairSync } from 'node:crypto';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const device = (serial: string, model?: string, mac?: string) =>
  new TestDevice(setting.controller.url, serial, model, mac);
const shown = async (serial: string) =>
  (await ada.get(`/api/sites/${siteId}/devices`)).find((each: { serial: string }) => each.serial === serial);

async function until<T>(read: () => Promise<T>, good: (value: T) => boolean): Promise<T> {
  for (let i = 0; ; i++) {
    const value = await read();
    if (good(value) || i > 500) return value;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

test('who does not prove to hold its key is turned away and never seen', async () => {
  const liar = device('LIAR-0001');
  await expect(liar.call(null, generateKeyPairSync('ed25519').privateKey)).rejects.toThrow(
    'the line closed before welcome',
  );
  expect(await ada.get('/api/calling')).toEqual([]);
});

test('another version of the line is refused at once, a model without a sheet once it proved itself', async () => {
  const odd = device('ODD-0001');
  await odd.dial();
  odd.hello(null, { version: 2 });
  const reason = 'This controller speaks version 1 of the line, not 2.';
  expect(await odd.next('refusal')).toMatchObject({ code: 'version', reason });
  await odd.untilClosed();
  expect(await odd.turnedAway({ model: 'XX-1' })).toMatchObject({
    code: 'model',
    reason: 'There is no hardware sheet for model XX-1.',
  });
});

test.each([
  'nonsense',
  '{"type":"report"}',
  '{"type":"proof","signature":"QUJD"}',
  JSON.stringify({ type: 'kept', hash: 'a'.repeat(64) }),
])('before it is known a device that says %s is refused', async (text) => {
  const odd = device('ODD-0002');
  await odd.dial();
  odd.raw(text);
  expect((await odd.next('refusal')).code).toBe('frame');
  await odd.untilClosed();
});

test('a calling device waits, is told nothing before it is claimed, and gets its document when it is', async () => {
  const box = device('GW-0001', 'GW-4', '02:00:00:00:00:09');
  expect(await box.call()).toMatchObject({ claimed: false });
  const calling = await until(
    () => ada.get('/api/calling'),
    (list) => list.length === 1,
  );
  expect(calling[0]).toMatchObject({ serial: 'GW-0001', state: 'calling', name: null, siteId: null });
  expect(calling[0].fingerprint).toMatch(/^[0-9a-f]{16}$/);
  const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: ['gw-0001'] });
  expect(claimed[0]).toMatchObject({ name: 'pr-gw-01', state: 'behind' });
  expect((await box.next('welcome')).claimed).toBe(true);
  const told = await box.next('document');
  expect(told.document).toMatchObject({ kind: 'gateway', device: { name: 'pr-gw-01', serial: 'GW-0001' } });
  box.say({ type: 'applied', hash: told.hash });
  await box.next('keep');
  box.say({ type: 'kept', hash: told.hash });
  expect(
    await until(
      () => shown('GW-0001'),
      (view) => view.state === 'in step',
    ),
  ).toMatchObject({ runs: told.hash, wants: told.hash });
  box.hangUp();
  expect(
    (
      await until(
        () => shown('GW-0001'),
        (view) => view.state === 'silent',
      )
    ).state,
  ).toBe('silent');
  expect(await box.call(told.hash)).toMatchObject({ claimed: true });
  expect(
    (
      await until(
        () => shown('GW-0001'),
        (view) => view.state === 'in step',
      )
    ).state,
  ).toBe('in step');
  box.hangUp();
});

describe('a device that does not run what it is told', () => {
  let box: TestDevice;
  beforeAll(() => {
    box = device('SW-0001');
  });
  afterEach(() => box.hangUp());

  test('a device that refuses or goes back is stuck with its reason, is left alone, and told again on request', async () => {
    await box.call();
    const told = await box.next('document');
    box.say({ type: 'refused', hash: told.hash, runs: null, reason: 'flash is full' });
    const stuck = await until(
      () => shown('SW-0001'),
      (view) => view.state === 'stuck',
    );
    expect(stuck.trouble).toBe('It refused its document: flash is full.');
    box.hangUp();
    await box.call();
    await expect(box.next('document', 300)).rejects.toThrow('no document within');
    await ada.post(`/api/devices/${stuck.id}/retry`);
    const again = await box.next('document');
    box.say({ type: 'applied', hash: again.hash });
    await box.next('keep');
    box.say({ type: 'went-back', hash: again.hash, runs: null, reason: 'lost the controller' });
    expect(
      await until(
        () => shown('SW-0001'),
        (view) => view.state === 'stuck',
      ),
    ).toMatchObject({
      trouble: 'It went back to what it ran before: lost the controller.',
    });
  });

  test('a device that was answered too late is told again, a few times only; then it is stuck with its reason', async () => {
    await box.call();
    const { id } = await shown('SW-0001');
    await ada.post(`/api/devices/${id}/retry`);
    for (let told = 1; told <= 4; told++) {
      const { hash } = await box.next('document');
      box.say({ type: 'applied', hash });
      await box.next('keep');
      expect((await shown('SW-0001')).state).toBe('behind');
      box.say({ type: 'went-back', hash, runs: null, reason: 'the controller did not answer', unanswered: true });
    }
    const stuck = await until(
      () => shown('SW-0001'),
      (view) => view.state === 'stuck',
    );
    expect(stuck.trouble).toBe('It went back to what it ran before: the controller did not answer.');
    await expect(box.next('document', 300)).rejects.toThrow('no document within');
  });

  test('a device that was not heard to apply what it goes back from is stuck at once: its way to us did not hold', async () => {
    await box.call();
    const { id } = await shown('SW-0001');
    await ada.post(`/api/devices/${id}/retry`);
    const { hash } = await box.next('document');
    box.say({ type: 'went-back', hash, runs: null, reason: 'the controller did not answer', unanswered: true });
    expect(
      await until(
        () => shown('SW-0001'),
        (view) => view.state === 'stuck',
      ),
    ).toMatchObject({ state: 'stuck' });
    await expect(box.next('document', 300)).rejects.toThrow('no document within');
  });
});

test('a device with another key cannot take a claimed serial number over', async () => {
  const thief = device('SW-0001');
  await expect(thief.call()).rejects.toThrow('the line closed before welcome');
  const { hitches } = await ada.get(`/api/hitches?siteId=${siteId}`);
  const hitch = hitches.find((each: { code: string }) => each.code === 'key');
  expect(hitch).toMatchObject({ serial: 'SW-0001', who: 'pr-sw-01', retry: 'Take the new key' });
  expect(hitch.reason).toMatch(
    /^A device called as SW-0001 with the key [0-9a-f]{16}; ours has [0-9a-f]{16}\. It was turned away\.$/,
  );
});

test('when a device calls again its old line is dropped', async () => {
  const box = device('AP-0001', 'AP-6', '02:00:00:00:00:0a');
  await box.call();
  const first = (box as unknown as { socket: { once(event: string, done: () => void): void } }).socket;
  const dropped = new Promise<void>((resolve) => first.once('close', resolve));
  await box.call();
  await dropped;
  expect(
    (
      await until(
        () => ada.get('/api/calling'),
        (list) => list.length === 1,
      )
    )[0].serial,
  ).toBe('AP-0001');
  box.hangUp();
});

test('a command is answered by the device, or says that it was not', async () => {
  const box = device('AP-0001', 'AP-6', '02:00:00:00:00:0a');
  await box.call();
  await until(
    () => ada.get('/api/calling'),
    (list) => list.length === 1,
  );
  const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: ['AP-0001'] });
  const asked = ada.ask('POST', `/api/devices/${claimed[0].id}/commands`, { name: 'ping', target: '10.5.1.1' });
  const command = await box.next('command');
  expect(command).toMatchObject({ name: 'ping', target: '10.5.1.1' });
  box.say({ type: 'answer', id: command.id, ok: true, text: '10.5.1.1 answers.' });
  expect((await asked).json).toEqual({ ok: true, text: '10.5.1.1 answers.' });
  box.hangUp();
  await until(
    () => shown('AP-0001'),
    (view) => view.state === 'silent',
  );
  const silent = await ada.ask('POST', `/api/devices/${claimed[0].id}/commands`, { name: 'locate', target: '' });
  expect(silent.json.title).toBe('pr-ap-01 is silent. Check its power and cable.');
});

test('neighbour reports become links, each cable once', async () => {
  const [gateway, box] = [
    device('GW-0002', 'GW-4', '02:00:00:00:00:0b'),
    device('SW-0002', 'SW-8P', '02:00:00:00:00:0c'),
  ];
  await Promise.all([gateway.call(), box.call()]);
  await until(
    () => ada.get('/api/calling'),
    (list) => list.length === 2,
  );
  await ada.post(`/api/sites/${siteId}/claims`, { serials: ['GW-0002', 'SW-0002'] });
  const report = (neighbour: string, port: string, theirPort: string) => ({
    type: 'report' as const,
    report: {
      address: null,
      uptime: 1,
      neighbours: [{ port, chassis: neighbour, theirPort }],
      uplinks: [],
      clients: [],
      leases: [],
      counters: [],
    },
  });
  gateway.say(report(box.mac, '1', '9'));
  box.say(report(gateway.mac, '9', '1'));
  const { links } = await until(
    () => ada.get(`/api/drafts/current/sites/${siteId}`),
    (data) => data.links.length > 0,
  );
  expect(links).toHaveLength(1);
  expect([links[0].a.port, links[0].b.port].sort()).toEqual(['1', '9']);
  const view = await until(
    () => shown('SW-0002'),
    (each) => each.hangsOn !== null,
  );
  expect(view.hangsOn).toBe('pr-gw-02 · 1');
  gateway.hangUp();
  box.hangUp();
});

test('a device that says much at once is heard to the end, in order, while others are served', async () => {
  const [chatty, quiet] = [
    device('GW-0003', 'GW-4', '02:00:00:00:00:0d'),
    device('AP-0003', 'AP-6', '02:00:00:00:00:0e'),
  ];
  await chatty.call();
  await until(
    () => ada.get('/api/calling'),
    (list) => list.length === 1,
  );
  await ada.post(`/api/sites/${siteId}/claims`, { serials: ['GW-0003'] });
  const report = { uptime: 1, neighbours: [], uplinks: [], clients: [], leases: [], counters: [] };
  for (let i = 1; i <= 400; i++) chatty.say({ type: 'report', report: { ...report, address: `10.5.${i}` } });
  expect(await quiet.call()).toMatchObject({ claimed: false });
  const view = await until(
    () => shown('GW-0003'),
    (each) => each.address === '10.5.400',
  );
  expect(view.address).toBe('10.5.400');
  chatty.hangUp();
  quiet.hangUp();
});
