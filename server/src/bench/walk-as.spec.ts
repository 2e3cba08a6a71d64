import { randomUUID } from 'node:crypto';
import type { WalkResult } from '@iron-lattice/core/bench';
import { USUAL_SERVER, type Operation } from '@iron-lattice/core/intent';
import type { Exchange } from '@iron-lattice/core/radius';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

const PASSWORD = 'lantern fish 4';
let setting: TestController;
let ada: TestCaller;
let ap: TestDevice;
let siteId = '';
let apId = '';
const ssidId = randomUUID();
const [first, second] = [randomUUID(), randomUUID()];
const secrets = { [first]: 'tide tables on the harbour wall', [second]: 'kelp and hawser and tern and sound' };
const reach = { kind: 'estate' } as const;
const server = (name: string, secret: string, change: object = {}): Operation => ({
  type: 'radius.add',
  radius: {
    ...USUAL_SERVER,
    ...{ id: randomUUID(), name, address: `${name.toLowerCase()}.test.example`, secret: { secret }, reach, ...change },
  },
});
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  ap = new TestDevice(setting.controller.url, 'WALK-01', 'AP-6', '02:00:00:08:00:01');
  await ap.call();
  await ada.until('/api/calling', (list: unknown[]) => list.length === 1);
  apId = (await ada.post(`/api/sites/${siteId}/claims`, { serials: [ap.serial] })).claimed[0].id;
  await ap.comply();
  const { id, head } = await ada.get('/api/drafts/current');
  const ssid = {
    ...{ id: ssidId, name: 'Deck crew', security: 'wpa3-enterprise', passphrase: null, bands: ['5'], segment: 'Crew' },
    ...{ byClass: true, reach },
  };
  const accessClass = { id: randomUUID(), name: 'Deckhands', segment: 'Crew', members: [], reach };
  const operations = [
    ...[server('Quay', first), server('Mole', second, { order: 2, macs: null, authority: null, timeout: 1, tries: 1 })],
    { type: 'class.add', accessClass },
    { type: 'ssid.add', ssid },
  ];
  await ada.post(`/api/drafts/${id}/operations`, { head, operations, secrets });
});
afterAll(async () => {
  ap.hangUp();
  await setting.end();
});

async function walks(probe: object = {}, as = ada): Promise<WalkResult> {
  const { id: draftId } = await ada.get('/api/drafts/current');
  const entry = { method: 'peap', user: 'marn.ellis', password: PASSWORD };
  const body = {
    siteId,
    on: 'draft',
    draftId,
    probe: { ssidId, apId, band: '5', knowsPassphrase: false, entry, ...probe },
  };
  return as.post('/api/walks', body);
}
const said = (end: Exchange['end'], more: Partial<Exchange> = {}): Exchange => ({
  ...{ end, why: '', address: '198.51.100.90', packets: [], sent: 1, ms: 4, filterIds: [], sessionSeconds: null },
  ...{ vlan: { kind: 'none', text: '' }, keys: true, ...more },
});
const titles = ({ steps }: WalkResult): string[] => steps.map(({ title }) => title);

test('who walks as a user has the AP ask the servers of the draft, one after the other, and joins by what they say', async () => {
  const walk = walks();
  for (const [name, end] of [
    ['Quay', said('silent', { sent: 3 })],
    ['Mole', said('accepted', { filterIds: ['deckhands'] })],
  ] as const) {
    const { id, entry, ...command } = await ap.next('command');
    expect(command.name).toBe('authenticate');
    expect(entry).toMatchObject({
      server: { name, secret: secrets[name === 'Quay' ? first : second] },
      asked: { method: 'peap', user: 'marn.ellis', password: PASSWORD, at: 'Deck crew' },
    });
    ap.say({ type: 'answer', id, ok: true, text: '', exchange: end });
  }
  const walked = await walk;
  expect(titles(walked).slice(1, 5)).toEqual(['Says who it is', 'Quay: no answer', 'Mole lets in', 'VLAN 10']);
  expect(walked.steps.find(({ kind }) => kind === 'vlan')!.decidedBy).toMatchObject({
    kind: 'class',
    name: 'Deckhands',
  });
  expect(walked.steps[3]!.exchange).toMatchObject({ end: 'accepted', filterIds: ['deckhands'] });
});

test('a no is final, and the next server is not asked', async () => {
  const walk = walks();
  const { id } = await ap.next('command');
  ap.say({ type: 'answer', id, ok: true, text: '', exchange: said('rejected', { why: 'It says: not today' }) });
  const walked = await walk;
  expect([titles(walked).at(-1), walked.arrived]).toEqual(['Quay turns away', false]);
  expect(walked.steps.at(-1)!.detail).toContain('not today');
});

test('who only looks has nobody asked, and who does not say who it is neither', async () => {
  const oli = await setting.as('oli');
  expect(titles(await walks({}, oli)).at(-1)).toBe('Not asked');
  expect(titles(await walks({ entry: undefined })).at(-1)).toBe('Asked who it is');
  for (const entry of [
    { method: 'guess', user: 'marn.ellis', password: PASSWORD },
    { method: 'peap', user: 'x'.repeat(254), password: PASSWORD },
    { method: 'peap', user: 'marn.ellis', password: 'x'.repeat(129) },
  ])
    expect(await walks({ entry })).toMatchObject({ status: 400 });
});

test('nothing of it is kept', async () => {
  const { database } = setting.controller;
  const ask = async (sql: string): Promise<{ name: string }[]> => (await database.query(sql))[0] as { name: string }[];
  const tables = await ask(
    `SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'`,
  );
  const has = (name: string, text: string): string =>
    `SELECT '${name}' AS name WHERE EXISTS (SELECT FROM "${name}" x WHERE x::text LIKE '%${text}%')`;
  for (const text of ['marn.ellis', PASSWORD])
    expect(await ask(tables.map(({ name }) => has(name, text)).join(' UNION ALL '))).toEqual([]);
});
