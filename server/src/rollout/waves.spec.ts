import { randomUUID } from 'node:crypto';
import { AT_ONCE, type RolloutView, type WavePlan } from '@iron-lattice/core/rollout';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

/** Three sites with an access point each, which share an SSID. */
const NAMES = ['Alder', 'Birch', 'Cedar'] as const;
type Name = (typeof NAMES)[number];
let setting: TestController;
let ada: TestCaller;
const ids = {} as Record<Name, string>;
const aps = {} as Record<Name, TestDevice>;
const refusing = new Set<Name>();
const ssidId = randomUUID();
let written = 0;
/** What the draft calls it, and what it called it before its last edit. */
let [aired, before] = ['Guests 0', 'Guests 0'];

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const operations: object[] = [];
  for (const [i, name] of NAMES.entries()) {
    const wish = { name, code: name.slice(0, 2).toLowerCase(), country: 'IE', timeZone: 'Europe/Dublin' };
    ids[name] = (await ada.post('/api/sites', { ...wish, address: '', tags: i === 0 ? ['trial'] : [] })).id;
    const net = `10.7.${i}`;
    const addresses = { subnet: `${net}.0/24`, gateway: `${net}.1`, addresses: null };
    const segment = { id: randomUUID(), name: 'Guests', vlan: 60, ...addresses };
    operations.push({ type: 'segment.add', siteId: ids[name], segment });
    await call(name);
    await ada.post(`/api/sites/${ids[name]}/claims`, { serials: [aps[name].serial] });
  }
  const ssid = { id: ssidId, name: 'Guests 0', segment: 'Guests', bands: ['5'], reach: { kind: 'estate' } };
  const secret = randomUUID();
  operations.push({ type: 'ssid.add', ssid: { ...ssid, security: 'wpa3-sae', passphrase: { secret } } });
  const { id: draftId, head } = await current();
  const secrets = { [secret]: 'a passphrase of some length' };
  await ada.post(`/api/drafts/${draftId}/operations`, { head, operations, secrets });
  const { id } = await start();
  await over(id);
});
afterAll(async () => {
  for (const ap of Object.values(aps)) ap.hangUp();
  await setting.end();
});

async function call(name: Name): Promise<void> {
  const number = NAMES.indexOf(name) + 1;
  aps[name] = new TestDevice(setting.controller.url, `AP-000${number}`, 'AP-6', `02:00:00:00:01:0${number}`);
  await aps[name].call();
  void aps[name].obey(() => (refusing.has(name) ? 'not today' : null));
}
const current = () => ada.get('/api/drafts/current');
async function edit(...operations: object[]) {
  const { id, head } = await current();
  const { status, json } = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
  expect([status, json.title]).toEqual([200, undefined]);
}
/** Edits what all three sites share. */
async function rename(): Promise<string> {
  const [from, to] = [{ name: aired }, { name: `Guests ${++written}` }]; // none twice: no device runs it yet
  await edit({ type: 'ssid.set', ssidId, from, to });
  [before, aired] = [aired, to.name];
  return to.name;
}
const plan = (more: Partial<WavePlan>): WavePlan => ({ ...AT_ONCE, ...more });
async function start(waves?: WavePlan): Promise<RolloutView> {
  const { id: draftId } = await current();
  const asked = { draftId, despiteErrors: true, ...(waves ? { waves } : {}) };
  const { status, json } = await ada.ask('POST', '/api/rollouts', asked);
  expect([status, json.title]).toEqual([201, undefined]);
  return json;
}
const until = (id: string, good: (rollout: RolloutView) => boolean) =>
  ada.until<RolloutView>(`/api/rollouts/${id}`, good, 20_000);
const over = (id: string) => until(id, ({ endedAt }) => endedAt !== null);
const is = (id: string, state: RolloutView['state']) => until(id, (rollout) => rollout.state === state);
const ask = (id: string, what: string) => ada.ask('POST', `/api/rollouts/${id}/${what}`);
/** Names on the air that each access point was told. */
async function onAir(): Promise<Record<Name, string>> {
  const [rows] = await setting.controller.database.query(
    `SELECT d.serial, doc.body FROM device d JOIN document doc ON doc.hash = d.wants WHERE d.site_id IS NOT NULL`,
  );
  const all = rows as { serial: string; body: unknown }[];
  const of = (name: Name): string => {
    const row = all.find(({ serial }) => serial === aps[name].serial);
    return /Guests \d+/.exec(JSON.stringify(row?.body))?.[0] ?? '';
  };
  return { Alder: of('Alder'), Birch: of('Birch'), Cedar: of('Cedar') };
}
const revision = async (): Promise<number> => (await ada.get('/api/estate')).revision;
const held = (more: Partial<WavePlan> = {}) => plan({ canary: 'site', waitSeconds: 600, onFailure: 'pause', ...more });

test('a wave is live at its sites alone; the others follow what was live before, and so does who is claimed there', async () => {
  const [was, old] = [await revision(), aired];
  const name = await rename();
  const foreseen = await ada.post(`/api/drafts/${(await current()).id}/waves`, held({ canarySiteId: ids.Birch }));
  expect(foreseen).toMatchObject([
    { name: 'Canary: Birch', devices: 1, silent: 0, sites: 1, siteNames: ['Birch'] },
    { name: 'All', devices: 2, silent: 0, sites: 2 },
  ]);
  const { id, waves, devices } = await start(held({ canarySiteId: ids.Birch }));
  expect([devices, waves.map((wave) => [wave.name, wave.devices, wave.sites])]).toEqual([
    3,
    foreseen.map((wave: { name: string; devices: number; sites: number }) => [wave.name, wave.devices, wave.sites]),
  ]);
  const resting = await is(id, 'resting');
  expect(resting).toMatchObject({ wave: 0, revision: was + 1, waves: [{ state: 'through' }, { state: 'waiting' }] });
  expect(await onAir()).toEqual({ Alder: old, Birch: name, Cedar: old });
  expect(await revision()).toBe(was + 1);
  const seen = await ada.get(`/api/drafts/${(await current()).id}`);
  expect(seen).toMatchObject({ state: 'rolling-out', behind: 2, misfits: [] });
  const at = (name: Name) => ada.get(`/api/drafts/current/sites/${ids[name]}`);
  expect((await at('Cedar')).told).toEqual({ revision: was, behind: true });
  expect((await at('Birch')).told).toEqual({ revision: was + 1, behind: false });
  const [alder] = await ada.get(`/api/sites/${ids.Alder}/devices`);
  const moved = await ada.ask('POST', `/api/devices/${alder.id}/move`, { siteId: ids.Birch });
  expect([moved.status, moved.json.type]).toEqual([409, 'about:lattice/rollout.busy']); // it has yet to be told there
  const another = new TestDevice(setting.controller.url, 'AP-0009', 'AP-6', '02:00:00:00:01:09');
  await another.call();
  await ada.post(`/api/sites/${ids.Cedar}/claims`, { serials: ['AP-0009'] });
  expect(JSON.stringify((await another.next('document')).document)).toContain(`"${old}"`);
  void another.obey();
  expect((await ask(id, 'pause')).status).toBe(204);
  await is(id, 'paused');
  expect((await ask(id, 'go-on')).status).toBe(204);
  expect(await over(id)).toMatchObject({ state: 'done', revision: was + 1 });
  expect(await onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  await ada.until<any[]>(`/api/sites/${ids.Cedar}/devices`, (rows) => rows.every(({ state }) => state === 'in step'));
  expect(await current()).toMatchObject({ state: 'open', edits: 0, behind: 0 });
  await ada.post(`/api/devices/${(await ada.get(`/api/sites/${ids.Cedar}/devices`))[1].id}/release`);
  another.hangUp();
});

test('a device that refuses in the second wave pauses it; once it takes its document the rollout goes on', async () => {
  refusing.add('Cedar');
  const name = await rename();
  const { id } = await start(plan({ canary: 'site', canarySiteId: ids.Alder, by: 'site', onFailure: 'pause' }));
  const paused = await is(id, 'paused');
  expect(paused.reason).toMatch(/refused its document: not today/);
  expect(paused.steps.find(({ state }) => state === 'failed')).toMatchObject({ siteName: 'Cedar' });
  expect((await onAir()).Alder).toBe(name);
  refusing.clear();
  expect((await ask(id, 'go-on')).status).toBe(204);
  expect(await over(id)).toMatchObject({ state: 'done', reason: null });
  expect(await onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
});

test('what fails goes back with every wave if that was chosen: sites, draft and numbers stand as they stood', async () => {
  const [was, old] = [await revision(), aired];
  refusing.add('Cedar');
  await rename();
  const draft = await current();
  const { id } = await start(plan({ canary: 'site', canarySiteId: ids.Alder, onFailure: 'go-back' }));
  expect(await over(id)).toMatchObject({ state: 'put-back' });
  refusing.clear();
  expect(await onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  expect(await revision()).toBe(was + 2); // there and back
  expect(await current()).toMatchObject({ id: draft.id, state: 'open', edits: 1, behind: 0, misfits: [] });
  expect((await ada.get('/api/revisions')).slice(0, 2)).toMatchObject([
    { name: `${draft.name}, gone back` },
    { name: draft.name },
  ]);
  expect(await ada.get(`/api/drafts/${draft.id}/touched`)).toMatchObject({ sites: [{}, {}, {}, {}] });
  expect(await over((await start()).id)).toMatchObject({ state: 'done' });
});

test('stopping keeps what is told as a whole; the rest is behind, is seen so, and is told with the next rollout', async () => {
  const old = aired;
  const name = await rename();
  const { id } = await start(held({ canarySiteId: ids.Alder }));
  const { would } = await is(id, 'resting');
  expect(would?.stop).toMatchObject({ stay: { devices: 1, sites: 1 }, never: { devices: 2, sites: 2 } });
  expect((await ask(id, 'stop')).status).toBe(204);
  expect(await over(id)).toMatchObject({ state: 'stopped', waves: [{ state: 'through' }, { state: 'not-told' }] });
  expect(await onAir()).toEqual({ Alder: name, Birch: old, Cedar: old });
  const draft = await current();
  expect(draft).toMatchObject({ state: 'open', edits: 0, behind: 2 });
  expect(await ada.get(`/api/drafts/${draft.id}/rollout-check`)).toMatchObject({ devices: 2 });
  const next = await start();
  expect(next.devices).toBe(2);
  await over(next.id);
  expect(await onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  expect(await current()).toMatchObject({ behind: 0 });
});

test('of what people ask at once the safer wins, and asking twice is refused', async () => {
  const old = aired;
  await rename();
  const { id } = await start(held());
  await is(id, 'resting');
  const asked = await Promise.all(
    ['back', 'back', 'pause', 'stop'].map((what) => ask(id, what === 'back' ? 'cancel' : what)),
  );
  const [first, second] = asked.map(({ status }) => status);
  expect([first, second].sort()).toEqual([204, 409]);
  expect(await over(id)).toMatchObject({ state: 'put-back' });
  expect(await onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  for (const what of ['pause', 'stop', 'cancel', 'go-on']) expect((await ask(id, what)).status).toBe(409);
  await ada.post(`/api/drafts/${(await current()).id}/undo`);
  aired = before;
});

test('the next wave waits for what must hold: devices in step, and clients back', async () => {
  const report = (clients: number) => ({
    ...{ address: null, uptime: 1, neighbours: [], uplinks: [], leases: [], counters: [] },
    clients: Array.from({ length: clients }, (_, i) => ({
      ...{ mac: `02:0c:00:00:00:${String(i).padStart(2, '0')}`, ssid: 'Guests', vlan: 60, address: null, since: 1 },
    })),
  });
  const heard = (clients: number) =>
    expect
      .poll(
        async () => {
          const [rows] = await setting.controller.database.query(
            `SELECT jsonb_array_length(report->'clients') AS count FROM device WHERE serial = 'AP-0001'`,
          );
          return (rows[0] as { count: number } | undefined)?.count;
        },
        { timeout: 20_000 },
      )
      .toBe(clients);
  aps.Alder.say({ type: 'report', report: report(10) });
  await heard(10);
  await rename();
  const checks = { ...AT_ONCE.checks, inStep: true, clients: 80 };
  const how = held({ canarySiteId: ids.Alder, waitSeconds: 3, checks });
  const { id } = await start(how);
  await is(id, 'resting');
  aps.Alder.say({ type: 'report', report: report(7) });
  const paused = await is(id, 'paused');
  expect(paused.reason).toBe('7 of 10 clients are there after the wave, fewer than 80 %.');
  expect(paused.waves[0]?.clients).toEqual({ before: 10, now: 7 });
  await ask(id, 'cancel');
  await over(id);
  aps.Alder.say({ type: 'report', report: report(9) });
  await heard(9);
  const again = await start({ ...how, waitSeconds: 1 });
  await is(again.id, 'resting');
  aps.Alder.hangUp();
  expect((await is(again.id, 'paused')).reason).toBe('Not in step after the wave: al-ap-01.');
  await ask(again.id, 'cancel');
  await over(again.id);
  await ada.post(`/api/drafts/${(await current()).id}/undo`);
  aired = before;
});

test('a silent device holds its wave only if that was chosen', async () => {
  const name = await rename();
  const { id } = await start(plan({ canary: 'site', canarySiteId: ids.Alder, onFailure: 'pause', forSilent: true }));
  const resting = await is(id, 'resting');
  expect(resting.waves[0]).toMatchObject({ state: 'through', silent: 1 });
  await aps.Alder.call();
  void aps.Alder.obey();
  expect(await over(id)).toMatchObject({ state: 'done' });
  expect(await onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
});

test('devices are told in their hours alone, by the clock of their site', async () => {
  const [old, name] = [aired, await rename()];
  // Hours that are over, with an hour to spare on either side.
  const hour = (Math.floor(Date.now() / 3_600_000) + 12) % 24;
  const clock = (at: number): string => `${String(at % 24).padStart(2, '0')}:00`;
  const { id } = await start(plan({ within: `${clock(hour)}-${clock(hour + 2)}` }));
  const holding = await is(id, 'holding');
  expect(Date.parse(holding.restUntil!)).toBeGreaterThan(Date.now() + 6 * 3_600_000);
  expect(await onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  expect((await ask(id, 'pause')).status).toBe(204);
  expect((await is(id, 'paused')).wave).toBe(0);
  expect((await ask(id, 'go-on')).status).toBe(204);
  await is(id, 'holding');
  await ask(id, 'cancel');
  await over(id);
  const open = await start(plan({ within: '00:00-24:00' }));
  expect(await over(open.id)).toMatchObject({ state: 'done' });
  expect(await onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  await rename();
  const { id: draftId } = await current();
  const refused = await ada.ask('POST', `/api/drafts/${draftId}/waves`, plan({ within: 'at night' }));
  expect(refused.json.title).toBe('Give hours such as 02:00-04:00, or Mon-Fri 22:00-05:00.');
});

test('waves that cannot be are refused: a canary where nothing is told', async () => {
  const pier = (await ada.get('/api/estate')).sites.find((site: { name: string }) => site.name === 'Pier').id;
  const { id } = await current();
  const refused = await ada.ask('POST', `/api/drafts/${id}/waves`, held({ canarySiteId: pier }));
  expect(refused).toMatchObject({ status: 422, json: { type: 'about:lattice/rollout.waves' } });
});
