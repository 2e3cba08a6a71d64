import { randomUUID } from 'node:crypto';
import { connect, type Socket } from 'node:net';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

type Hitch = { code: string; serial: string; reason: string; times: number; deviceId: string | null };

/** What devices that are hostile, or broken, do to everybody else: nothing. */
let setting: TestController;
let ada: TestCaller;
let siteId = '';
let own: TestDevice;
let other: TestDevice;
beforeAll(async () => {
  setting = await TestController.start(1000, false, { strangersAnAddress: 12 });
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  own = new TestDevice(setting.controller.url, 'SW-0001');
  await own.call();
  await own.comply();
  await ada.ask('POST', `/api/sites/${siteId}/expected`, { serial: 'OTHER-77' });
  other = box('OTHER-77');
  await other.call();
  await other.comply();
});
afterAll(async () => {
  own.hangUp();
  other.hangUp();
  await setting.end();
});

const box = (serial: string, model = 'AP-6') =>
  new TestDevice(setting.controller.url, serial, model, `02:00:00:00:01:${serial.slice(-2)}`);
const hitches = async (): Promise<Hitch[]> => (await ada.get('/api/hitches')).hitches;
const count = async (sql: string): Promise<number> => {
  const rows = await setting.controller.database.query<{ n: number }>(sql, { type: QueryTypes.SELECT });
  return Number(rows[0]!.n);
};
const report = {
  address: '10.5.1.20',
  uptime: 60,
  neighbours: [],
  uplinks: [],
  clients: [],
  leases: [],
  counters: [],
};
const row = async () =>
  (await ada.get(`/api/sites/${siteId}/devices`)).find((each: { serial: string }) => each.serial === 'SW-0001');
let last = 77;

test('who has proved nothing makes no row and at most a few lines, whatever serial numbers it gives', async () => {
  for (let i = 0; i < 60; i++) {
    const odd = box(i === 0 ? 'SW-0001' : `INVENTED-${i}`);
    await odd.dial();
    odd.hello(null, { version: 9 });
    await odd.untilClosed();
  }
  await expect
    .poll(async () => (await hitches()).find((each) => each.code === 'flood')?.times, { timeout: 5000 })
    .toBe(40);
  const listed = await hitches();
  expect(listed.filter((each) => each.code === 'version')).toHaveLength(20);
  expect(listed.filter((each) => each.serial === 'SW-0001' || each.deviceId !== null)).toEqual([]);
  expect(listed.find((each) => each.code === 'flood')!.serial).toBe('from 127.0.0.1');
  expect(await count('SELECT count(*) n FROM device')).toBe(2);
});

test('devices that nobody announced wait in a limited number; one that was announced still comes in', async () => {
  const strangers = Array.from({ length: 12 }, (_, i) => box(`STRANGE-${10 + i}`));
  for (const each of strangers) await each.call();
  expect(await box('STRANGE-90').turnedAway()).toMatchObject({ code: 'busy' });
  expect(await box('STRANGE-91', 'XX-1').turnedAway()).toMatchObject({ code: 'busy' });
  expect(await count('SELECT count(*) n FROM device')).toBe(14);
  const flood = (await hitches()).find((each) => each.code === 'flood')!;
  expect(flood.times).toBeGreaterThan(40);
  expect((await ada.ask('POST', `/api/sites/${siteId}/expected`, { serial: 'WANTED-99' })).status).toBe(201);
  const wanted = box('WANTED-99');
  await wanted.call();
  await wanted.comply();
  wanted.hangUp();
  for (const each of strangers) each.hangUp();
});

test('before it is claimed nothing but who it is is taken from a device, and one that goes on is let go', async () => {
  await setting.controller.database.query(`DELETE FROM device WHERE serial LIKE 'STRANGE%'`);
  const odd = box('EAGER-01');
  await odd.call();
  odd.say({ type: 'report', report: { ...report, address: '10.9.9.9' } });
  odd.say({ type: 'kept', hash: 'a'.repeat(64) });
  for (let i = 0; i < 40; i++) odd.say({ type: 'answer', id: randomUUID(), ok: true, text: 'unasked' });
  expect(await odd.next('refusal')).toMatchObject({ code: 'claim' });
  await odd.untilClosed();
  expect(
    await count(`SELECT count(*) n FROM device WHERE serial = 'EAGER-01' AND (report IS NOT NULL OR runs IS NOT NULL)`),
  ).toBe(0);
  expect(await count('SELECT count(*) n FROM command_answer')).toBe(0);
});

test.each([
  ['a NUL', { address: 'a\0b' }],
  ['half a surrogate pair', { neighbours: [{ port: '1', chassis: '\ud800', theirPort: '2' }] }],
  ['a start before the world began', { uptime: 9e15 }],
  ['a lease given in the year 300,000', { leases: [{ vlan: 1, mac: 'x', address: 'y', since: 9e15 }] }],
])('a report with %s is refused and noted with its device; what others say is written', async (_name, change) => {
  own.say({ type: 'report', report: { ...report, ...change } });
  other.say({ type: 'report', report: { ...report, address: `10.5.1.${++last}` } });
  await own.untilClosed();
  await expect
    .poll(async () => (await hitches()).find((each) => each.code === 'frame')?.serial, { timeout: 5000 })
    .toBe('SW-0001');
  await expect
    .poll(() => count(`SELECT count(*) n FROM device WHERE serial = 'OTHER-77' AND address = '10.5.1.${last}'`))
    .toBe(1);
  await own.call((await row()).runs);
});

test('callers for whom there is no room may go as rudely as they like: nobody else notices', async () => {
  const { port } = new URL(setting.controller.url);
  const asks = [
    ...['GET /line HTTP/1.1', `Host: 127.0.0.1:${port}`, 'Connection: Upgrade', 'Upgrade: websocket'],
    ...['Sec-WebSocket-Version: 13', 'Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==', '', ''],
  ].join('\r\n');
  const dial = (): Socket => {
    const socket = connect({ host: '127.0.0.1', port: Number(port), localAddress: '127.0.0.9' });
    socket.on('error', () => {});
    socket.write(asks);
    return socket;
  };
  const answer = (socket: Socket): Promise<string> =>
    new Promise((resolve) => socket.once('data', (data) => resolve(data.toString().split('\r\n')[0]!)));
  const waiting = Array.from({ length: 1000 }, dial);
  expect(new Set(await Promise.all(waiting.map(answer)))).toEqual(new Set(['HTTP/1.1 101 Switching Protocols']));
  for (let i = 0; i < 30; i++) {
    const [heard, deaf] = [dial(), dial()];
    expect(await answer(heard)).toBe('HTTP/1.1 503 Service Unavailable');
    heard.resetAndDestroy();
    deaf.resetAndDestroy(); // its answer comes to nobody
  }
  for (const socket of waiting) socket.resetAndDestroy();
  expect((await fetch(`${setting.controller.url}/healthz`)).status).toBe(200);
});

test('hits are kept of rules that the device was told, and of no others', async () => {
  const invented = Array.from({ length: 3000 }, (_, i) => ({ rule: `invented-${i}`, packets: i }));
  own.say({ type: 'report', report: { ...report, hits: invented } });
  own.say({ type: 'report', report: { ...report, address: '10.5.1.21', hits: invented } });
  await expect.poll(async () => (await row()).address).toBe('10.5.1.21');
  await setting.controller.lines.close();
  expect(await count('SELECT count(*) n FROM rule_hit')).toBe(0);
});
