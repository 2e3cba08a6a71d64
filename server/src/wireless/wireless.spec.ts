import { randomUUID } from 'node:crypto';
import type { SiteDraft } from '@iron-lattice/core/assess';
import type { Operation, Ssid } from '@iron-lattice/core/intent';
import type { DeviceFrame, HeardNetwork, RadioReport, ScanReport } from '@iron-lattice/core/line';
import type {
  AirClientsView,
  BandRange,
  AirView,
  EstateRadio,
  PlanRecurrenceView,
  RadioChange,
  ScanForecast,
  ScanRun,
  SitePlan,
  SpeedTest,
} from '@iron-lattice/core/wireless';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { held } from '../testing/three-sites';

type Command = Parameters<NonNullable<Parameters<TestDevice['obey']>[1]>>[0];

let setting: TestController;
let ada: TestCaller;
let siteId = '';
const aps: TestDevice[] = [];
const ids: string[] = [];
/** What each AP does when it is asked; by its number. */
let answers: ((ap: number, command: Command) => void) | null = null;

const ALL = ['2.4', '5', '6'];
const stranger: HeardNetwork = {
  ...{ bssid: '06:77:00:00:00:01', ssid: 'guests', band: '5', channel: 36, centre: 38, width: 40 },
  ...{ signal: -58, security: 'open' },
};
const bssidOf = (ap: number): string => `02:5a:00:00:0${ap}:05`;
const radios = (ap: number, more: Partial<RadioReport> = {}): RadioReport[] => [
  { band: '2.4', state: 'idle' },
  {
    ...{ band: '5', state: 'on', channel: 36, centre: 38, width: 40, power: 23, busy: 0.3, noise: -94 },
    ...{ sends: [{ ssid: 'Guests', bssid: bssidOf(ap) }], ...more },
  },
];
const reports = (ap: number, more: Partial<RadioReport> = {}): DeviceFrame => ({
  type: 'report',
  report: {
    ...{ address: `10.7.0.${20 + ap}`, uptime: 60, neighbours: [], uplinks: [], leases: [], counters: [] },
    clients: Array.from({ length: ap + 1 }, (_, i) => ({
      ...{ mac: `0e:00:00:00:0${ap}:0${i}`, ssid: 'Guests', vlan: 60, address: null, band: '5' as const, signal: -55 },
    })),
    radios: radios(ap, more),
  },
});
/** Each AP hears the other at −60 dBm, and a stranger that calls itself as we do. */
const heardBy = (ap: number): ScanReport => ({
  networks: [{ ...stranger, bssid: bssidOf(1 - ap), ssid: 'Guests', signal: -60 }, stranger],
  channels: [36, 40, 44, 48].map((channel) => ({ band: '5', channel, busy: channel < 44 ? 0.5 : 0, noise: -94 })),
});

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  for (const ap of [0, 1]) {
    const device = new TestDevice(setting.controller.url, `AP-700${ap}`, 'AP-6', `02:00:00:00:07:0${ap}`);
    await device.call();
    void device.obey(
      () => null,
      (command) => answers?.(ap, command),
    );
    aps.push(device);
  }
  await ada.post(`/api/sites/${siteId}/claims`, { serials: aps.map(({ serial }) => serial) });
  const secret = randomUUID();
  const segment = {
    id: randomUUID(),
    name: 'Guests',
    vlan: 60,
    subnet: '10.7.60.0/24',
    gateway: '10.7.60.1',
    addresses: null,
  };
  const ssid = { id: randomUUID(), name: 'Guests', segment: 'Guests', bands: ['5'], security: 'wpa3-sae' };
  await edit(
    [
      { type: 'segment.add', siteId, segment },
      { type: 'ssid.add', ssid: { ...ssid, reach: { kind: 'sites', siteIds: [siteId] }, passphrase: { secret } } },
    ] as never,
    { [secret]: 'a passphrase of some length' },
  );
  await rollOut();
  const devices = await ada.get(`/api/sites/${siteId}/devices`);
  for (const { serial } of aps) ids.push(devices.find((each: { serial: string }) => each.serial === serial).id);
  for (const [ap, device] of aps.entries()) device.say(reports(ap));
  await ada.until(
    `/api/sites/${siteId}/devices`,
    (all: { clients: unknown[] }[]) => all.reduce((n, { clients }) => n + clients.length, 0) === 3,
  );
});
afterAll(async () => {
  for (const ap of aps) ap.hangUp();
  await setting.end();
});

async function edit(operations: readonly Operation[], secrets: Record<string, string> = {}) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
}
async function rollOut() {
  const { id: draftId } = await ada.get('/api/drafts/current');
  const { id } = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  return ada.until(`/api/rollouts/${id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null, 20_000);
}
const scan = (deviceIds: readonly string[] | null = null, who = ada) =>
  who.ask('POST', `/api/sites/${siteId}/scans`, { deviceIds, bands: ALL });
const over = () => ada.until<AirView>(`/api/sites/${siteId}/air`, ({ run }) => run !== null && !run.running, 20_000);
const changes = (): Promise<RadioChange[]> => ada.get(`/api/sites/${siteId}/radio-changes`);
const planned = async (body: object = { deviceIds: null, bands: ['5'] }) => {
  const { id } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/sites/${siteId}/channel-plan`, body);
};
const radioOf = (ap: number, from: object | null, to: object | null): Operation =>
  ({ type: 'radio.set', siteId, deviceId: ids[ap], band: '5', from, to }) as never;

test('before anybody listened there is nothing to plan with, and what a scan does is said', async () => {
  expect(await planned()).toMatchObject({
    status: 409,
    json: { title: expect.stringContaining('Scan it first') as string },
  });
  const forecast: ScanForecast = await ada.post(`/api/sites/${siteId}/scan-forecast`, {
    deviceIds: null,
    bands: ['5'],
  });
  // Nobody knows yet who serves whom: one after the other.
  expect(forecast).toMatchObject({ clients: 3, awaySeconds: 5, seconds: 10, cannot: [] });
  expect(forecast.aps.map(({ clients }) => clients)).toEqual([1, 2]);
});

test('a scan goes AP by AP, says how far it is, and what was heard is kept with its time', async () => {
  const asked: number[] = [];
  answers = (ap, command) => {
    if (command.type !== 'command') return;
    expect(command).toMatchObject({ name: 'scan', target: '2.4,5,6' });
    asked.push(ap);
    aps[ap]!.say({ type: 'progress', id: command.id, done: 10, of: 20 });
    setTimeout(
      () => aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '2 networks.', scan: heardBy(ap) }),
      600,
    );
  };
  const started: ScanRun = (await scan()).json;
  expect(started).toMatchObject({ running: true, by: 'Ada' });
  expect((await scan()).json.title).toContain('Ada is scanning here');
  await ada.until<AirView>(`/api/sites/${siteId}/air`, ({ run }) => run!.steps.some(({ done }) => done === 0.5));
  const { heard, run, ours } = await over();
  expect(run!.steps.map(({ state }) => state)).toEqual(['done', 'done']);
  expect(asked).toEqual([0, 1]);
  expect(heard.map(({ networks }) => networks.length)).toEqual([2, 2]);
  expect(Date.now() - Date.parse(heard[0]!.at)).toBeLessThan(20_000);
  expect(ours).toEqual([0, 1].map((ap) => ({ bssid: bssidOf(ap), deviceId: ids[ap], ssid: 'Guests' })));
});

test('what is found of the air is a finding: a stranger with a name of ours, named with those that hear it', async () => {
  const { consequences }: SiteDraft = await ada.get(`/api/drafts/current/sites/${siteId}`);
  const found = consequences.findings.find(({ code }) => code === 'radio.lookalike')!;
  expect(found.message).toContain('“guests”');
  expect(found.reason).toContain('06:77:00:00:00:01 on channel 36');
});

test('what an AP says of itself later is no stranger’s any more', async () => {
  const own = { ...stranger, ssid: 'Guests', bssid: '02:5a:00:00:00:99' };
  answers = (ap, command) => {
    const scanned = { ...heardBy(ap), networks: [own] };
    if (command.type === 'command') aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', scan: scanned });
  };
  const found = (draft: SiteDraft) => draft.consequences.findings.some(({ key }) => key.includes(own.bssid));
  const url = `/api/drafts/current/sites/${siteId}`;
  await scan();
  await over();
  expect(found(await ada.get(url))).toBe(true);
  aps[0]!.say(reports(0, { sends: [{ ssid: 'Guests', bssid: own.bssid }] }));
  await ada.until<SiteDraft>(url, (draft) => !found(draft), 10_000);
  aps[0]!.say(reports(0));
});

test('a test of speed is kept with what was live and what was predicted', async () => {
  const speed = {
    ...{ down: 240, up: 200, latency: 12, airDown: 240, airUp: 200, narrowest: 'air' as const },
    ...{ signal: -55, channel: 44, centre: 46, width: 40, power: 23 },
  };
  const asked = { band: '5', metres: 10, phy: 'HE', streams: 2, width: 80 };
  answers = (ap, command) => {
    if (command.type !== 'command') return;
    expect(command).toMatchObject({ name: 'speed', speed: asked });
    aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', speed });
  };
  const test1: SpeedTest = await ada.post(`/api/devices/${ids[0]}/speed-tests`, asked);
  expect(test1).toMatchObject({ by: 'Ada', revision: expect.any(Number) as number, got: speed, asked });
  // A quiet 40 MHz of a client close by: what the formula says of it.
  expect(test1.predicted).toBeGreaterThan(250);
  expect(test1.predicted).toBeLessThan(420);
  answers = (ap, command) => aps[ap]!.say({ type: 'answer', id: command.id, ok: false, text: 'It is off.' });
  expect((await ada.ask('POST', `/api/devices/${ids[0]}/speed-tests`, asked)).json.title).toBe('It is off.');
  expect((await ada.ask('POST', `/api/devices/${ids[0]}/speed-tests`, { ...asked, band: '6' })).json.title).toContain(
    'has no radio for 6 GHz',
  );
  expect((await ada.ask('POST', `/api/devices/${ids[0]}/speed-tests`, { ...asked, metres: 0 })).status).toBe(400);
  expect(await ada.get(`/api/sites/${siteId}/speed-tests`)).toEqual([test1]);
});

test('of probes that join an SSID what is predicted is what its caps leave each, at an AP its part of the whole', async () => {
  const { estate }: SiteDraft = await ada.get(`/api/drafts/current/sites/${siteId}`);
  const [ssid] = estate.ssids;
  const set = (from: Ssid['caps'], to: Ssid['caps']): Operation => ({
    type: 'ssid.set',
    ssidId: ssid!.id,
    from: { caps: from ?? null },
    to: { caps: to ?? null },
  });
  const caps = { client: { down: 20_000 }, all: { down: 60_000 } };
  const refused = await edit([set(null, { client: { down: 0 } })]);
  expect(refused.json.flaws).toMatchObject([{ code: 'caps.zero', field: 'caps.client.down' }]);
  await edit([set(null, caps)]);
  await rollOut();
  const speed = {
    ...{ down: 20, up: 20, latency: 12, airDown: 240, airUp: 200, narrowest: 'cap' as const, cap: 'each client' },
    ...{ signal: -55, channel: 44, centre: 46, width: 40, power: 23 },
  };
  answers = (ap, command) => aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', speed });
  const asked = { band: '5', metres: 10, phy: 'HE', streams: 2, width: 80, ssid: ssid!.id };
  const tried = (more: object): Promise<SpeedTest> =>
    ada.post(`/api/devices/${ids[0]}/speed-tests`, { ...asked, ...more });
  expect((await tried({})).predicted).toBe(20);
  // No gateway is there: each of two APs lets half of it through.
  expect((await tried({ count: 5 })).predicted).toBe(6);
  expect((await ada.ask('POST', `/api/devices/${ids[0]}/speed-tests`, { ...asked, count: 21 })).status).toBe(400);
  const again: SiteDraft = await ada.get(`/api/drafts/current/sites/${siteId}`);
  expect(again.consequences.findings.filter(({ code }) => code === 'wireless.cap-parts')).toHaveLength(1);
  await edit([set(caps, null)]);
  await rollOut();
});

test('an AP that goes silent meanwhile fails by itself; what others hear is kept', async () => {
  answers = (ap, command) => {
    if (command.type === 'command')
      aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', scan: heardBy(ap) });
  };
  await scan();
  const before = (await over()).heard.map(({ at }) => at);
  answers = (ap, command) => {
    if (command.type !== 'command') return;
    if (ap === 0) aps[0]!.hangUp();
    else
      aps[1]!.say({
        type: 'answer',
        id: command.id,
        ok: true,
        text: '',
        scan: { ...heardBy(1), networks: [stranger] },
      });
  };
  aps[0]!.hangUp();
  await ada.until(`/api/sites/${siteId}/devices`, (all: { state: string }[]) =>
    all.some(({ state }) => state === 'silent'),
  );
  expect((await scan()).status).toBe(201);
  const { heard, run } = await over();
  expect(run!.steps.find(({ state }) => state === 'failed')!.reason).toContain('is silent. Check its power and cable.');
  expect(run!.steps.find(({ state }) => state === 'done')).toBeDefined();
  expect(heard[1]!.networks).toHaveLength(1);
  expect(heard[1]!.at > before[1]!).toBe(true);
  expect(heard[0]!.at).toBe(before[0]);
  await aps[0]!.call();
  void aps[0]!.obey(
    () => null,
    (command) => answers?.(0, command),
  );
  aps[0]!.say(reports(0));
  await ada.until(`/api/sites/${siteId}/devices`, (all: { state: string }[]) =>
    all.every(({ state }) => state !== 'silent'),
  );
});

test('a scan that is stopped asks no further AP, and keeps what it has', async () => {
  const told: string[] = [];
  answers = (ap, command) => {
    told.push(command.type);
    if (command.type === 'cancel')
      aps[ap]!.say({ type: 'answer', id: command.id, ok: false, text: 'It did not scan to the end.' });
  };
  expect((await scan()).status).toBe(201);
  await ada.until<AirView>(`/api/sites/${siteId}/air`, ({ run }) => run!.steps.some(({ state }) => state === 'scans'));
  await ada.post(`/api/sites/${siteId}/scans/stop`, {});
  const { run, heard } = await over();
  expect(run!.steps.map(({ state }) => state)).toEqual(['left', 'left']);
  expect(told).toEqual(['command', 'cancel']);
  expect(heard).toHaveLength(2);
  expect((await ada.ask('POST', `/api/sites/${siteId}/scans/stop`)).status).toBe(409);
  expect((await scan(null, await setting.as('oli'))).status).toBe(403);
  expect((await scan([randomUUID()])).json.title).toBe('There is no AP to scan with.');
});

test('a plan puts APs apart that hear each other, and two people who take two plans are told', async () => {
  answers = (ap, command) => {
    if (command.type === 'command')
      aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', scan: heardBy(ap) });
  };
  await scan();
  await over();
  const plan: SitePlan = (await planned()).json;
  const [band] = plan.bands;
  const blocks = band!.radios.map(({ after }) => Math.floor((after.channel - 36) / (after.width / 5)));
  expect(new Set(blocks).size).toBe(2);
  expect(band!.radios.every(({ speedAfter, speedBefore }) => speedAfter >= speedBefore)).toBe(true);
  expect(band!.bound).toBeLessThanOrEqual(band!.cost);
  const take = band!.radios.flatMap(({ deviceId, after, moves }) =>
    moves
      ? [radioOf(ids.indexOf(deviceId), null, { channel: after.channel, width: after.width, power: after.power })]
      : [],
  );
  expect(take.length).toBeGreaterThan(0);
  expect((await edit(take)).status).toBe(200);
  // The same once more: somebody was first.
  expect((await edit(take)).json.title).toContain('Somebody changed');
});

test('a plan leaves the radios that were not chosen where they are', async () => {
  const plan: SitePlan = (await planned({ deviceIds: [ids[1]], bands: ['5'] })).json;
  const first = plan.bands[0]!.radios.find(({ deviceId }) => deviceId === ids[0])!;
  expect(first).toMatchObject({ moves: false, after: { channel: 36, width: 40, power: 23 } });
});

test('radios say what they were last changed by; radar is written down once', async () => {
  expect((await changes()).filter(({ deviceId }) => ids.includes(deviceId))).toEqual([]); // a draft is no change yet
  await rollOut();
  const changed = (await changes()).filter(({ band }) => band === '5');
  expect(changed.length).toBeGreaterThan(0);
  expect(changed[0]).toMatchObject({ by: 'Ada', how: expect.stringContaining('Draft') as string });
  const left = { channel: 100, until: Date.now() + 1_800_000 };
  for (let i = 0; i < 3; i++) aps[1]!.say(reports(1, { left: { ...left, until: left.until + i }, busy: i / 10 }));
  await ada.until<RadioChange[]>(`/api/sites/${siteId}/radio-changes`, (all) =>
    all.some(({ how }) => how === 'radar on 100'),
  );
  const rows = await setting.controller.database.query(`SELECT 1 FROM journal WHERE act = 'radio.radar'`, {
    type: QueryTypes.SELECT,
  });
  expect(rows).toHaveLength(1);
  const history = await ada.get(`/api/devices/${ids[1]}/history`);
  expect(JSON.stringify(history)).toContain('Heard radar on channel 100 at 5 GHz, and left it.');
});

test('clients on the air say how they are joined and where they were; those in vain say why; one is sent away', async () => {
  const mac = '0e:00:00:00:0a:01';
  const client = {
    mac,
    ssid: 'Guests',
    vlan: 60,
    address: null,
    band: '5' as const,
    signal: -61,
    width: 40,
    streams: 2,
    rate: 458,
    retries: 0.05,
  };
  const say = (ap: number, since: number | null) => {
    const frame = reports(ap) as Extract<DeviceFrame, { type: 'report' }>;
    const refused = [{ mac: '0e:00:00:00:0a:02', ssid: 'Guests', why: 'passphrase' as const, since: 1000 }];
    const clients = since === null ? [] : [{ ...client, since }];
    aps[ap]!.say({ ...frame, report: { ...frame.report, clients, refused } });
  };
  const now = Date.now();
  const url = `/api/sites/${siteId}/air-clients`;
  const mine = ({ clients }: AirClientsView) => clients.find((each) => each.mac === mac);
  say(0, now - 60_000);
  await ada.until<AirClientsView>(url, (view) => mine(view)?.visits.length === 1);
  say(0, null);
  say(1, now);
  const view = await ada.until<AirClientsView>(url, (each) => mine(each)?.visits.length === 2);
  expect(mine(view)).toMatchObject({ deviceId: ids[1], band: '5', rate: 458 });
  expect(mine(view)!.visits.map(({ deviceId }) => deviceId)).toEqual([ids[1], ids[0]]);
  expect(view.refused.filter(({ deviceId }) => deviceId === ids[1])).toMatchObject([{ why: 'passphrase' }]);
  answers = (ap, command) => {
    if (command.type !== 'command') return;
    expect(command).toMatchObject({ name: 'disconnect', target: mac });
    aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: 'It was sent away.' });
  };
  expect(await ada.post(`/api/devices/${ids[1]}/disconnects`, { mac })).toEqual({
    ok: true,
    text: 'It was sent away.',
  });
  expect((await ada.ask('POST', `/api/devices/${ids[1]}/disconnects`, { mac: 'x' })).status).toBe(400);
});

test('of a slowest rate it is told whom of the last days it would leave out: by the best and the weakest that they heard', async () => {
  const url = `/api/sites/${siteId}/air-range`;
  const say = (ap: number, signals: Readonly<Record<string, number>>) => {
    const frame = reports(ap) as Extract<DeviceFrame, { type: 'report' }>;
    const clients = Object.entries(signals).map(([end, signal]) => {
      return { mac: `0e:00:00:00:0b:${end}`, ssid: 'Guests', vlan: 60, address: null, band: '6' as const, signal };
    });
    const radios = [{ band: '6' as const, state: 'on' as const, power: 20 }];
    aps[ap]!.say({ ...frame, report: { ...frame.report, clients, radios } });
  };
  const at = (ranges: readonly BandRange[], rate: number) => {
    const six = ranges.find(({ band }) => band === '6');
    return [six?.clients, six?.rates.find((each) => each.rate === rate)];
  };
  // Heard 5 dB louder than they are: who is heard at -80 hears -75, too weak for 24 Mb/s and good for 12.
  say(0, { '01': -60, '02': -80 });
  say(1, { '03': -80 });
  await ada.until<BandRange[]>(url, (ranges) => at(ranges, 24)[0] === 3);
  expect(at(await ada.get(url), 24)[1]).toEqual({ rate: 24, never: 2, sometimes: 0 });
  expect(at(await ada.get(url), 12)[1]).toEqual({ rate: 12, never: 0, sometimes: 0 });
  // The same one nearer, at another AP: it was near enough at times. The one that is far by now was near before.
  say(1, { '03': -50 });
  say(0, { '01': -85 });
  await ada.until<BandRange[]>(url, (ranges) => (at(ranges, 24)[1] as { never: number }).never === 1);
  expect(at(await ada.get(url), 24)).toEqual([3, { rate: 24, never: 1, sometimes: 2 }]);
  // A month later nobody remembers.
  await setting.controller.database.query(`UPDATE air_range SET day = day - 31`);
  expect(await ada.get(url)).toEqual([]);
});

test('a plan that comes again is taken in the window alone, where it is worth it, as a revision like any other', async () => {
  const url = `/api/sites/${siteId}/plan-recurrence`;
  expect(await ada.get(url)).toMatchObject({ on: false, by: null, lastAt: null });
  answers = (ap, command) => {
    if (command.type === 'command')
      aps[ap]!.say({ type: 'answer', id: command.id, ok: true, text: '', scan: heardBy(ap) });
  };
  await scan();
  await over();
  for (const ap of [0, 1]) aps[ap]!.say(reports(ap)); // both on 36
  const part = await partOf();
  const free = [0, 1].map((ap) => radioOf(ap, part[ids[ap]!]?.['5'] ?? null, null));
  await edit(free);
  await rollOut();
  const settings = { on: true, bands: ['5'], leastGain: 0.1, mostMoved: 10 };
  const asked = (more: object, who = ada) => who.ask('PATCH', url, { ...settings, ...more });
  expect((await asked({}, await setting.as('oli'))).status).toBe(403);
  expect((await asked({ leastGain: 2 })).status).toBe(400);
  // Its window is on another day: nothing is looked at.
  const day = new Date().getUTCDay();
  const window = (of: number) =>
    setting.controller.database.query(
      `UPDATE site SET update_window = '${JSON.stringify({ day: of, from: 0, minutes: 1440 })}' WHERE id = '${siteId}'`,
    );
  await window((day + 3) % 7);
  await asked({});
  await new Promise((resolve) => setTimeout(resolve, 300));
  expect((await ada.get(url)).lastAt).toBeNull();
  // In the window: more than may be moved at once is left alone, and that is said.
  await window(day);
  await asked({ mostMoved: 1, leastGain: 0.99 });
  const left = await ada.until<PlanRecurrenceView>(url, ({ last }) => last !== '');
  expect(left).toMatchObject({
    by: 'Ada',
    last: expect.stringMatching(/not worth moving|were allowed beforehand|among the findings/) as string,
  });
  // Once a window: nothing is looked at again before the next.
  await asked({});
  await new Promise((resolve) => setTimeout(resolve, 300));
  expect((await ada.get(url)).last).toBe(left.last);
  const again = () =>
    setting.controller.database.query(
      `UPDATE air_recurrence SET last_at = NULL, last = '' WHERE site_id = '${siteId}'`,
    );
  await again();
  await asked({});
  const refused = await ada.until<PlanRecurrenceView>(url, ({ last }) => last !== '');
  // The site has no gateway: an error among its findings stands against a rollout that nobody looked at.
  expect(refused.last).toMatch(/^Not taken: .*among the findings/);
  const drafts = await ada.get('/api/drafts');
  expect(drafts.map(({ name }: { name: string }) => name)).not.toContain('Channels of Quay');
  const rows = await setting.controller.database.query(`SELECT 1 FROM journal WHERE act = 'air.recurring-plan'`, {
    type: QueryTypes.SELECT,
  });
  expect(rows).toHaveLength(2);
  // With a gateway nothing stands against it.
  const gateway = new TestDevice(setting.controller.url, 'GW-7000', 'GW-4', '02:00:00:00:07:09');
  await gateway.call();
  void gateway.obey();
  aps.push(gateway);
  await ada.post(`/api/sites/${siteId}/claims`, { serials: [gateway.serial] });
  await again();
  await asked({});
  const taken = await ada.until<PlanRecurrenceView>(url, ({ last }) => last !== '');
  expect(taken.last).toMatch(/^Rolled out: \d radios? moved/);
  const revisions = await ada.until(
    `/api/revisions`,
    (all: { name: string }[]) => all.some(({ name }) => name === 'Channels of Quay'),
    20_000,
  );
  expect(revisions.length).toBeGreaterThan(0);
  await asked({ on: false });
});

test('every radio of the estate is listed as a draft has it, with what it does', async () => {
  const { id } = await ada.get('/api/drafts/current');
  const all: EstateRadio[] = await ada.get(`/api/drafts/${id}/radios`);
  const mine = all.filter((each) => each.siteId === siteId);
  expect(mine.map(({ band }) => band).sort()).toEqual(['2.4', '2.4', '5', '5']);
  const one = mine.find(({ deviceId, band }) => deviceId === ids[0] && band === '5')!;
  expect(one).toMatchObject({ site: 'Quay', on: true, fact: { state: 'on', channel: 36 }, clients: 1 });
  expect(one.said).toEqual((await partOf())[ids[0]!]?.['5'] ?? null);
  expect(one.may.channels).toContain(36);
  expect(one.may.widths).toEqual([20, 40, 80, 160]);
  const changed = (await ada.get('/api/radio-changes')) as RadioChange[];
  expect(changed.filter(({ deviceId }) => ids.includes(deviceId))).toEqual(
    expect.arrayContaining((await changes()) as unknown[]),
  );
});

test('while a site is rolled out no plan is made of what changes meanwhile', async () => {
  await edit([radioOf(0, (await partOf())[ids[0]!]?.['5'] ?? null, { channel: 44, width: 20 })]);
  const { id: draftId } = await ada.get('/api/drafts/current');
  const waves = held({ canary: 'device' });
  const { json } = await ada.ask('POST', '/api/rollouts', { draftId, despiteErrors: true, waves });
  if (json.id === undefined) throw new Error(json.title);
  const refused = await planned();
  expect([refused.status, refused.json.title]).toEqual([
    409,
    expect.stringContaining('is being rolled out at Quay') as string,
  ]);
  await ada.ask('POST', `/api/rollouts/${json.id}/stop`);
});
async function partOf(): Promise<NonNullable<SiteDraft['site']['radios']>> {
  const { site }: SiteDraft = await ada.get(`/api/drafts/current/sites/${siteId}`);
  return site.radios ?? {};
}
