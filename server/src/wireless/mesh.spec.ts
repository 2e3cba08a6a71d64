import { randomUUID } from 'node:crypto';
import type { SiteDraft } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import type { DeviceView } from '@iron-lattice/core/intake';
import type { MeshEntry, MeshSite, Operation } from '@iron-lattice/core/intent';
import type { DeviceFrame, NeighbourReport, Report, ScanReport } from '@iron-lattice/core/line';
import type { ScanForecast, SitePlan, SpeedTest } from '@iron-lattice/core/wireless';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let sw: TestDevice;
const aps: TestDevice[] = [];
const ids: string[] = [];
/** What each AP was told last, and in which order they were told. */
const told = new Map<string, DeviceDocument>();
const order: string[] = [];

const key = randomUUID();
const usual: MeshSite = { when: 'never', band: '5', hops: 2, key: { secret: key } };
const macOf = (ap: number): string => `02:00:00:00:08:0${ap}`;
const SW_MAC = '02:00:00:00:08:99';
const bssidOf = (ap: number): string => `02:5a:00:00:0${ap}:05`;
const cable = (ap: number): NeighbourReport => ({ port: 'lan', chassis: SW_MAC, theirPort: `${ap + 1}` });
const byRadio: NeighbourReport = { port: 'mesh', chassis: macOf(0), theirPort: 'mesh', hangs: true };

function says(device: TestDevice, ap: number, neighbours: NeighbourReport[], more: Partial<Report> = {}): void {
  const radios: Report['radios'] =
    ap < 0
      ? []
      : [
          {
            ...{ band: '5', state: 'on', channel: 36, centre: 38, width: 40, power: 23 },
            sends: [{ ssid: 'Guests', bssid: bssidOf(ap) }],
          },
        ];
  const client = { ssid: 'Guests', vlan: 60, address: null, band: '5' as const, signal: -55 };
  const report: DeviceFrame = {
    type: 'report',
    report: {
      ...{ address: `10.8.0.${20 + ap}`, uptime: 60, neighbours, uplinks: [], leases: [], counters: [] },
      clients: ap < 0 ? [] : Array.from({ length: ap + 1 }, (_, i) => ({ ...client, mac: `0e:00:00:00:1${ap}:0${i}` })),
      radios,
      ...more,
    },
  };
  device.say(report);
}
const heardBy = (ap: number): ScanReport => ({
  networks: [
    {
      ...{ bssid: bssidOf(1 - ap), ssid: 'Guests', band: '5', channel: 36, centre: 38, width: 40 },
      ...{ signal: -55, security: 'WPA3' },
    },
  ],
  channels: [{ band: '5', channel: 36, busy: 0, noise: -94 }],
});

async function edit(operations: readonly Operation[], secrets: Record<string, string> = {}) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations?site=${siteId}`, { head, operations, secrets });
}
async function rollOut() {
  const { id: draftId } = await ada.get('/api/drafts/current');
  order.length = 0;
  const { id } = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  return ada.until(`/api/rollouts/${id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null, 20_000);
}
const ofAp = (ap: number, to: MeshEntry | null, from: MeshEntry | null = null): Operation => ({
  ...{ type: 'mesh.set', siteId, from, to },
  deviceId: ids[ap]!,
});
const here = (): Promise<SiteDraft> => ada.get(`/api/drafts/current/sites/${siteId}`);
const meshFindings = ({ consequences }: SiteDraft) =>
  consequences.findings.filter(({ code }) => code.startsWith('mesh.'));

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Jetty', code: 'jy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  sw = new TestDevice(setting.controller.url, 'SW-8009', 'SW-8P', SW_MAC);
  for (const ap of [0, 1]) aps.push(new TestDevice(setting.controller.url, `AP-800${ap}`, 'AP-6', macOf(ap)));
  for (const device of [sw, ...aps]) {
    await device.call();
    void device.obey(
      (document) => {
        told.set(device.serial, document);
        order.push(device.serial);
        return null;
      },
      (command) => {
        if (command.type !== 'command') return;
        const ap = aps.indexOf(device);
        const scan = command.name === 'scan' ? { scan: heardBy(ap) } : {};
        const speed = {
          ...{ down: 150, up: 120, latency: 6, airDown: 400, airUp: 300, narrowest: 'mesh' as const, signal: -50 },
          ...{ channel: 36, centre: 38, width: 40, power: 23 },
        };
        const got = command.name === 'speed' ? { speed } : {};
        device.say({ type: 'answer', id: command.id, ok: true, text: '', ...scan, ...got });
      },
    );
  }
  await ada.post(`/api/sites/${siteId}/claims`, { serials: [sw, ...aps].map(({ serial }) => serial) });
  const secret = randomUUID();
  const subnet = { subnet: '10.8.60.0/24', gateway: '10.8.60.1', addresses: null };
  const segment = { id: randomUUID(), name: 'Guests', vlan: 60, ...subnet };
  const ssid = { id: randomUUID(), name: 'Guests', segment: 'Guests', bands: ['5'], security: 'wpa3-sae' };
  await edit(
    [
      { type: 'segment.add', siteId, segment },
      { type: 'ssid.add', ssid: { ...ssid, reach: { kind: 'sites', siteIds: [siteId] }, passphrase: { secret } } },
    ] as never,
    { [secret]: 'a passphrase of some length' },
  );
  await rollOut();
  const devices: DeviceView[] = await ada.get(`/api/sites/${siteId}/devices`);
  for (const { serial } of aps) ids.push(devices.find((each) => each.serial === serial)!.id);
  says(
    sw,
    -1,
    [0, 1].map((ap) => ({ port: `${ap + 1}`, chassis: macOf(ap), theirPort: 'lan' })),
  );
  for (const [ap, device] of aps.entries()) says(device, ap, [cable(ap)]);
  await ada.until(`/api/drafts/current/sites/${siteId}`, ({ links }: SiteDraft) => links.length === 2);
});
afterAll(async () => {
  for (const device of [sw, ...aps]) device.hangUp();
  await setting.end();
});

test('the key between APs is made once, checked, and never told to anybody but them', async () => {
  const first: Operation = { type: 'mesh.site', siteId, from: null, to: usual };
  expect((await edit([first], { [key]: 'short' })).json.flaws[0]).toMatchObject({ code: 'mesh.key' });
  const { status, json } = await edit([first, ofAp(1, { when: 'always' })], { [key]: 'K'.repeat(32) });
  expect(status).toBe(200);
  expect(JSON.stringify(json)).not.toContain('KKKKKKKK');
  expect(meshFindings(await here())).toMatchObject([{ code: 'mesh.nobody', severity: 'error', place: { id: ids[1] } }]);
});

test('once the air was scanned it is known who takes whom; strands lead there, and the parent is told first', async () => {
  await ada.post(`/api/sites/${siteId}/scans`, { deviceIds: null, bands: ['5'] });
  const draft = await ada.until<SiteDraft>(
    `/api/drafts/current/sites/${siteId}`,
    (each) => meshFindings(each).length === 0,
    20_000,
  );
  expect(draft.consequences.links!.filter(({ hangs }) => hangs)).toMatchObject([
    { a: { port: 'mesh' }, b: { port: 'mesh' } },
  ]);
  expect(draft.links.every(({ hangs }) => hangs === undefined)).toBe(true);
  await rollOut();
  expect(order).toEqual(aps.map(({ serial }) => serial));
  expect(told.get('AP-8000')).toMatchObject({ mesh: { key: { secret: key }, carries: true } });
  expect(told.get('AP-8001')).toMatchObject({ mesh: { hang: { when: 'always', band: '5', hops: 2 } } });
});

test('how it hangs is told as it reports it; what it hangs on is its way in', async () => {
  const mesh = { parent: macOf(0), band: '5', channel: 36, width: 40, signal: -55, rate: 400, hops: 1 } as const;
  says(aps[1]!, 1, [cable(1), byRadio], { mesh: { ...mesh, since: Date.now() } });
  await ada.until(`/api/drafts/current/sites/${siteId}`, ({ links }: SiteDraft) => links.some(({ hangs }) => hangs));
  const views: DeviceView[] = await ada.get(`/api/sites/${siteId}/devices`);
  const view = views.find(({ id }) => id === ids[1]);
  expect(view).toMatchObject({ mesh: { signal: -55, hops: 1 } });
  const only = { deviceIds: [ids[0]], bands: ['5'] };
  const forecast: ScanForecast = await ada.post(`/api/sites/${siteId}/scan-forecast`, only);
  // Its own client, and the two of the one that hangs on it.
  expect(forecast).toMatchObject({ behind: 1, clients: 3, awaySeconds: 5 });
  const all: ScanForecast = await ada.post(`/api/sites/${siteId}/scan-forecast`, { ...only, deviceIds: null });
  expect(all).toMatchObject({ behind: 0, clients: 3, awaySeconds: 10 });
});

test('what is predicted behind it is less than of the air alone, and plans of channels move it with its parent', async () => {
  const asked = { band: '5', metres: 3, phy: 'HE', streams: 2, width: 40 };
  const test = (ap: number): Promise<SpeedTest> => ada.post(`/api/devices/${ids[ap]}/speed-tests`, asked);
  const [cabled, hung] = [await test(0), await test(1)];
  expect(hung.predicted!).toBeLessThan(cabled.predicted! * 0.7);
  expect(hung.got.narrowest).toBe('mesh');
  const { id } = await ada.get('/api/drafts/current');
  const plan: SitePlan = await ada.post(`/api/drafts/${id}/sites/${siteId}/channel-plan`, {
    deviceIds: null,
    bands: ['5'],
  });
  expect(plan.bands[0]!.radios.map(({ deviceId, clients }) => [deviceId, clients])).toEqual([[ids[0], 3]]);
});

test('a draft that cuts it off from its only parent says so and needs a yes; told back to its cable it is told before the parent', async () => {
  says(aps[1]!, 1, [byRadio]);
  says(sw, -1, [{ port: '1', chassis: macOf(0), theirPort: 'lan' }]);
  await ada.until(`/api/drafts/current/sites/${siteId}`, ({ links }: SiteDraft) => links.length === 2);
  await edit([ofAp(1, null, { when: 'always' })]);
  const [cut] = meshFindings(await here());
  expect(cut).toMatchObject({ code: 'mesh.cut', severity: 'error' });
  const { id: draftId } = await ada.get('/api/drafts/current');
  expect((await ada.ask('POST', '/api/rollouts', { draftId })).status).toBe(409);
  await edit(cut!.mend!.operations);
  expect(meshFindings(await here())).toEqual([]);
  // Its cable is back: now it may be told.
  says(aps[1]!, 1, [cable(1), byRadio]);
  await ada.until(`/api/drafts/current/sites/${siteId}`, ({ links }: SiteDraft) => links.length === 3);
  await edit([ofAp(1, null, { when: 'fallback' })]);
  expect(meshFindings(await here())).toEqual([]);
  await rollOut();
  expect(order).toEqual(['AP-8001', 'AP-8000']);
  expect(told.get('AP-8000')).not.toHaveProperty('mesh');
});
