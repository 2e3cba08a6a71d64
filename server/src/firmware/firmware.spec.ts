import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

type Update = { id: string; name: string; state: string; reason: string | null; release: string; percent: number };

let setting: TestController;
let ada: TestCaller;
let siteId = '';
const release = (version: string, more: object = {}) =>
  JSON.stringify({
    format: 'iron-lattice.firmware/1',
    model: 'AP-6',
    version,
    releasedOn: '2026-09-01',
    notes: `Notes of ${version}.`,
    minimumPrevious: null,
    image: Buffer.from(`image ${version}`).toString('base64'),
    ...more,
  });
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  for (const file of [
    release('0.9.0', { unsupported: true, holdsLine: false }),
    release('1.0.0'),
    release('2.0.0', { minimumPrevious: '1.0.0' }),
  ])
    expect((await ada.upload('/api/firmware', file)).status).toBe(201);
});
afterAll(() => setting.end());

let count = 0;
/** An AP of ours that runs what it should. */
const ours = async (firmware = '1.0.0') => {
  const number = String(++count).padStart(2, '0');
  const box = new TestDevice(setting.controller.url, `UPD-${number}`, 'AP-6', `02:00:00:09:00:${number}`);
  box.firmware = firmware;
  await box.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some((each) => each.serial === box.serial));
  const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] });
  const hash = await box.comply();
  await ada.until(`/api/devices/${claimed[0].id}`, (view: { state: string }) => view.state === 'in step');
  return { box, hash, id: claimed[0].id as string, name: claimed[0].name as string };
};
const update = (deviceIds: string[], mode = 'now', more: object = {}) =>
  ada.ask('POST', '/api/firmware/updates', { deviceIds, mode, ...more });
const statesOf = async (batchId: string) =>
  (await ada.get('/api/firmware/updates'))
    .find((batch: { id: string }) => batch.id === batchId)
    .updates.map((each: Update) => each.state);
const reached = (batchId: string, ...states: string[]) =>
  ada.until('/api/firmware/updates', (batches: { id: string; updates: Update[] }[]) => {
    const now = batches.find((batch) => batch.id === batchId)!.updates.map((each) => each.state);
    return JSON.stringify(now) === JSON.stringify(states);
  });

test('a release is refused that is there already, is none, or is no JSON', async () => {
  const title = async (file: string) => (await ada.upload('/api/firmware', file)).json.title;
  expect(await title(release('2.0.0'))).toBe('AP-6 2.0.0 is in the catalogue already.');
  expect(await title(release('two'))).toBe('“two” is not a release number, such as 4.3.1.');
  expect(await title('not json')).toBe('This is no release file: it is not JSON.');
  expect(await title(release('3.0.0', { colour: 'red' }))).toMatch(/^This is no release file: /);
});

test('a device fetches the image, restarts, and is done when it calls with the new release; nothing is pushed meanwhile', async () => {
  const { box, hash, id } = await ours();
  const { json: batch } = await update([id]);
  const order = await box.next('firmware');
  expect(order).toMatchObject({ release: '2.0.0', size: 'image 2.0.0'.length });
  const image = await fetch(`${setting.controller.url}${order.path}`);
  expect(await image.text()).toBe('image 2.0.0');
  box.say({ type: 'firmware-progress', id: order.id, percent: 60, restarting: false });
  await reached(batch.id, 'sending');
  for (const [method, path, body] of [
    ['PATCH', `/api/devices/${id}`, { name: 'other' }],
    ['POST', `/api/devices/${id}/commands`, { name: 'locate', target: '' }],
  ] as const)
    expect((await ada.ask(method, path, body)).json.type).toBe('about:lattice/device.updating');
  const draft = await ada.get('/api/drafts/current');
  const part = (await ada.get(`/api/drafts/current/sites/${siteId}`)).site;
  const segmentId = part.segments[0].id;
  const operations = [{ type: 'segment.set', siteId, segmentId, from: { name: 'Management' }, to: { name: 'Boxes' } }];
  expect((await ada.ask('POST', `/api/drafts/${draft.id}/operations`, { head: draft.head, operations })).status).toBe(
    200,
  );
  await ada.post('/api/rollouts', { draftId: draft.id, despiteErrors: true });
  await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done', 20_000);
  await expect(box.next('document', 400)).rejects.toThrow('no document within');
  box.say({ type: 'firmware-progress', id: order.id, percent: 100, restarting: true });
  await reached(batch.id, 'restarting');
  box.hangUp();
  box.firmware = '2.0.0';
  await box.call(hash);
  await reached(batch.id, 'done');
  expect(await ada.get(`/api/devices/${id}`)).toMatchObject({
    firmware: '2.0.0',
    firmwareState: 'current',
    updating: null,
  });
  box.hangUp();
});

test('an image that cannot be fetched fails the update, and the device is told its document again', async () => {
  const { box, id } = await ours();
  const { json: batch } = await update([id]);
  const order = await box.next('firmware');
  box.say({ type: 'firmware-failed', id: order.id, reason: 'The image does not match its checksum' });
  await reached(batch.id, 'failed');
  const [failed] = (await ada.get('/api/firmware/updates'))[0].updates;
  expect(failed.reason).toBe('The image does not match its checksum. It still runs 1.0.0.');
  const history = await ada.get(`/api/devices/${id}/history`);
  expect(history[0].words).toBe(
    'The update to 2.0.0 failed: The image does not match its checksum. It still runs 1.0.0.',
  );
  box.hangUp();
});

test('when a canary fails the rest is held, though others are begun in that very moment', async () => {
  const [first, second, third] = [await ours(), await ours(), await ours()];
  const { database } = setting.controller;
  // Holding the rest takes its time.
  await database.query(`CREATE FUNCTION slow_hold() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN IF NEW.state = 'held' THEN PERFORM pg_sleep(0.5); END IF; RETURN NEW; END $$`);
  await database.query(
    'CREATE TRIGGER slow_hold BEFORE UPDATE ON firmware_update FOR EACH ROW EXECUTE FUNCTION slow_hold()',
  );
  const { json: batch } = await update([first.id, second.id], 'staged');
  const { id } = await first.box.next('firmware');
  first.box.say({ type: 'firmware-failed', id, reason: 'The image does not match its checksum' });
  // Meanwhile another is due, again and again.
  const { json: other } = await update([third.id]);
  const order = await third.box.next('firmware');
  third.box.say({ type: 'firmware-failed', id: order.id, reason: 'The image does not match its checksum' });
  await reached(other.id, 'failed');
  await reached(batch.id, 'failed', 'held');
  await database.query('DROP TRIGGER slow_hold ON firmware_update');
  await ada.post(`/api/firmware/updates/${batch.id}/go-on`, {});
  await second.box.next('firmware');
  for (const { box } of [first, second, third]) box.hangUp();
});

/** Gives the site a window of its own. */
async function openWindow(window: object): Promise<void> {
  const { version } = (await ada.get('/api/estate')).sites.find((site: { id: string }) => site.id === siteId);
  const { status } = await ada.ask('PATCH', `/api/sites/${siteId}`, {
    version,
    address: '',
    coordinates: null,
    purpose: '',
    tags: [],
    window,
  });
  expect(status).toBe(200);
}

test('a device that comes back with the old release has failed, whether it says why or not', async () => {
  const [first, second] = [await ours(), await ours()];
  const { json: batch } = await update([first.id, second.id]);
  for (const { box } of [first, second]) {
    const { id } = await box.next('firmware');
    box.say({ type: 'firmware-progress', id, percent: 100, restarting: true });
  }
  await reached(batch.id, 'restarting', 'restarting');
  for (const { box } of [first, second]) box.hangUp();
  await first.box.call(first.hash, undefined, { failed: { release: '2.0.0', reason: 'Bad magic number' } });
  await second.box.call(second.hash);
  await reached(batch.id, 'failed', 'failed');
  const { updates } = (await ada.get('/api/firmware/updates'))[0];
  expect(updates.map((each: Update) => each.reason)).toEqual([
    'Bad magic number. It went back to 1.0.0 by itself.',
    'It came back with 1.0.0 and did not say why.',
  ]);
  for (const { box } of [first, second]) box.hangUp();
});

test('an update for the window waits for it and can be called off; a second one meanwhile is refused', async () => {
  const { box, id, name } = await ours();
  const now = new Date();
  const [day, from] = [(now.getUTCDay() + 3) % 7, 180];
  await openWindow({ day, from, minutes: 60 });
  const { json: batch } = await update([id], 'window');
  expect(batch.updates[0].state).toBe('waiting');
  const opens = new Date(batch.updates[0].notBefore);
  expect(opens.toLocaleString('en-GB', { timeZone: 'Europe/Dublin', hour: '2-digit', minute: '2-digit' })).toBe(
    '03:00',
  );
  expect(opens.getTime() - now.getTime()).toBeGreaterThan(86_400_000);
  expect((await update([id])).json.title).toBe(`Nothing was started. ${name}: It is being updated already.`);
  await ada.post(`/api/firmware/updates/${batch.id}/cancel`);
  expect(await statesOf(batch.id)).toEqual(['cancelled']);
  expect((await ada.ask('POST', `/api/firmware/updates/${batch.id}/cancel`, {})).status).toBe(409);
  await expect(box.next('firmware', 200)).rejects.toThrow('no firmware within');
  box.hangUp();
});

test('a device whose policy is to stay current is updated in its site’s open window, with nobody asking', async () => {
  const { box, id } = await ours();
  const now = new Date();
  const local = new Date(now.toLocaleString('en-US', { timeZone: 'Europe/Dublin' }));
  const window = { day: local.getDay(), from: Math.max(0, local.getHours() * 60 - 30), minutes: 240 };
  await openWindow(window);
  await ada.ask('PATCH', `/api/devices/${id}`, { policy: 'window' });
  expect(await box.next('firmware')).toMatchObject({ release: '2.0.0' });
  const [batch] = await ada.get('/api/firmware/updates');
  expect(batch).toMatchObject({ mode: 'window', by: 'its policy' });
  box.hangUp();
});

test('a plan says what would be done, and why not', async () => {
  const { box, id } = await ours('2.0.0');
  const plan = (body: object) => ada.post('/api/firmware/plan', { deviceIds: [id], mode: 'now', ...body });
  expect((await plan({}))[0]).toMatchObject({ state: 'current', refusal: 'It runs 2.0.0 already.' });
  expect((await plan({ release: '7.0.0' }))[0].refusal).toBe('The catalogue has no 7.0.0 for AP-6.');
  expect((await plan({ release: '1.0.0' }))[0]).toMatchObject({ steps: ['1.0.0'], refusal: null });
  box.hangUp();
});

test('a device too old for the line is listed, claimed by nobody, and comes in once it is updated', async () => {
  const old = new TestDevice(setting.controller.url, 'OLD-01', 'AP-6', '02:00:00:09:01:01');
  old.firmware = '0.9.0';
  await old.call();
  const { hitches } = await ada.until<{ hitches: { id: string; code: string; reason: string }[] }>(
    '/api/hitches',
    (each) => each.hitches.some((one) => one.code === 'firmware'),
  );
  const hitch = hitches.find((one) => one.code === 'firmware')!;
  expect(hitch.reason).toBe('It runs 0.9.0, which is too old to hold the line: it understands no documents of today.');
  const claim = () => ada.ask('POST', `/api/sites/${siteId}/claims`, { serials: ['OLD-01'] });
  expect((await claim()).json.flaws[0].message).toBe('OLD-01 runs 0.9.0, too old to hold the line. Update it first.');
  await ada.post(`/api/hitches/${hitch.id}/retry`);
  for (const version of ['1.0.0', '2.0.0']) {
    const { id, release: told } = await old.next('firmware');
    expect(told).toBe(version);
    old.say({ type: 'firmware-progress', id, percent: 100, restarting: true });
    await ada.until('/api/firmware/updates', (all: { updates: Update[] }[]) =>
      all[0]!.updates.some((each) => each.release === version && each.state === 'restarting'),
    );
    old.hangUp();
    old.firmware = version;
    await old.call();
  }
  expect((await claim()).status).toBe(201);
  old.hangUp();
});

test.each([
  ['a day that is none', { releasedOn: '2026-02-30' }, /releasedOn/],
  ['an image that is no base64', { image: '%%%%' }, /image/],
  ['a NUL in its notes', { notes: 'a\0b' }, /cannot be shown/],
  ['a field that we do not know', { more: 1 }, /more is not allowed/],
])('a release file with %s is refused', async (_name, change, reason) => {
  const file = {
    format: 'iron-lattice.firmware/1',
    model: 'AP-6',
    version: '9.9.9',
    releasedOn: '2026-02-28',
    notes: 'Two\nlines',
    minimumPrevious: null,
    image: 'AAAA',
  };
  const refused = await ada.upload('/api/firmware', JSON.stringify({ ...file, ...change }));
  expect([refused.status, refused.json.title]).toEqual([422, expect.stringMatching(reason)]);
});
