import type { PactReport } from '@iron-lattice/core/paths';
import { USUAL_LASTS, USUAL_OFFERS, type Operation, type Pact, type Segment } from '@iron-lattice/core/intent';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let gateway: TestDevice;
let gatewayId = '';
let management: Segment;
const uuid = (n: number): string => `0000000${n}-0000-4000-8000-000000000002`;
const KEY = 'kelp-and-limpet-27!';
const START = 1_764_000_000_000;

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  gateway = new TestDevice(setting.controller.url, 'GW-9301', 'GW-4', '02:00:00:00:09:31');
  await gateway.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some(({ serial }) => serial === 'GW-9301'));
  gatewayId = (await ada.post(`/api/sites/${siteId}/claims`, { serials: ['GW-9301'] })).claimed[0].id;
  await gateway.comply();
  management = (await ada.get(`/api/drafts/current/sites/${siteId}`)).site.segments[0];
});
afterAll(async () => {
  gateway.hangUp();
  await setting.end();
});

const pact = (): Pact => ({
  ...{ id: uuid(1), name: 'Wrackline Yard', at: '203.0.113.60' },
  ...{ own: 'quay.skerrow.example', other: 'moor.example', key: { secret: uuid(2) } },
  ...USUAL_OFFERS,
  ...{ segments: [management.id], behind: ['172.20.0.0/16'] },
});
const edit = async (operations: readonly Operation[], secrets: Record<string, string> = {}) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
};
const add = (more: Partial<Pact> = {}): Operation => ({ type: 'pact.add', siteId, pact: { ...pact(), ...more } });
const otherSide = async (caller: TestCaller, kind: string, withKey: boolean, pactId = uuid(1)) => {
  const { id } = await ada.get('/api/drafts/current');
  return caller.ask('POST', `/api/drafts/${id}/sites/${siteId}/pacts/${pactId}/other-side`, { kind, withKey });
};

test('a tunnel needs a key that is long enough, and what is wrong is said at its field', async () => {
  const none = await edit([add()]);
  expect([none.status, JSON.stringify(none.json)]).toEqual([422, expect.stringContaining('reference')]);
  const short = await edit([add()], { [uuid(2)]: 'kelp' });
  expect([short.status, JSON.stringify(short.json)]).toEqual([422, expect.stringContaining('The key has 16 to 120')]);
  const twice = await edit([add({ behind: ['172.20.0.0/16', '172.20.9.0/24'] })], { [uuid(2)]: KEY });
  expect([twice.status, JSON.stringify(twice.json)]).toEqual([422, expect.stringContaining('overlaps')]);
  const odd = await edit([add({ ike: { ...USUAL_OFFERS.ike, ciphers: ['rot13'] as never } })], { [uuid(2)]: KEY });
  expect(odd.status).toBe(400);
});

test('it is told to the gateway with its key, and how it fares is told back', async () => {
  expect((await edit([add()], { [uuid(2)]: KEY })).status).toBe(200);
  const { id: draftId } = await ada.get('/api/drafts/current');
  const { id } = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  const frame = await gateway.next('document');
  if (frame.document.kind !== 'gateway') throw new Error('no gateway');
  expect(frame.document.pacts).toEqual([
    {
      ...{ name: 'Wrackline Yard', at: '203.0.113.60', own: pact().own, other: pact().other, key: pact().key },
      ...{ ...USUAL_OFFERS, lasts: USUAL_LASTS, here: [management.subnet], there: ['172.20.0.0/16'], mtu: 1422 },
    },
  ]);
  expect(frame.secrets[uuid(2)]).toBe(KEY);
  gateway.say({ type: 'applied', hash: frame.hash });
  await gateway.next('keep');
  gateway.say({ type: 'kept', hash: frame.hash });
  await ada.until('/api/rollouts', (all: { id: string; state: string }[]) =>
    all.some((each) => each.id === id && each.state === 'done'),
  );
  const down: PactReport = {
    ...{ name: 'Wrackline Yard', up: false, since: START, step: 'offers' },
    why: 'It turns down what is offered for the exchange (NO_PROPOSAL_CHOSEN).',
  };
  const fares = async (told: PactReport, at: number) => {
    gateway.say({
      type: 'report',
      report: {
        ...{ address: '10.7.0.1', uptime: 60, neighbours: [], leases: [], counters: [], clients: [], uplinks: [] },
        paths: {
          ...{ counted: START, pacts: [told] },
          changes: [
            { at, port: '', what: told.up ? 'pact-up' : 'pact-down', of: told.name, why: told.why ?? '', uses: [] },
          ],
          uplinks: [{ port: 'wan1', state: 'good', since: START, used: true, sessions: 0 }],
        },
      },
    });
    const { gateways } = await ada.until(
      `/api/sites/${siteId}/paths`,
      (view: { gateways: { pacts?: PactReport[] }[] }) =>
        view.gateways.some(({ pacts }) => pacts?.[0]?.step === told.step),
    );
    expect(gateways[0]!.pacts).toEqual([told]);
  };
  await fares(down, START + 1);
  const agreed = { ike: 'AES-GCM', esp: 'AES-GCM', here: [management.subnet], there: ['172.20.0.0/16'] };
  await fares(
    { ...{ name: 'Wrackline Yard', up: true, since: START, step: 'stands', by: 'wan1', to: '203.0.113.60' }, agreed },
    START + 2,
  );
  const { changes } = await ada.get(`/api/sites/${siteId}/paths`);
  expect(changes.map(({ what, of }: { what: string; of: string }) => [what, of])).toEqual([
    ['pact-up', 'Wrackline Yard'],
    ['pact-down', 'Wrackline Yard'],
  ]);
  const history = await ada.get(`/api/devices/${gatewayId}/history`);
  expect(JSON.stringify(history)).toContain('The tunnel Wrackline Yard stands no more: It turns down');
  expect(JSON.stringify(await ada.get('/api/search?q=172.20'))).toContain('Tunnel to a gateway of others, Quay');
});

test('the people of the other gateway are given a sheet and a file; the key is in it for who may, and that is noted', async () => {
  const sheet = await otherSide(ada, 'sheet', false);
  expect(sheet.json.name).toBe('wrackline-yard-other-side.txt');
  expect(sheet.json.text).toMatch(/Your identity +moor\.example/);
  expect(sheet.json.text).toMatch(/Its identity +quay\.skerrow\.example/);
  expect(sheet.json.text).toMatch(/Your networks +172\.20\.0\.0\/16/);
  expect(sheet.json.text).not.toContain(KEY);
  const file = await otherSide(ada, 'swanctl', true);
  expect(file.json.text).toContain(`secret = "${KEY}"`);
  expect(file.json.text).toContain('remote_addrs = %any');
  expect(file.json.text).toContain(`remote_ts = ${management.subnet}`);
  const journal = await ada.get(`/api/devices/${gatewayId}/history`);
  expect(JSON.stringify(journal)).not.toContain(KEY);
  const [noted] = await setting.controller.database.query(
    `SELECT detail->>'pact' AS pact FROM journal WHERE act = 'secret.reveal'`,
  );
  expect(noted).toEqual([{ pact: 'Wrackline Yard' }]);
  const oli = await setting.as('oli');
  expect((await otherSide(oli, 'swanctl', true)).status).toBe(403);
  expect((await otherSide(ada, 'swanctl', false, uuid(9))).status).toBe(404);
  expect((await otherSide(ada, 'spreadsheet', false)).status).toBe(400);
  const { id } = await ada.get('/api/drafts/current');
  const own = await oli.fetch('GET', `/api/drafts/${id}/sites/${siteId}/gateways/${gatewayId}/uplinks/swanctl`);
  const text = await own.text();
  expect(text).toContain('remote_addrs = 203.0.113.60');
  expect(text).not.toContain(KEY);
});

test('where ours is found at a fixed address, the other is told to call it there', async () => {
  const fixed = { address: '203.0.113.11/29', gateway: '203.0.113.9' };
  const set: Operation = {
    ...{ type: 'uplink.set', siteId, deviceId: gatewayId, port: 'wan1', from: null },
    to: { way: 'static', fixed },
  };
  expect((await edit([set])).json.flaws ?? []).toEqual([]);
  expect((await otherSide(ada, 'swanctl', false)).json.text).toContain('remote_addrs = 203.0.113.11');
  await edit([{ type: 'pact.remove', siteId, pactId: uuid(1) }]);
  expect((await otherSide(ada, 'sheet', false)).status).toBe(404);
});
