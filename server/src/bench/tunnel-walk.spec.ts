import type { WalkResult } from '@iron-lattice/core/bench';
import type { TunnelReport } from '@iron-lattice/core/line';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let draftId = '';
let apId = '';
let gateway: TestDevice;
let ap: TestDevice;
const ssidId = randomUUID();

/** What a device reports: who is on its port, and of an AP how the far end of its tunnel is. */
function says(device: TestDevice, other: TestDevice, ports: readonly [string, string], tunnel?: TunnelReport): void {
  const [port, theirPort] = ports;
  const neighbours = [{ port, chassis: other.mac, theirPort }];
  const rest = { address: null, uptime: 60, uplinks: [], clients: [], leases: [], counters: [] };
  device.say({ type: 'report', report: { ...rest, neighbours, ...(tunnel ? { tunnel } : {}) } });
}

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  gateway = new TestDevice(setting.controller.url, 'GW-7000', 'GW-4', '02:00:00:00:07:01');
  ap = new TestDevice(setting.controller.url, 'AP-7000', 'AP-6', '02:00:00:00:07:02');
  for (const device of [gateway, ap]) {
    await device.call();
    await ada.post(`/api/sites/${siteId}/claims`, { serials: [device.serial] });
    await device.comply();
  }
  apId = (await ada.get(`/api/sites/${siteId}/devices`)).find(
    ({ serial }: { serial: string }) => serial === ap.serial,
  ).id;
  const addresses = { first: '10.7.60.20', last: '10.7.60.99', leaseSeconds: 3600 };
  const segment = {
    ...{ id: randomUUID(), name: 'Guests', vlan: 60, subnet: '10.7.60.0/24', gateway: '10.7.60.1', addresses },
  };
  const ssid = {
    ...{ id: ssidId, name: 'Quay guests', segment: 'Guests', bands: ['5'], security: 'open', passphrase: null },
    ...{ tunnel: 'gateway', reach: { kind: 'sites', siteIds: [siteId] } },
  };
  const { id, head } = await ada.get('/api/drafts/current');
  draftId = id;
  const operations = [
    { type: 'segment.add', siteId, segment },
    { type: 'ssid.add', ssid },
  ];
  await ada.post(`/api/drafts/${id}/operations`, { head, operations });
  says(gateway, ap, ['1', 'lan']);
});
afterAll(async () => {
  for (const device of [gateway, ap]) device.hangUp();
  await setting.end();
});

/** The step at which a walk leaves the tunnel, once the AP's report is there. */
async function outOfTunnel(tunnel: TunnelReport): Promise<WalkResult['steps'][number]> {
  says(ap, gateway, ['lan', '1'], tunnel);
  await ada.until(`/api/sites/${siteId}/devices`, (all: { id: string; tunnel: TunnelReport | null }[]) =>
    all.some((each) => each.id === apId && each.tunnel?.answers === tunnel.answers),
  );
  const probe = { ssidId, apId, band: '5', knowsPassphrase: true };
  const walked: WalkResult = await ada.post('/api/walks', { siteId, on: 'draft', draftId, probe });
  return walked.steps.filter(({ kind }) => kind === 'tunnel').at(-1)!;
}

test('a walk ends where an AP hears nothing of the far end of its tunnel, and goes on once it does', async () => {
  const to = '10.7.0.1';
  expect(await outOfTunnel({ to, answers: false })).toMatchObject({ passed: false, title: 'qy-gw-01 is silent' });
  expect(await outOfTunnel({ to, answers: true })).toMatchObject({
    passed: true,
    title: 'Out of the tunnel at qy-gw-01',
  });
});
