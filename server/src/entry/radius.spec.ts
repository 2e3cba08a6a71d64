import { randomUUID } from 'node:crypto';
import { USUAL_SERVER, type Operation, type RadiusServer } from '@iron-lattice/core/intent';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

const SECRET = 'tide tables on the harbour wall';
const PASSWORD = 'lantern fish 4';
let setting: TestController;
let ada: TestCaller;
let box: TestDevice;
let siteId = '';
let deviceId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  box = new TestDevice(setting.controller.url, 'ENT-01', 'AP-6', '02:00:00:08:00:01');
  await box.call();
  await ada.until('/api/calling', (list: unknown[]) => list.length === 1);
  deviceId = (await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] })).claimed[0].id;
  await box.comply();
});
afterAll(async () => {
  box.hangUp();
  await setting.end();
});

const secret = randomUUID();
const server: RadiusServer = {
  ...USUAL_SERVER,
  ...{ id: randomUUID(), name: 'Quay', address: 'radius.test.example', secret: { secret } },
  reach: { kind: 'estate' },
};
async function edit(operations: Operation[], secrets: Record<string, string> = {}) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
}
const asked = { deviceId: '', method: 'pap', user: 'marn.ellis', password: PASSWORD };
async function tests(change: object = {}, id = server.id, as = ada) {
  const { id: draft } = await ada.get('/api/drafts/current');
  return as.ask('POST', `/api/drafts/${draft}/radius/${id}/test`, { ...asked, deviceId, ...change });
}

test('a server is kept with its secret sealed; a short secret is refused', async () => {
  const short = await edit([{ type: 'radius.add', radius: server }], { [secret]: 'tides' });
  expect([short.status, short.json.flaws]).toMatchObject([422, [{ code: 'radius.secret-short', field: 'secret' }]]);
  expect((await edit([{ type: 'radius.add', radius: server }], { [secret]: SECRET })).status).toBe(200);
  const { estate } = await ada.get(`/api/drafts/current/sites/${siteId}`);
  expect(estate.radius).toEqual([server]);
});

test('a device is told whom to ask with the secret, and its answer is told with what follows at its site', async () => {
  const accessClass = { id: randomUUID(), name: 'Deckhands', segment: 'Crew', members: [] };
  await edit([{ type: 'class.add', accessClass: { ...accessClass, reach: { kind: 'estate' } } }]);
  const answer = tests();
  const command = await box.next('command');
  expect(command).toMatchObject({
    name: 'authenticate',
    entry: {
      server: { address: 'radius.test.example', port: 1812, secret: SECRET, tries: 3, macs: 'none_lower' },
      asked: { method: 'pap', user: 'marn.ellis', password: PASSWORD },
    },
  });
  const exchange = {
    ...{ end: 'accepted' as const, why: '', address: '198.51.100.90', sent: 1, ms: 4, sessionSeconds: 3600 },
    ...{ filterIds: ['deckhands'], vlan: { kind: 'none' as const, text: '' } },
    packets: [
      { from: 'us' as const, name: 'Access-Request', at: 0, attributes: [{ name: 'User-Name', value: 'marn.ellis' }] },
    ],
  };
  box.say({ type: 'answer', id: command.id, ok: true, text: '', exchange });
  expect((await answer).json).toMatchObject({
    exchange: { end: 'accepted', packets: [{ attributes: [{ value: 'marn.ellis' }] }] },
    outcome: { kind: 'let-in', accessClass: { id: accessClass.id }, segment: { name: 'Crew' } },
  });
  // Nothing of it is kept: neither in the journal nor in any other table.
  const { database } = setting.controller;
  const ask = async (sql: string): Promise<{ name: string }[]> => (await database.query(sql))[0] as { name: string }[];
  const tables = await ask(
    `SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'`,
  );
  expect(tables.length).toBeGreaterThan(20);
  for (const text of ['marn.ellis', SECRET, PASSWORD]) {
    const has = (name: string): string =>
      `SELECT '${name}' AS name WHERE EXISTS (SELECT FROM "${name}" x WHERE x::text LIKE '%${text}%')`;
    expect([text, await ask(tables.map(({ name }) => has(name)).join(' UNION ALL '))]).toEqual([text, []]);
  }
});

test('the certificate that a server shows is remembered, and found when it ends soon; what it shows next counts', async () => {
  const found = async (): Promise<string[]> => {
    const { consequences } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    const { findings } = consequences as { findings: { code: string; message: string }[] };
    return findings.flatMap(({ code, message }) => (code === 'entry.server-certificate-ends' ? [message] : []));
  };
  const shows = async (until: string): Promise<void> => {
    const answer = tests({ method: 'eap-ttls' });
    const command = await box.next('command');
    const certificate = { names: ['quay.test.example'], issuer: 'Made-up authority', until, sha256: 'ab'.repeat(32) };
    const exchange = {
      ...{ end: 'rejected' as const, why: '', address: '198.51.100.90', sent: 1, ms: 4, sessionSeconds: null },
      ...{ filterIds: [], vlan: { kind: 'none' as const, text: '' }, packets: [] },
      certificate: { ...certificate, trust: 'unchecked' as const },
    };
    box.say({ type: 'answer', id: command.id, ok: true, text: '', exchange });
    await answer;
  };
  const inDays = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString();
  await shows(inDays(12));
  expect(await found()).toEqual([`The certificate that “Quay” shows ends on ${inDays(12).slice(0, 10)}`]);
  await shows('no day at all');
  expect(await found()).toHaveLength(1);
  await shows(inDays(-1));
  expect(await found()).toEqual([expect.stringMatching(/shows ended on/)]);
  await shows(inDays(300));
  expect(await found()).toEqual([]);
});

test('what cannot be asked is refused with why; who only looks may not ask', async () => {
  expect((await tests({}, randomUUID())).status).toBe(404);
  expect((await tests({ user: '' })).status).toBe(400);
  expect((await tests({ user: 'x'.repeat(254) })).status).toBe(400);
  expect((await tests({ method: 'guess' })).status).toBe(400);
  const set = (from: Partial<RadiusServer>, to: Partial<RadiusServer>): Operation => ({
    ...{ type: 'radius.set', radiusId: server.id },
    ...{ from, to },
  });
  // Nobody waits for a test longer than half a minute, however patient devices are to be.
  await edit([set({ timeout: 3, tries: 3 }, { timeout: 20, tries: 10 })]);
  const patient = tests();
  const { id, entry } = await box.next('command');
  expect([entry!.server.timeout, entry!.server.tries]).toEqual([20, 1]);
  box.say({ type: 'answer', id, ok: false, text: 'It is busy.' });
  expect((await patient).json.title).toBe('It is busy.');
  await edit([set({ macs: 'none_lower' }, { macs: null })]);
  expect((await tests({ method: 'mac', user: '02:00:00:00:00:07', password: '' })).json.title).toContain(
    'not asked about MAC',
  );
  await edit([set({ reach: server.reach }, { reach: { kind: 'sites', siteIds: [randomUUID()] } })]);
  expect((await tests()).json.title).toMatch(/does not reach/);
  const oli = await setting.as('oli');
  expect((await tests({}, server.id, oli)).status).toBe(403);
});

test('who is not known is told beside who says who it is and is turned away, and what each gets', async () => {
  const said = { since: 1_795_000_000_000, server: 'Quay' };
  const report = {
    ...{ address: null, uptime: 60, neighbours: [], uplinks: [], clients: [], leases: [], counters: [] },
    unknown: [{ mac: '0e:c4:70:00:00:03', port: 'lan2', why: 'mute' as const, vlan: 40, since: said.since }],
    refused: [
      { mac: '0e:c4:11:00:00:01', ssid: 'Deck', why: 'rejected' as const, user: 'marn.ellis', ...said },
      { mac: '0e:c4:11:00:00:02', ssid: 'Deck', why: 'class' as const, user: 'dell.farrow', said: 'Gulls', ...said },
      { mac: '0e:c4:11:00:00:03', ssid: 'Deck', why: 'passphrase' as const, since: said.since }, // nothing of Entry
    ],
  };
  box.say({ type: 'report', report });
  const told = await ada.until(`/api/sites/${siteId}/unknown-clients`, (list: unknown[]) => list.length === 3);
  expect(told).toMatchObject([
    { mac: '0e:c4:11:00:00:01', ssid: 'Deck', why: 'rejected', user: 'marn.ellis', server: 'Quay' },
    { mac: '0e:c4:11:00:00:02', why: 'class', said: 'Gulls', user: 'dell.farrow' },
    { mac: '0e:c4:70:00:00:03', port: 'lan2', why: 'mute', vlan: 40 },
  ]);
});

test('two servers with one secret are found, whatever they are called, and no more once one has its own', async () => {
  const [first, again] = [randomUUID(), randomUUID()];
  const twin: RadiusServer = {
    ...server,
    ...{ id: randomUUID(), name: 'Mole', address: 'mole.test.example', secret: { secret: first }, order: 2 },
  };
  const other = { ...server, id: randomUUID(), name: 'Spit', address: 'spit.test.example', secret: { secret: again } };
  const added = [twin, other].map((radius): Operation => ({
    type: 'radius.add',
    radius: { ...radius, reach: { kind: 'estate' } },
  }));
  const found = async (): Promise<string[]> => {
    const { consequences } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    return consequences.findings
      .filter(({ code }: { code: string }) => code === 'entry.server-secret-shared')
      .map(({ message }: { message: string }) => message);
  };
  expect((await edit(added, { [first]: 'kelp and hawser and tern', [again]: 'kelp and hawser and tern' })).status).toBe(
    200,
  );
  expect(await found()).toEqual(['“Spit” and “Mole” have one secret']);
  const drawn = randomUUID();
  const set: Operation = {
    ...{ type: 'radius.set', radiusId: other.id },
    ...{ from: { secret: { secret: again } }, to: { secret: { secret: drawn } } },
  };
  expect((await edit([set], { [drawn]: 'gannet and cormorant and gale' })).status).toBe(200);
  expect(await found()).toEqual([]);
});
