import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

/** What must not keep a rollout from ending, nor anybody else from working meanwhile. */
let setting: TestController;
let ada: TestCaller;
let siteId = '';
let box: TestDevice;
let aside: pg.Client;
let vlan = 100;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  box = new TestDevice(setting.controller.url, 'SW-0001');
  await box.call();
  await box.comply();
  aside = new pg.Client({ connectionString: setting.databaseUrl });
  await aside.connect();
});
afterEach(async () => {
  await aside.query('DROP TRIGGER IF EXISTS fault ON rollout_step');
});
afterAll(async () => {
  await aside.end();
  box.hangUp();
  await setting.end();
});

/** A draft with one edit. */
async function edited(): Promise<string> {
  const { id, head } = await ada.get('/api/drafts/current');
  const number = vlan++;
  const net = `10.6.${number}`;
  const segment = {
    id: randomUUID(),
    name: `S${number}`,
    vlan: number,
    subnet: `${net}.0/24`,
    gateway: `${net}.1`,
    addresses: null,
  };
  await ada.post(`/api/drafts/${id}/operations`, { head, operations: [{ type: 'segment.add', siteId, segment }] });
  return id;
}
const start = async (draftId: string) => ada.ask('POST', '/api/rollouts', { draftId, despiteErrors: true });
const over = (id: string) => ada.until<any>(`/api/rollouts/${id}`, (rollout) => rollout.endedAt !== null, 20_000);
/** Who waits for the lock of intent. */
const waiting = () =>
  aside.query(`SELECT 1 FROM pg_locks WHERE locktype = 'advisory' AND objid = 8620002 AND NOT granted`);
/** Waits until a rollout that is to be begun has been planned and waits for the lock, which somebody else holds. */
const waitsToBegin = () => expect.poll(async () => (await waiting()).rowCount).toBe(1);
const device = async () => (await ada.get(`/api/sites/${siteId}/devices`))[0];

test('eighty people who look at the draft while it is rolled out are all answered, and so is the rollout', async () => {
  const draftId = await edited();
  const look = () => Array.from({ length: 40 }, () => ada.ask('GET', '/api/drafts/current'));
  const before = look();
  const started = start(draftId);
  const answers = await Promise.all([...before, started, ...look()]);
  expect(answers.map(({ status }) => status).sort()).toEqual([...Array(80).fill(200), 201]);
  await box.comply();
  expect(await over((await started).json.id)).toMatchObject({ state: 'done' });
});

test('what changes between the plan and the lock is planned anew: the rollout tells what the draft is then', async () => {
  const draftId = await edited();
  await aside.query('BEGIN');
  await aside.query('SELECT pg_advisory_xact_lock(8620002)'); // it has planned, and waits to write
  const started = start(draftId);
  const late = randomUUID();
  await waitsToBegin();
  const part = (await ada.get(`/api/drafts/${draftId}/sites/${siteId}`)).site.segments.at(-1);
  await aside.query(
    `INSERT INTO operation (draft_id, number, body, inverse, made_on, person_id)
     SELECT draft_id, number + 1, $2, '{}', made_on, person_id FROM operation WHERE draft_id = $1 ORDER BY number DESC LIMIT 1`,
    [
      draftId,
      JSON.stringify({
        type: 'segment.set',
        siteId,
        segmentId: part.id,
        from: { name: part.name },
        to: { name: `N ${late.slice(0, 4)}` },
      }),
    ],
  );
  await aside.query('COMMIT');
  const { status, json } = await started;
  expect(status).toBe(201);
  const { document } = await box.next('document');
  expect(JSON.stringify(document)).toContain(`N ${late.slice(0, 4)}`);
  box.say({ type: 'applied', hash: (await device()).wants ?? '' });
  await ada.post(`/api/rollouts/${json.id}/cancel`);
  box.say({ type: 'refused', hash: 'a'.repeat(64), runs: (await device()).runs, reason: 'test' });
  expect(await over(json.id)).toMatchObject({ state: 'put-back' });
  await aside.query('DELETE FROM operation WHERE draft_id = $1 AND inverse = $2', [draftId, '{}']);
});

describe('before it begins', () => {
  let draftId = '';
  beforeAll(async () => {
    const lines = Array.from({ length: 120 }, (_, i) => `Quay ${i},IE,UTC,,`);
    const { token } = (
      await ada.upload('/api/site-lists', ['name,country,time zone,address,tags', ...lines].join('\n'))
    ).json;
    expect((await ada.ask('POST', '/api/site-lists/import', { token, leaveOutBad: false })).json).toEqual({
      imported: 120,
    });
    const { id, head } = await ada.get('/api/drafts/current');
    const set = { id: randomUUID(), name: 'Tills', ports: ['9100'] };
    const asked = { head, operations: [{ type: 'set.add', shared: true, set }] };
    expect((await ada.ask('POST', `/api/drafts/${id}/operations`, asked)).status).toBe(200);
    draftId = id;
  });

  test('every site is looked at once more, and whoever waits hears how far that is', async () => {
    const { body } = await ada.fetch('GET', '/api/events');
    const events = body!.pipeThrough(new TextDecoderStream()).getReader();
    const started = start(draftId);
    const heard: object[] = [];
    for (let text = ''; heard.length < 3; text = text.slice(text.lastIndexOf('\n') + 1)) {
      text += (await events.read()).value!;
      for (const line of text.split('\n').slice(0, -1))
        if (line.includes('"planning"')) heard.push(JSON.parse(line.slice(6)));
    }
    await events.cancel();
    expect(heard).toEqual([50, 100, 121].map((done) => ({ type: 'planning', draftId, done, of: 121 })));
    const { json } = await started;
    await box.comply();
    expect(await over(json.id)).toMatchObject({ state: 'done' });
  });
});

test('what is left before it was written down does not begin: nothing is told, the draft stays open', async () => {
  const draftId = await edited();
  await aside.query('BEGIN');
  await aside.query('SELECT pg_advisory_xact_lock(8620002)');
  const before = (await ada.get('/api/rollouts')).length;
  const left = new AbortController();
  const started = ada.fetch('POST', '/api/rollouts', { draftId, despiteErrors: true }, {}, left.signal);
  await waitsToBegin();
  left.abort();
  await expect(started).rejects.toThrow('aborted');
  for (let asked = 0; asked < 3; asked++) await ada.get('/api/session'); // what came before it has been heard by then
  await aside.query('COMMIT');
  await expect.poll(async () => (await waiting()).rowCount).toBe(0);
  expect(await ada.get('/api/rollouts')).toHaveLength(before);
  expect(await ada.get(`/api/drafts/${draftId}`)).toMatchObject({ state: 'open', edits: 1 });
});

test('a rollout that cannot be gone on with is put back, says why, and frees the way', async () => {
  const { runs } = await device();
  const draftId = (await ada.get('/api/drafts/current')).id;
  await aside.query(`CREATE OR REPLACE FUNCTION fault() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN IF NEW.state = 'kept' THEN RAISE EXCEPTION 'a fault of ours'; END IF; RETURN NEW; END $$`);
  await aside.query('CREATE TRIGGER fault BEFORE UPDATE ON rollout_step FOR EACH ROW EXECUTE FUNCTION fault()');
  const { json } = await start(draftId);
  await box.comply();
  const ended = await over(json.id);
  expect(ended).toMatchObject({ state: 'put-back', revision: null });
  expect(ended.reason).toMatch(/^It could not be gone on with for a fault on our side/);
  expect(await box.comply()).toBe(runs);
  await aside.query('DROP TRIGGER fault ON rollout_step');
  expect(await ada.get(`/api/drafts/${draftId}`)).toMatchObject({ state: 'open' });
  const again = await start(draftId);
  expect(again.status).toBe(201);
  await box.comply();
  expect(await over(again.json.id)).toMatchObject({ state: 'done' });
});

test('what a device says late of a trial that ended while the controller was away does not end the rollout', async () => {
  const runs = (await device()).runs;
  const { json } = await start(await edited());
  const { hash } = await box.next('document');
  box.say({ type: 'applied', hash });
  // Whoever ran it is gone, and with it the line.
  await aside.query(
    `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'iron-lattice lease'
     AND datname = current_database()`,
  );
  box.hangUp();
  await box.untilClosed();
  await ada.until<any>(`/api/rollouts/${json.id}`, ({ resumed }) => resumed, 20_000);
  await box.call(runs);
  // Once since it called, once since the rollout goes on.
  for (let told = 0; told < 2; told++) expect((await box.next('document')).hash).toBe(hash);
  box.say({ type: 'went-back', hash, runs, reason: 'the controller did not answer' });
  expect(await box.comply()).toBe(hash);
  expect(await over(json.id)).toMatchObject({ state: 'done', reason: null });
});

test('who cancels while the last device is told was answered truly: it is put back', async () => {
  const { runs } = await device();
  const draftId = await edited();
  const { json } = await start(draftId);
  const { hash } = await box.next('document');
  await aside.query('BEGIN');
  await aside.query('SELECT pg_advisory_xact_lock(8620002)'); // the last step before it is live waits
  box.say({ type: 'applied', hash });
  await box.next('keep');
  box.say({ type: 'kept', hash });
  await ada.until<any>(`/api/rollouts/${json.id}`, (rollout) => rollout.steps[0].state === 'kept');
  expect((await ada.ask('POST', `/api/rollouts/${json.id}/cancel`)).status).toBe(204);
  await aside.query('COMMIT');
  expect(await box.comply()).toBe(runs);
  expect(await over(json.id)).toMatchObject({ state: 'put-back', reason: 'It was cancelled.', revision: null });
});

test('a rollout that nobody runs ends when somebody cancels it', async () => {
  const draftId = (await ada.get('/api/drafts/current')).id;
  const { person_id: personId } = (await aside.query('SELECT person_id FROM draft WHERE id = $1', [draftId])).rows[0];
  const id = randomUUID();
  await aside.query(
    `INSERT INTO rollout (id, draft_id, draft_name, state, asked, person_id, parts) VALUES ($1, $2, 'left', 'running', 'back', $3, '{}')`,
    [id, draftId, personId],
  );
  expect(await over(id)).toMatchObject({ state: 'put-back' });
});
