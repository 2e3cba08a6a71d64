import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

type Hitch = { id: string; code: string; serial: string; reason: string; next: string; retry: string; times: number };

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

let boxes = 0x10;
const box = (serial: string, model = 'AP-6', mac = `02:00:00:01:00:${(boxes++).toString(16)}`) =>
  new TestDevice(setting.controller.url, serial, model, mac);
const hitch = async (code: string, serial: string): Promise<Hitch> => {
  const { hitches } = await ada.until<{ hitches: Hitch[] }>('/api/hitches', (each) =>
    each.hitches.some((one) => one.code === code && one.serial === serial),
  );
  return hitches.find((one) => one.code === code && one.serial === serial)!;
};
const settled = (code: string, serial: string) =>
  ada.until<{ hitches: Hitch[] }>(
    '/api/hitches',
    (each) => !each.hitches.some((one) => one.code === code && one.serial === serial),
  );
const claim = (serial: string) => ada.ask('POST', `/api/sites/${siteId}/claims`, { serials: [serial] });
const retry = (id: string) => ada.ask('POST', `/api/hitches/${id}/retry`, {});
const expectBox = (body: object) => ada.ask('POST', `/api/sites/${siteId}/expected`, body);

const SHEET = {
  format: 'iron-lattice.hardware/1',
  model: 'SW-5',
  title: 'Switch SW-5',
  kind: 'switch',
  ports: [
    { name: 'a', role: 'edge', speed: 1000 },
    { name: 'up', role: 'trunk', speed: 1000 },
  ],
  radios: [],
  ssidsPerRadio: 0,
};

test('a model without a sheet is turned away and listed; with a supplied sheet it comes in as what the sheet says', async () => {
  const odd = box('ODD-01', 'SW-5');
  for (let i = 0; i < 2; i++) expect((await odd.turnedAway()).code).toBe('model');
  const reason = 'ODD-01 called. There is no hardware sheet for model SW-5.';
  await expect.poll(() => hitch('model', 'ODD-01'), { timeout: 5000 }).toMatchObject({ reason, times: 2 });
  expect((await ada.ask('POST', '/api/hardware-sheets', { ...SHEET, kind: 'ap' })).json.title).toMatch(
    /^An access point needs a radio/,
  );
  expect((await ada.ask('POST', '/api/hardware-sheets', SHEET)).status).toBe(201);
  await settled('model', 'ODD-01');
  await odd.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some((each) => each.serial === 'ODD-01'));
  expect((await claim('ODD-01')).json.claimed[0]).toMatchObject({
    title: 'Switch SW-5',
    kind: 'switch',
    ports: ['a', 'up'],
  });
  const { document } = await odd.next('document');
  expect(document.ports.map((port) => port.name)).toEqual(['a', 'up']);
  odd.hangUp();
});

test('two devices with one MAC address are both listed, and neither is claimed before it is settled', async () => {
  const [one, other] = [box('TWN-01', 'AP-6', '02:00:00:02:00:01'), box('TWN-02', 'AP-6', '02:00:00:02:00:01')];
  await one.call();
  await other.call();
  expect((await hitch('mac', 'TWN-01')).reason).toContain('TWN-02');
  expect((await hitch('mac', 'TWN-02')).reason).toContain('TWN-01');
  expect((await claim('TWN-02')).json.flaws[0].code).toBe('claim.mac');
  one.hangUp();
  await ada.until('/api/calling', (list: { serial: string }[]) => !list.some((each) => each.serial === 'TWN-01'));
  await other.call();
  await settled('mac', 'TWN-02');
  expect((await claim('TWN-02')).status).toBe(201);
  other.hangUp();
});

test('a device announced as another model stays listed until somebody takes it as it is', async () => {
  await expectBox({ serial: 'MOD-01', model: 'AP-6E' });
  const device = box('MOD-01');
  await device.call();
  const listed = await hitch('other-model', 'MOD-01');
  expect(listed.reason).toBe('It was announced as AP-6E and is AP-6.');
  expect((await retry(listed.id)).status).toBe(204);
  expect((await device.next('document')).document.device.model).toBe('AP-6');
  await settled('other-model', 'MOD-01');
  device.hangUp();
});

test('a device announced with another MAC address stays listed too', async () => {
  await expectBox({ serial: 'MAC-01', mac: '02:00:00:03:00:09' });
  const device = box('MAC-01');
  await device.call();
  expect((await hitch('other-mac', 'MAC-01')).reason).toBe(
    `It was announced with the MAC address 02:00:00:03:00:09 and has ${device.mac}.`,
  );
  device.hangUp();
});

test('a label’s key is held against the device’s: another box under that serial number is turned away', async () => {
  await expectBox({ serial: 'KEY-01', fingerprint: '0123456789abcdef' });
  await expect(box('KEY-01').call()).rejects.toThrow('the line closed before welcome');
  expect((await hitch('key', 'KEY-01')).reason).toMatch(/its label says 0123456789abcdef\. It was turned away\.$/);
});

test('a new key is taken when somebody says so, and then the device is ours again', async () => {
  const old = box('SWP-01');
  await old.call();
  await claim('SWP-01');
  await old.comply();
  old.hangUp();
  const repaired = box('SWP-01', 'AP-6', old.mac);
  await expect(repaired.call()).rejects.toThrow('the line closed before welcome');
  await retry((await hitch('key', 'SWP-01')).id);
  expect((await repaired.call()).claimed).toBe(true);
  repaired.hangUp();
});

test('a clock that is off is listed, told the time, and settles when it is right', async () => {
  const device = box('CLK-01');
  const { now } = await device.call(null, undefined, { clock: Date.now() - 11_520_000 });
  expect(Math.abs(now! - Date.now())).toBeLessThan(5000);
  expect((await hitch('clock', 'CLK-01')).reason).toBe('Its clock is 3 h 12 min behind; schedules and logs mislead.');
  await device.call(null, undefined, { clock: Date.now() });
  await settled('clock', 'CLK-01');
  device.hangUp();
});

test('a hitch that is left out comes back when it happens again', async () => {
  const odd = box('ODD-02', 'XX-9');
  await odd.turnedAway();
  const { id } = await hitch('model', 'ODD-02');
  expect((await ada.ask('DELETE', `/api/hitches/${id}`)).status).toBe(204);
  await settled('model', 'ODD-02');
  expect((await retry(id)).status).toBe(404);
  await odd.turnedAway();
  expect((await hitch('model', 'ODD-02')).times).toBe(1);
});

test('a serial number that belongs to another site is refused with where it is', async () => {
  const site = await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' });
  const refused = await ada.ask('POST', `/api/sites/${site.id}/expected`, { serial: 'SWP-01' });
  expect(refused.json.title).toMatch(/^SWP-01 belongs to Pier, as pr-ap-\d\d\.$/);
});

test('a site where much goes wrong pushes no other site’s hitch off the list', async () => {
  const wish = { country: 'IE', timeZone: 'Europe/Dublin' };
  const [loud, quiet] = [
    await ada.post('/api/sites', { ...wish, name: 'Loud', code: 'ld' }),
    await ada.post('/api/sites', { ...wish, name: 'Quiet', code: 'qt' }),
  ];
  const { database } = setting.controller;
  const put = async (siteId: string, count: number, at: string): Promise<void> => {
    await database.query(
      `WITH box AS (
         INSERT INTO device (id, serial, model, mac, public_key, firmware, expected_site_id, expected_name)
         SELECT gen_random_uuid(), :at || '-' || n, 'SW-8P', 'm' || :at || n, NULL, '', :siteId, NULL FROM generate_series(1, :count) n
         RETURNING id, serial
       )
       INSERT INTO hitch (id, code, serial, device_id, reason, next, retry, detail, times, first_at, last_at)
       SELECT gen_random_uuid(), 'clock', serial, id, 'r', 'n', 't', '{}', 1, now(), now() - :at::interval FROM box`,
      { replacements: { siteId, count, at } },
    );
  };
  await put(quiet.id, 3, '3 hours');
  await put(loud.id, 700, '1 hour');
  const of = async (siteId: string, query = ''): Promise<number> => {
    const { hitches } = await ada.get(`/api/hitches${query}`);
    return hitches.filter((each: { siteId: string | null }) => each.siteId === siteId).length;
  };
  expect(await of(quiet.id)).toBe(3);
  expect(await of(loud.id)).toBeGreaterThanOrEqual(100);
  expect(await of(loud.id, `?siteId=${loud.id}`)).toBeGreaterThan(400);
});
