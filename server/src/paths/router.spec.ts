import type { RouterTries } from '@iron-lattice/core/assess';
import type { GatewayDocument, SwitchDocument } from '@iron-lattice/core/document';
import type { Operation, Segment, SiteRouter } from '@iron-lattice/core/intent';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let gatewayId = '';
let switchId = '';
const boxes: TestDevice[] = [];
const told: { gateway?: GatewayDocument; switch?: SwitchDocument } = {};
/** What devices answer that are asked to try something, by whom it is for. */
const answers = new Map<string, { ok: boolean; text: string; stoppedBy?: string }>();
let asked: string[] = [];

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  for (const [serial, model] of [
    ['GW-9201', 'GW-4'],
    ['SW-9202', 'SW-24P'],
  ] as const) {
    const box = new TestDevice(setting.controller.url, serial, model, `02:00:00:00:09:${serial.slice(-2)}`);
    await box.call();
    await ada.until('/api/calling', (list: { serial: string }[]) => list.some((each) => each.serial === serial));
    const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [serial] });
    const id: string = claimed[0].id;
    if (model === 'GW-4') gatewayId = id;
    else switchId = id;
    boxes.push(box);
    void box.obey(
      (document) => {
        if (document.kind === 'gateway') told.gateway = document;
        else if (document.kind === 'switch') told.switch = document;
        return null;
      },
      (command) => {
        if (command.type !== 'command') return;
        const target = `${command.name} ${command.target}${command.probe?.number === undefined ? '' : ` ${command.probe.number}`}`;
        asked.push(target);
        const answer = answers.get(target) ?? { ok: true, text: `${command.target} answers.` };
        box.say({ type: 'answer', id: command.id, ...answer });
      },
    );
    await ada.until(`/api/devices?siteId=${siteId}`, ({ rows }: { rows: { id: string; state: string }[] }) =>
      rows.some((each) => each.id === id && each.state === 'in step'),
    );
  }
});
afterAll(async () => {
  for (const box of boxes) box.hangUp();
  await setting.end();
});

const edit = async (...operations: readonly Operation[]) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets: {} });
};
const rollOut = async (): Promise<void> => {
  const { id: draftId } = await ada.get('/api/drafts/current');
  const { id } = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  await ada.until('/api/rollouts', (all: { id: string; state: string }[]) =>
    all.some((each) => each.id === id && each.state === 'done'),
  );
};
const segments = async (): Promise<Segment[]> => (await ada.get(`/api/drafts/current/sites/${siteId}`)).site.segments;
const uuid = (n: number): string => `0000000${n}-0000-4000-8000-000000000001`;
const crew = (routed?: string): Segment => ({
  ...{ id: uuid(1), name: 'Crew', vlan: 10, subnet: '10.77.10.0/24', gateway: '10.77.10.1' },
  addresses: { first: '10.77.10.20', last: '10.77.10.200', leaseSeconds: 3600 },
  ...(routed ? { routed } : {}),
});
const box = (management: Segment): SiteRouter => ({
  ...{ id: uuid(7), name: 'Harbour box', at: { deviceId: switchId, port: '20' } },
  meets: { segmentId: management.id, address: management.gateway.replace(/\.\d+$/, '.9') },
  lets: [
    {
      ...{ id: 'a', verdict: 'deny', services: [{ protocol: 'tcp', ports: ['22'] }] },
      from: [{ kind: 'segment', name: 'Crew' }],
      to: [{ kind: 'private' }],
    },
  ],
});

test('a box of others is said, its segment leaves the gateway, and both survive being looked at again', async () => {
  const [management] = await segments();
  const missing = await edit({ type: 'segment.add', siteId, segment: crew(uuid(7)) });
  expect([missing.status, JSON.stringify(missing.json)]).toEqual([
    422,
    expect.stringContaining('no longer at the site'),
  ]);
  const { status } = await edit(
    { type: 'segment.add', siteId, segment: { ...crew(), addresses: crew().addresses } },
    { type: 'router.add', siteId, router: { ...box(management!), lets: null } },
  );
  expect(status).toBe(200);
  const moved = await edit(
    { type: 'router.set', siteId, routerId: uuid(7), from: { lets: null }, to: { lets: box(management!).lets! } },
    { type: 'segment.set', siteId, segmentId: uuid(1), from: { routed: null }, to: { routed: uuid(7) } },
    {
      ...{ type: 'port.set', siteId, deviceId: switchId, port: '12', from: null },
      to: { untagged: uuid(1), tagged: [] },
    },
  );
  expect([moved.status, moved.json.flaws ?? null]).toEqual([200, null]);
  const early = await ada.ask('POST', `/api/sites/${siteId}/routers/${uuid(7)}/tries`);
  expect([early.status, JSON.stringify(early.json)]).toEqual([409, expect.stringContaining('Roll it out')]);
  await rollOut();
  expect(told.gateway!.interfaces.map(({ name }) => name)).not.toContain('Crew');
  expect(told.gateway!.routes).toContainEqual({
    ...{ name: 'Crew by Harbour box', prefix: '10.77.10.0/24' },
    to: box(management!).meets!.address,
  });
  const found = await ada.get(`/api/search?q=Harbour`);
  expect(JSON.stringify(found)).toContain('Router of others at Quay');
});

test('what is assumed is tried by devices, kept, and told as so, otherwise, or not to be told', async () => {
  const before: Record<string, RouterTries> = await ada.get(`/api/sites/${siteId}/router-tries`);
  expect(before).toEqual({});
  const [management] = await segments();
  const host = management!.gateway;
  answers.set(`probe ${host} 22`, { ok: true, text: `${host} answers.` });
  answers.set('probe 198.51.100.80', { ok: false, text: 'Nothing gets through.' });
  asked = [];
  const tries: RouterTries = await ada.post(`/api/sites/${siteId}/routers/${uuid(7)}/tries`, {});
  expect(asked).toContain(`ping ${box(management!).meets!.address}`);
  expect(asked).toContain('probe 10.77.10.1');
  const is = (words: string): string | undefined => tries.results.find((each) => each.words.includes(words))?.is;
  expect(is('answers the gateway at')).toBe('so');
  expect(is('answers at 10.77.10.1')).toBe('so');
  expect(is('Crew reaches the internet')).toBe('other');
  expect(is(`Crew does not reach ${management!.name} on tcp 22`)).toBe('other');
  expect(is(`Crew reaches ${management!.name}`)).toBe('so');
  expect(await ada.get(`/api/sites/${siteId}/router-tries`)).toEqual({ [uuid(7)]: tries });
  const oli = await setting.as('oli');
  expect((await oli.ask('POST', `/api/sites/${siteId}/routers/${uuid(7)}/tries`)).status).toBe(403);
  expect((await oli.ask('GET', `/api/sites/${siteId}/router-tries`)).status).toBe(200);
});

test('a switch that routes is told so', async () => {
  const [management] = await segments();
  const meets = { segmentId: management!.id, address: management!.gateway.replace(/\.\d+$/, '.8') };
  const router: SiteRouter = { id: uuid(8), name: 'Core', deviceId: switchId, meets };
  const wrong = await edit({ type: 'router.add', siteId, router: { ...router, deviceId: gatewayId } });
  expect([wrong.status, JSON.stringify(wrong.json)]).toEqual([422, expect.stringContaining('a switch of Quay')]);
  const { status } = await edit(
    { type: 'router.add', siteId, router },
    { type: 'segment.set', siteId, segmentId: uuid(1), from: { routed: uuid(7) }, to: { routed: uuid(8) } },
  );
  expect(status).toBe(200);
  await rollOut();
  expect(told.switch).toMatchObject({
    interfaces: [{ vlan: 10, name: 'Crew', address: '10.77.10.1/24' }],
    onward: { to: management!.gateway, address: `${meets.address}/${management!.subnet.split('/')[1]}` },
  });
  expect(told.gateway!.routes?.map(({ to }) => to)).toEqual([meets.address]);
  const many = Array.from({ length: 101 }, (_, i) => ({ ...box(management!).lets![0]!, id: `r${i}` }));
  const long = await edit({ type: 'router.set', siteId, routerId: uuid(7), from: { lets: null }, to: { lets: many } });
  expect(long.status).toBe(400);
});

test('who is silent tries nothing, and that is told', async () => {
  boxes[1]!.hangUp();
  await ada.until(`/api/devices?siteId=${siteId}`, ({ rows }: { rows: { id: string; state: string }[] }) =>
    rows.some((each) => each.id === switchId && each.state === 'silent'),
  );
  const silent: RouterTries = await ada.post(`/api/sites/${siteId}/routers/${uuid(8)}/tries`, {});
  expect(silent.results.find(({ words }) => words.includes('10.77.10.1'))).toMatchObject({
    ...{ is: 'unknown', got: expect.stringContaining('is silent') },
  });
});
