import type { WalkResult } from '@iron-lattice/core/bench';
import type { TunnelReport } from '@iron-lattice/core/line';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

/** A hub, the quay, and an isle whose AP carries an SSID there. */
let setting: TestController;
let ada: TestCaller;
let [quayId, isleId, draftId, apId] = ['', '', '', ''];
let [quay, isle, ap] = [] as unknown as [TestDevice, TestDevice, TestDevice];
const ssidId = randomUUID();
let to = '';

function says(
  device: TestDevice,
  other: TestDevice,
  ports: readonly [string, string],
  landings?: TunnelReport[],
): void {
  const neighbours = [{ port: ports[0], chassis: other.mac, theirPort: ports[1] }];
  const rest = { address: null, uptime: 60, uplinks: [], clients: [], leases: [], counters: [] };
  device.say({ type: 'report', report: { ...rest, neighbours, ...(landings ? { landings } : {}) } });
}
const edit = async (operations: object[]): Promise<void> => {
  const { id, head } = await ada.get('/api/drafts/current');
  draftId = id;
  await ada.post(`/api/drafts/${id}/operations`, { head, operations });
};
const walked = (more: object = {}): Promise<WalkResult> =>
  ada.post('/api/walks', {
    ...{ siteId: isleId, on: 'draft', draftId, ...more },
    probe: { ssidId, apId, band: '5', knowsPassphrase: true },
  });

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  quayId = (await ada.post('/api/sites', { ...wish, name: 'Quay', code: 'qy' })).id;
  isleId = (await ada.post('/api/sites', { ...wish, name: 'Isle', code: 'is' })).id;
  quay = new TestDevice(setting.controller.url, 'GW-7100', 'GW-4', '02:00:00:00:71:01');
  isle = new TestDevice(setting.controller.url, 'GW-7200', 'GW-4', '02:00:00:00:72:01');
  ap = new TestDevice(setting.controller.url, 'AP-7200', 'AP-6', '02:00:00:00:72:02');
  const ids: string[] = [];
  for (const [device, siteId] of [
    [quay, quayId],
    [isle, isleId],
    [ap, isleId],
  ] as const) {
    await device.call();
    await ada.post(`/api/sites/${siteId}/claims`, { serials: [device.serial] });
    await device.comply();
    const all: { id: string; serial: string }[] = await ada.get(`/api/sites/${siteId}/devices`);
    ids.push(all.find(({ serial }) => serial === device.serial)!.id);
  }
  apId = ids[2]!;
  const keys = await ada.post('/api/tunnel-keys', { count: 2 });
  const [hubId, spokeId] = [randomUUID(), randomUUID()];
  const usual = { direct: [], segments: 'all', prefixes: [], takes: null, leaves: 'here' };
  const addresses = { first: '10.71.60.20', last: '10.71.60.99', leaseSeconds: 3600 };
  const segment = {
    ...{ id: randomUUID(), name: 'Guests', vlan: 60, subnet: '10.71.60.0/24', gateway: '10.71.60.1', addresses },
  };
  const ssid = {
    ...{ id: ssidId, name: 'Isle guests', segment: 'Guests', bands: ['5'], security: 'open', passphrase: null },
    ...{ tunnel: quayId, reach: { kind: 'sites', siteIds: [isleId] } },
  };
  const hub = { id: hubId, siteId: quayId, deviceId: ids[0], role: 'hub', hubs: [], found: { wan1: '203.0.113.1' } };
  const spoke = { id: spokeId, siteId: isleId, deviceId: ids[1], role: 'spoke', hubs: [hubId], found: {} };
  await edit([
    { type: 'overlay.set', from: null, to: { spans: ['10.0.0.0/8'] } },
    { type: 'member.add', member: { ...usual, ...hub, key: keys[0] } },
    { type: 'member.add', member: { ...usual, ...spoke, key: keys[1] } },
    { type: 'segment.add', siteId: quayId, segment },
    { type: 'ssid.add', ssid },
  ]);
  says(isle, ap, ['1', 'lan']);
  const { site } = await ada.get(`/api/drafts/${draftId}/sites/${quayId}`);
  to = site.segments.find(({ id }: { id: string }) => id === site.managementId).gateway;
});
afterAll(async () => {
  for (const device of [quay, isle, ap]) device.hangUp();
  await setting.end();
});

test('a walk follows whoever is carried to another site, and ends where the AP hears nothing of it', async () => {
  const answers = async (yes: boolean): Promise<WalkResult> => {
    says(ap, isle, ['lan', '1'], [{ to, answers: yes }]);
    await ada.until(`/api/sites/${isleId}/devices`, (all: { id: string; landings: TunnelReport[] }[]) =>
      all.some(({ id, landings }) => id === apId && landings[0]?.answers === yes),
    );
    return walked();
  };
  const silent = await answers(false);
  expect(silent.steps.at(-1)).toMatchObject({ kind: 'tunnel', passed: false, title: 'qy-gw-01 is silent' });
  const { steps } = await answers(true);
  const titles = steps.map(({ title }) => title);
  expect(titles).toEqual(
    expect.arrayContaining([
      `Into the tunnel to ${to}`,
      'Inside the tunnel to Quay',
      'Out of the tunnel at qy-gw-01',
      'Given 10.71.60.20',
    ]),
  );
  // What decides there is a device of that site.
  const out = steps.find(({ title }) => title === 'Out of the tunnel at qy-gw-01')!;
  expect(out.decidedBy).toMatchObject({ kind: 'device', name: 'qy-gw-01' });
});

test('it goes to an address as from the other site, whose gateway has it on a link', async () => {
  const { steps, arrived } = await walked({ to: '10.71.60.1' });
  expect([steps.at(-1)!.title, arrived]).toEqual(['qy-gw-01 answers', true]);
  // A site alone knows nothing of what another one is told: live nothing is carried yet.
  const live = await walked({ on: 'live' });
  expect(live.steps.at(-1)).toMatchObject({ title: 'SSID not heard' });
});

test('an end that is joined to nothing is refused with a word', async () => {
  const { id, head } = await ada.get('/api/drafts/current');
  const operation = { type: 'ssid.set', ssidId, from: { tunnel: quayId }, to: { tunnel: randomUUID() } };
  const { status, json } = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations: [operation] });
  expect(status).toBe(422);
  expect(JSON.stringify(json)).toContain('That site is not joined to others');
});
