import { AT_ONCE } from '@iron-lattice/core/rollout';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { held, plan, ThreeSites } from '../testing/three-sites';

let sites: ThreeSites;
let ada: TestCaller;

beforeAll(async () => {
  sites = await ThreeSites.start();
  ({ ada } = sites);
});
afterAll(() => sites.end());

test('a wave is live at its sites alone; the others follow what was live before, and so does who is claimed there', async () => {
  const [was, old] = [await sites.revision(), sites.aired];
  const name = await sites.rename();
  const foreseen = await ada.post(
    `/api/drafts/${(await sites.current()).id}/waves`,
    held({ canarySiteId: sites.ids.Birch }),
  );
  expect(foreseen).toMatchObject([
    { name: 'Canary: Birch', devices: 1, silent: 0, sites: 1, siteNames: ['Birch'] },
    { name: 'All', devices: 2, silent: 0, sites: 2 },
  ]);
  const { id, waves, devices } = await sites.begin(held({ canarySiteId: sites.ids.Birch }));
  expect([devices, waves.map((wave) => [wave.name, wave.devices, wave.sites])]).toEqual([
    3,
    foreseen.map((wave: { name: string; devices: number; sites: number }) => [wave.name, wave.devices, wave.sites]),
  ]);
  const resting = await sites.is(id, 'resting');
  expect(resting).toMatchObject({ wave: 0, revision: was + 1, waves: [{ state: 'through' }, { state: 'waiting' }] });
  expect(await sites.onAir()).toEqual({ Alder: old, Birch: name, Cedar: old });
  expect(await sites.revision()).toBe(was + 1);
  const seen = await ada.get(`/api/drafts/${(await sites.current()).id}`);
  expect(seen).toMatchObject({ state: 'rolling-out', behind: 2, misfits: [] });
  const at = (name: keyof typeof sites.ids) => ada.get(`/api/drafts/current/sites/${sites.ids[name]}`);
  expect((await at('Cedar')).told).toEqual({ revision: was, behind: true, by: null });
  expect((await at('Birch')).told).toEqual({ revision: was + 1, behind: false, by: null });
  const [alder] = await ada.get(`/api/sites/${sites.ids.Alder}/devices`);
  const moved = await ada.ask('POST', `/api/devices/${alder.id}/move`, { siteId: sites.ids.Birch });
  expect([moved.status, moved.json.type]).toEqual([409, 'about:lattice/rollout.busy']); // it has yet to be told there
  const another = new TestDevice(sites.setting.controller.url, 'AP-0009', 'AP-6', '02:00:00:00:01:09');
  await another.call();
  await ada.post(`/api/sites/${sites.ids.Cedar}/claims`, { serials: ['AP-0009'] });
  expect(JSON.stringify((await another.next('document')).document)).toContain(`"${old}"`);
  void another.obey();
  expect((await sites.ask(id, 'pause')).status).toBe(204);
  await sites.is(id, 'paused');
  expect((await sites.ask(id, 'go-on')).status).toBe(204);
  expect(await sites.over(id)).toMatchObject({ state: 'done', revision: was + 1 });
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  await ada.until<any[]>(`/api/sites/${sites.ids.Cedar}/devices`, (rows) =>
    rows.every(({ state }) => state === 'in step'),
  );
  expect(await sites.current()).toMatchObject({ state: 'open', edits: 0, behind: 0 });
  await ada.post(`/api/devices/${(await ada.get(`/api/sites/${sites.ids.Cedar}/devices`))[1].id}/release`);
  another.hangUp();
});

test('a device that refuses in the second wave pauses it; once it takes its document the rollout goes on', async () => {
  sites.refusing.add('Cedar');
  const name = await sites.rename();
  const { id } = await sites.begin(
    plan({ canary: 'site', canarySiteId: sites.ids.Alder, by: 'site', onFailure: 'pause' }),
  );
  const paused = await sites.is(id, 'paused');
  expect(paused.reason).toMatch(/refused its document: not today/);
  expect(paused.steps.find(({ state }) => state === 'failed')).toMatchObject({ siteName: 'Cedar' });
  expect((await sites.onAir()).Alder).toBe(name);
  sites.refusing.clear();
  expect((await sites.ask(id, 'go-on')).status).toBe(204);
  expect(await sites.over(id)).toMatchObject({ state: 'done', reason: null });
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
});

test('what fails goes back with every wave if that was chosen: sites, draft and numbers stand as they stood', async () => {
  const [was, old] = [await sites.revision(), sites.aired];
  sites.refusing.add('Cedar');
  await sites.rename();
  const draft = await sites.current();
  const { id } = await sites.begin(plan({ canary: 'site', canarySiteId: sites.ids.Alder, onFailure: 'go-back' }));
  expect(await sites.over(id)).toMatchObject({ state: 'put-back' });
  sites.refusing.clear();
  expect(await sites.onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  expect(await sites.revision()).toBe(was + 2); // there and back
  expect(await sites.current()).toMatchObject({ id: draft.id, state: 'open', edits: 1, behind: 0, misfits: [] });
  expect((await ada.get('/api/revisions')).slice(0, 2)).toMatchObject([
    { name: `${draft.name}, gone back` },
    { name: draft.name },
  ]);
  expect(await ada.get(`/api/drafts/${draft.id}/touched`)).toMatchObject({ sites: [{}, {}, {}, {}] });
  expect(await sites.over((await sites.begin()).id)).toMatchObject({ state: 'done' });
});

test('stopping keeps what is told as a whole; the rest is behind, is seen so, and is told with the next rollout', async () => {
  const old = sites.aired;
  const name = await sites.rename();
  const { id } = await sites.begin(held({ canarySiteId: sites.ids.Alder }));
  const { would } = await sites.is(id, 'resting');
  expect(would?.stop).toMatchObject({ stay: { devices: 1, sites: 1 }, never: { devices: 2, sites: 2 } });
  expect((await sites.ask(id, 'stop')).status).toBe(204);
  expect(await sites.over(id)).toMatchObject({
    state: 'stopped',
    waves: [{ state: 'through' }, { state: 'not-told' }],
  });
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: old, Cedar: old });
  const draft = await sites.current();
  expect(draft).toMatchObject({ state: 'open', edits: 0, behind: 2 });
  expect(await ada.get(`/api/drafts/${draft.id}/rollout-check`)).toMatchObject({ devices: 2 });
  const next = await sites.begin();
  expect(next.devices).toBe(2);
  await sites.over(next.id);
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  expect(await sites.current()).toMatchObject({ behind: 0 });
});

test('of what people ask at once the safer wins, and asking twice is refused', async () => {
  const old = sites.aired;
  await sites.rename();
  const { id } = await sites.begin(held());
  await sites.is(id, 'resting');
  const asked = await Promise.all(
    ['back', 'back', 'pause', 'stop'].map((what) => sites.ask(id, what === 'back' ? 'cancel' : what)),
  );
  const [first, second] = asked.map(({ status }) => status);
  expect([first, second].sort()).toEqual([204, 409]);
  expect(await sites.over(id)).toMatchObject({ state: 'put-back' });
  expect(await sites.onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  for (const what of ['pause', 'stop', 'cancel', 'go-on']) expect((await sites.ask(id, what)).status).toBe(409);
  await ada.post(`/api/drafts/${(await sites.current()).id}/undo`);
  sites.aired = sites.before;
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
          const [rows] = await sites.setting.controller.database.query(
            `SELECT jsonb_array_length(report->'clients') AS count FROM device WHERE serial = 'AP-0001'`,
          );
          return (rows[0] as { count: number } | undefined)?.count;
        },
        { timeout: 20_000 },
      )
      .toBe(clients);
  sites.aps.Alder.say({ type: 'report', report: report(10) });
  await heard(10);
  await sites.rename();
  const checks = { ...AT_ONCE.checks, inStep: true, clients: 80 };
  const how = held({ canarySiteId: sites.ids.Alder, waitSeconds: 3, checks });
  const { id } = await sites.begin(how);
  await sites.is(id, 'resting');
  sites.aps.Alder.say({ type: 'report', report: report(7) });
  const paused = await sites.is(id, 'paused');
  expect(paused.reason).toBe('7 of 10 clients are there after the wave, fewer than 80 %.');
  expect(paused.waves[0]?.clients).toEqual({ before: 10, now: 7 });
  await sites.ask(id, 'cancel');
  await sites.over(id);
  sites.aps.Alder.say({ type: 'report', report: report(9) });
  await heard(9);
  const again = await sites.begin({ ...how, waitSeconds: 1 });
  await sites.is(again.id, 'resting');
  sites.aps.Alder.hangUp();
  expect((await sites.is(again.id, 'paused')).reason).toBe('Not in step after the wave: al-ap-01.');
  await sites.ask(again.id, 'cancel');
  await sites.over(again.id);
  await ada.post(`/api/drafts/${(await sites.current()).id}/undo`);
  sites.aired = sites.before;
});

test('a silent device holds its wave only if that was chosen', async () => {
  const name = await sites.rename();
  const { id } = await sites.begin(
    plan({ canary: 'site', canarySiteId: sites.ids.Alder, onFailure: 'pause', forSilent: true }),
  );
  const resting = await sites.is(id, 'resting');
  expect(resting.waves[0]).toMatchObject({ state: 'through', silent: 1 });
  await sites.aps.Alder.call();
  void sites.aps.Alder.obey();
  expect(await sites.over(id)).toMatchObject({ state: 'done' });
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
});

test('devices are told in their hours alone, by the clock of their site', async () => {
  const [old, name] = [sites.aired, await sites.rename()];
  // Hours that are over, with an hour to spare on either side.
  const hour = (Math.floor(Date.now() / 3_600_000) + 12) % 24;
  const clock = (at: number): string => `${String(at % 24).padStart(2, '0')}:00`;
  const { id } = await sites.begin(plan({ within: `${clock(hour)}-${clock(hour + 2)}` }));
  const holding = await sites.is(id, 'holding');
  expect(Date.parse(holding.restUntil!)).toBeGreaterThan(Date.now() + 6 * 3_600_000);
  expect(await sites.onAir()).toEqual({ Alder: old, Birch: old, Cedar: old });
  expect((await sites.ask(id, 'pause')).status).toBe(204);
  expect((await sites.is(id, 'paused')).wave).toBe(0);
  expect((await sites.ask(id, 'go-on')).status).toBe(204);
  await sites.is(id, 'holding');
  await sites.ask(id, 'cancel');
  await sites.over(id);
  const open = await sites.begin(plan({ within: '00:00-24:00' }));
  expect(await sites.over(open.id)).toMatchObject({ state: 'done' });
  expect(await sites.onAir()).toEqual({ Alder: name, Birch: name, Cedar: name });
  await sites.rename();
  const { id: draftId } = await sites.current();
  const refused = await ada.ask('POST', `/api/drafts/${draftId}/waves`, plan({ within: 'at night' }));
  expect(refused.json.title).toBe('Give hours such as 02:00-04:00, or Mon-Fri 22:00-05:00.');
});

test('waves that cannot be are refused: a canary where nothing is told', async () => {
  const pier = (await ada.get('/api/estate')).sites.find((site: { name: string }) => site.name === 'Pier').id;
  const { id } = await sites.current();
  const refused = await ada.ask('POST', `/api/drafts/${id}/waves`, held({ canarySiteId: pier }));
  expect(refused).toMatchObject({ status: 422, json: { type: 'about:lattice/rollout.waves' } });
});
