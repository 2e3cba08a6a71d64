import { randomUUID } from 'node:crypto';
import type { GatewayDocument } from '@iron-lattice/core/document';
import type { Operation, Publication, RouteListPreview, Translation } from '@iron-lattice/core/intent';
import type { DeviceFrame, PathChange, PathReport } from '@iron-lattice/core/line';
import { MOST_REHEARSALS, type KeptRehearsal, type SitePathsView, type WorstFailure } from '@iron-lattice/core/paths';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let deviceId = '';
let runs = '';
let gateway: TestDevice;
const START = Date.parse('2026-05-04T08:00:00Z');

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  gateway = new TestDevice(setting.controller.url, 'GW-9001', 'GW-4', '02:00:00:00:09:01');
  await gateway.call();
  await ada.until('/api/calling', (list: { serial: string }[]) => list.some(({ serial }) => serial === gateway.serial));
  const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [gateway.serial] });
  deviceId = claimed[0].id;
  runs = await gateway.comply();
});
afterAll(async () => {
  gateway.hangUp();
  await setting.end();
});

const says = (uplinks: Partial<PathReport>[], changes: readonly PathChange[] = []): DeviceFrame => ({
  type: 'report',
  report: {
    ...{ address: '10.7.0.1', uptime: 60, neighbours: [], leases: [], counters: [], clients: [] },
    uplinks: uplinks.map((_, i) => ({ port: `wan${i + 1}`, up: true, address: `203.0.113.${i + 9}` })),
    paths: {
      counted: START,
      changes,
      uplinks: uplinks.map((one, i) => ({
        ...{ port: `wan${i + 1}`, state: 'good', since: START, used: i === 0, sessions: 0 },
        ...(i > 0 ? { standby: true } : {}),
        ...one,
      })),
    },
  },
});
const change = (at: number, port: string, what: PathChange['what'], uses: readonly string[]): PathChange => ({
  ...{ at: START + at * 1000, port, what, uses, why: what === 'gone' ? 'No answer 3 times in a row.' : '' },
});
const paths = (): Promise<SitePathsView> => ada.get(`/api/sites/${siteId}/paths`);
const leaves = async (): Promise<string | null> =>
  (await ada.get('/api/estate')).sites.find(({ id }: { id: string }) => id === siteId).paths;

const edit = async (operations: readonly Operation[], secrets: Record<string, string> = {}) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
};

describe('how a site leaves', () => {
  test('is what its gateway last told, at the site and in the list of sites', async () => {
    gateway.say(says([{ delay: 9, jitter: 1, loss: 0 }, {}]));
    const first = await ada.until(`/api/sites/${siteId}/paths`, ({ gateways }: SitePathsView) => gateways.length === 1);
    expect(first.gateways[0]).toMatchObject({
      ...{ deviceId, state: 'whole', counted: '2026-05-04T08:00:00.000Z' },
      uplinks: [
        { port: 'wan1', state: 'good', used: true, address: '203.0.113.9', delay: 9 },
        { port: 'wan2', standby: true, used: false },
      ],
    });
    expect(await leaves()).toBe('whole');
    gateway.say(says([{ state: 'gone', used: false }, { used: true }], [change(60, 'wan1', 'gone', ['wan2'])]));
    const then = await ada.until(
      `/api/sites/${siteId}/paths`,
      ({ gateways }: SitePathsView) => gateways[0]?.state === 'standby',
    );
    expect(then.changes).toEqual([
      {
        ...{ deviceId, at: '2026-05-04T08:01:00.000Z', port: 'wan1', what: 'gone', uses: ['wan2'] },
        why: 'No answer 3 times in a row.',
      },
    ]);
    expect(await leaves()).toBe('standby');
  });

  test('each change is kept once, however often it is told, and stands in the history of the gateway', async () => {
    const all = [
      change(60, 'wan1', 'gone', ['wan2']),
      change(120, 'wan1', 'back', ['wan2']),
      change(150, '', 'used', ['wan1']),
    ];
    gateway.say(says([{}, {}], all));
    gateway.say(says([{}, {}], all));
    gateway.hangUp();
    await gateway.call(runs);
    gateway.say(says([{}, {}], all));
    await ada.until(`/api/sites/${siteId}/paths`, ({ gateways }: SitePathsView) => gateways[0]?.state === 'whole');
    expect((await paths()).changes.map(({ what }) => what)).toEqual(['used', 'back', 'gone']);
    const history = await ada.until(`/api/devices/${deviceId}/history`, (entries: { words: string }[]) =>
      entries.some((entry) => /leaves by wan1/.test(entry.words)),
    );
    const words = history.map((entry) => entry.words).filter((entry) => /plink|leaves/.test(entry));
    expect(words).toEqual([
      'It leaves by wan1.',
      'Uplink wan1 is good again. It leaves by wan2.',
      'Uplink wan1 is gone: No answer 3 times in a row. It leaves by wan2.',
    ]);
  });

  test('and what becomes of it when an uplink fails, at worst, is told for all sites', async () => {
    const mine = async (most: number): Promise<WorstFailure> =>
      (await ada.get(`/api/failures?most=${most}`)).find((each: WorstFailure) => each.deviceId === deviceId);
    // The provider’s router is asked every five seconds: 17 s at worst until the other is used.
    expect(await mine(1)).toMatchObject({ siteId, uplinks: 2, good: 2, ports: ['wan1'], what: 'silent', stays: true });
    expect((await mine(1)).longest).toBeCloseTo(17, 1);
    expect(await mine(2)).toMatchObject({ ports: ['wan1', 'wan2'], stays: false });
    expect((await ada.ask('GET', '/api/failures?most=9')).status).toBe(400);
  });

  test('what leaves otherwise is told with it, and two courses that change at one moment are both written down', async () => {
    const frame = says(
      [{}, {}],
      [
        { ...change(160, '', 'steered', ['wan2']), course: 'Tickets' },
        { ...change(160, '', 'steered', []), course: 'Calls' },
      ],
    );
    const report = (frame as { report: { paths: object } }).report;
    const courses = [{ id: randomUUID(), uses: ['wan2'], meets: true, usual: false, sessions: [] }];
    gateway.say({ type: 'report', report: { ...report, paths: { ...report.paths, courses } } } as never);
    const told = await ada.until(`/api/sites/${siteId}/paths`, ({ gateways }: SitePathsView) =>
      Boolean(gateways[0]?.courses),
    );
    expect(told.gateways[0]!.courses).toEqual(courses);
    const steered = told.changes.filter(({ what }) => what === 'steered');
    expect(steered.map(({ course, uses }) => `${course} ${uses.join()}`).sort()).toEqual(['Calls ', 'Tickets wan2']);
    const history: { words: string }[] = await ada.get(`/api/devices/${deviceId}/history`);
    expect(history.map(({ words }) => words)).toContain('The course “Tickets” leaves otherwise. It leaves by wan2.');
    gateway.say(says([{}, {}]));
  });

  test('what each uplink carried is added up, also over a gateway that was switched off in between', async () => {
    const carried = async (of: number): Promise<number> => {
      const { gateways } = await ada.until(
        `/api/sites/${siteId}/paths`,
        (view: SitePathsView) => view.gateways[0]?.uplinks[0]?.octets?.down === of,
      );
      return gateways[0]!.uplinks[0]!.carried!.octets;
    };
    const counts = (down: number, up: number) => gateway.say(says([{ octets: { down, up } }, {}]));
    // What passed before anybody looked is not known to be of this month.
    counts(5_000_000, 1000);
    expect(await carried(5_000_000)).toBe(0);
    counts(7_000_000, 3000);
    expect(await carried(7_000_000)).toBe(2_002_000);
    counts(7_000_000, 3000);
    counts(100, 50);
    expect(await carried(100)).toBe(2_002_150);
    const { gateways } = await paths();
    // It is counted since today, however long ago the month began.
    expect(Date.now() - Date.parse(gateways[0]!.uplinks[0]!.carried!.since)).toBeLessThan(2 * 86_400_000);
    expect(gateways[0]!.rate).toBeGreaterThan(0);
  });

  test('one that flaps is written down so often an hour, and no more', async () => {
    for (let i = 0; i < 8; i++) {
      const from = 1000 + i * 100;
      const many = Array.from({ length: 40 }, (_, n) =>
        change(from + n, 'wan2', n % 2 === 0 ? 'gone' : 'back', ['wan1']),
      );
      gateway.say(says([{}, {}], many));
    }
    gateway.say(says([{}, { state: 'gone' }]));
    await ada.until(`/api/sites/${siteId}/paths`, ({ gateways }: SitePathsView) => gateways[0]?.state === 'lost');
    expect((await paths()).changes.length).toBeLessThanOrEqual(125);
    expect(await leaves()).toBe('lost');
  });
});

describe('what is said of uplinks', () => {
  test.each([
    [
      'a gateway outside of the subnet',
      { way: 'static', fixed: { address: '203.0.113.11/29', gateway: '203.0.113.20' } },
      /outside of its subnet/,
    ],
    [
      'an interval shorter than the timeout',
      { watch: { interval: 1, losses: 3, timeout: 2, good: 1, hold: 0, targets: [{ by: 'ping', to: 'gateway' }] } },
      /shorter than an answer is waited for/,
    ],
    ['a weight of nothing for all', { role: 'standby' }, /weights are 0|take a share/],
  ])('%s is refused in words', async (_what, to, words) => {
    const from = null;
    const second = {
      type: 'uplink.set',
      siteId,
      deviceId,
      port: 'wan2',
      from: null,
      to: { weight: 0, role: 'shares' },
    };
    const wanted = { type: 'uplink.set', siteId, deviceId, port: 'wan1', from, to };
    const { status, json } = await edit((_what.startsWith('a weight') ? [second, wanted] : [wanted]) as never);
    expect([status, JSON.stringify(json)]).toEqual([422, expect.stringMatching(words)]);
  });

  test('becomes the gateway’s document, with the provider’s password as a secret beside it', async () => {
    const secret = randomUUID();
    const to = { way: 'pppoe', title: 'Tidewire', vlan: 7, login: { user: 'skerrow', password: { secret } } } as const;
    const done = await edit([{ type: 'uplink.set', siteId, deviceId, port: 'wan1', from: null, to }], {
      [secret]: 'gull feather 3',
    });
    expect(done.status).toBe(200);
    const second = { role: 'shares', weight: 3, watch: { ...WATCH, interval: 2 } } as const;
    expect(await edit([{ type: 'uplink.set', siteId, deviceId, port: 'wan2', from: null, to: second }])).toMatchObject({
      status: 200,
    });
    await edit([{ type: 'uplink.leaving', siteId, deviceId, from: null, to: { back: 'hand' } }]);
    const { id: draftId } = await ada.get('/api/drafts/current');
    expect(await ada.ask('POST', '/api/rollouts', { draftId, despiteErrors: true })).toMatchObject({ status: 201 });
    let frame = await gateway.next('document');
    while ((frame.document as GatewayDocument).leaving === undefined) frame = await gateway.next('document');
    const { uplinks, leaving } = frame.document as GatewayDocument;
    expect(uplinks).toEqual([
      {
        ...{ port: 'wan1', method: 'pppoe', translate: true, vlan: 7 },
        login: { user: 'skerrow', password: { secret } },
      },
      { port: 'wan2', method: 'dhcp', translate: true, weight: 3, watch: { ...WATCH, interval: 2 } },
    ]);
    expect([leaving, frame.secrets]).toEqual([{ back: 'hand' }, { [secret]: 'gull feather 3' }]);
    gateway.say({ type: 'applied', hash: frame.hash });
    await gateway.next('keep');
    gateway.say({ type: 'kept', hash: frame.hash });
    await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done');
  });
});

test('how it leaves can be had as files for Linux, with the routers that providers gave', async () => {
  const { id } = await ada.get('/api/drafts/current');
  const text = async (format: string): Promise<string> =>
    (await ada.fetch('GET', `/api/drafts/${id}/sites/${siteId}/gateways/${deviceId}/uplinks/${format}`)).text();
  expect(await text('iproute2')).toMatch(
    /^#!\/bin\/sh\n# How \S+ leaves[^]*default nexthop dev wan1 weight 1 nexthop dev wan2 weight 3$/m,
  );
  expect(await text('nft')).toContain('oifname "wan1" meta nfproto ipv4 masquerade');
  const { site } = await ada.get(`/api/drafts/${id}/sites/${siteId}`);
  const home = site.segments.find((each: { id: string }) => each.id !== site.managementId) ?? site.segments[0];
  const address = home.subnet.replace(/\d+\/\d+$/, '77');
  const publication: Publication = {
    ...{ id: randomUUID(), deviceId, name: 'Shop', ports: ['wan2'], protocol: 'tcp', outside: '443', inside: 8443 },
    ...{ address, from: [{ kind: 'internet' }] },
  };
  const translation: Translation = {
    ...{ id: randomUUID(), deviceId, name: 'Pool', turn: 1, port: 'wan1', from: [{ kind: 'any' }] },
    ...{ to: [{ kind: 'internet' }], as: 'pool', pool: '203.0.113.90/31' },
  };
  await edit([
    { type: 'publication.add', siteId, publication },
    { type: 'translation.add', siteId, translation },
  ]);
  const told = await text('nft');
  expect(told).toContain(`tcp dport 443 counter dnat ip to ${address}:8443`);
  expect(told).toContain('snat ip to 203.0.113.90-203.0.113.91 persistent');
  expect(await text('iproute2')).toContain('# Answers to what came in by wan2');
  expect(await text('tc')).not.toContain('htb rate');
  const kept = { down: 50, up: 10, below: 90 };
  const { site: now } = await ada.get(`/api/drafts/${id}/sites/${siteId}`);
  const [from, leaving] = [now.uplinks[deviceId].wan2 ?? null, now.leaving?.[deviceId] ?? null];
  await edit([
    { type: 'uplink.set', siteId, deviceId, port: 'wan2', from, to: { ...from, ...kept } },
    { type: 'uplink.leaving', siteId, deviceId, from: leaving, to: { ...leaving, parts: { [home.id]: 3 } } },
  ]);
  const shares = await text('tc');
  expect(shares).toContain('tc class add dev wan2 parent 1: classid 1:100 htb rate 9000kbit ceil 9000kbit');
  expect(shares).toContain(`oifname "wan2" ip saddr ${home.subnet.split('/')[0]}`);
  const { status } = await ada.ask('GET', `/api/drafts/${id}/sites/${siteId}/gateways/${siteId}/uplinks/nft`);
  expect(status).toBe(404);
});

test('routes are brought as a list, looked at row by row; they can be had as CSV again, and as a file for Linux', async () => {
  const { id } = await ada.get('/api/drafts/current');
  const at = `/api/drafts/${id}/sites/${siteId}/gateways/${deviceId}`;
  const { site } = await ada.get(`/api/drafts/${id}/sites/${siteId}`);
  const neighbour = site.segments[0].subnet.replace(/\d+\/\d+$/, '5');
  const csv = `name,for,goes,metric\nWorks,172.20.0.0/16,${neighbour},\nBackup,172.20.0.0/16,wan1,20\nLost,172.21.0.0/16,192.0.2.1,\n`;
  const seen = (await ada.upload(`${at}/route-list`, csv)).json as RouteListPreview;
  expect(seen.rows.map(({ good, flaws }) => good?.name ?? flaws[0]!.code)).toEqual([
    ...['Works', 'Backup', 'route.off-link'],
  ]);
  expect((await edit(seen.operations)).status).toBe(200);
  const again = (await ada.upload(`${at}/route-list`, csv)).json as RouteListPreview;
  expect(again.operations).toEqual([]);
  const text = async (path: string): Promise<string> => (await ada.fetch('GET', `${at}/${path}`)).text();
  expect(await text('routes')).toContain(`Works,172.20.0.0/16,${neighbour},,`);
  expect(await text('uplinks/iproute2')).toContain(`ip route replace 172.20.0.0/16 metric 1 via ${neighbour}`);
  expect(JSON.parse(await text('uplinks/ietf'))['ietf-routing:routing']).toBeDefined();
  expect(await text('uplinks/ietf')).toContain(`"next-hop-address": "${neighbour}"`);
  expect((await ada.upload(`/api/drafts/${id}/sites/${siteId}/gateways/${siteId}/route-list`, csv)).status).toBe(404);
  const oli = await setting.as('oli');
  expect((await oli.upload(`${at}/route-list`, csv)).status).toBe(403);
});

describe('rehearsals that are kept', () => {
  const mishaps = [{ what: 'silent', port: 'wan1', from: 30, to: 90 }];
  const keep = (more: object = {}) =>
    ada.ask('POST', `/api/devices/${deviceId}/rehearsals`, { name: 'Silent', mishaps, most: 5, ...more });
  const kept = (): Promise<KeptRehearsal[]> => ada.get(`/api/sites/${siteId}/rehearsals`);

  test('say whether somebody waits too long, and again after each rollout; each name is kept once', async () => {
    expect((await keep()).status).toBe(201);
    const [first] = await kept();
    // Both share by now: half of the sessions wait until it is noticed.
    expect(first).toMatchObject({ name: 'Silent', most: 5, by: expect.any(String), runs: [{ passed: false }] });
    expect(first!.runs[0]!.worst).toBeCloseTo(17, 0);
    expect((await keep({ most: 40 })).status).toBe(201);
    const [again, ...others] = await kept();
    expect([again!.id, again!.runs.map(({ passed }) => passed), others]).toEqual([first!.id, [true, false], []]);
    const { id, head } = await ada.get('/api/drafts/current');
    const quick = { role: 'shares', weight: 3, watch: { ...WATCH, interval: 20 } };
    const slow = { ...WATCH, interval: 60 };
    const site = (await ada.get(`/api/drafts/${id}/sites/${siteId}`)).site;
    const said = site.uplinks[deviceId].wan1;
    const operations = [
      { type: 'uplink.set', siteId, deviceId, port: 'wan1', from: said, to: { ...said, watch: slow } },
      { type: 'uplink.set', siteId, deviceId, port: 'wan2', from: site.uplinks[deviceId].wan2, to: quick },
    ];
    await ada.post(`/api/drafts/${id}/operations`, { head, operations, secrets: {} });
    await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
    await gateway.comply();
    const after = await ada.until(`/api/sites/${siteId}/rehearsals`, ([one]: KeptRehearsal[]) => one!.runs.length > 2);
    expect(after[0]!.runs[0]).toMatchObject({ passed: false, revision: expect.any(Number) });
    const history: { words: string }[] = await ada.get(`/api/devices/${deviceId}/history`);
    expect(history.map(({ words }) => words).join()).toMatch(/kept rehearsal “Silent” would have somebody wait \d+ s/);
  });

  test('are refused in words where they cannot be: another uplink, no time, too many', async () => {
    const words = async (more: object) => {
      const { status, json } = await keep(more);
      return `${status} ${JSON.stringify(json)}`;
    };
    expect(await words({ mishaps: [{ ...mishaps[0], port: 'wan9' }] })).toMatch(/^422 .*no uplink wan9/);
    expect(await words({ name: ' ' })).toMatch(/^400/);
    expect(await words({ most: -1 })).toMatch(/^400/);
    for (let i = 0; i < MOST_REHEARSALS - 1; i++) await keep({ name: `More ${i}` });
    expect(await words({ name: 'One more' })).toMatch(/^422 .*rehearsals at most/);
    const [one] = await kept();
    expect((await ada.ask('DELETE', `/api/sites/${siteId}/rehearsals/${one!.id}`)).status).toBeLessThan(300);
    expect((await ada.ask('DELETE', `/api/sites/${siteId}/rehearsals/${one!.id}`)).status).toBe(404);
    expect(await kept()).toHaveLength(MOST_REHEARSALS - 1);
  });

  test('can be seen by observers, and kept by those who change alone', async () => {
    const observer = await setting.as('oli');
    expect(await observer.get(`/api/sites/${siteId}/rehearsals`)).toHaveLength(MOST_REHEARSALS - 1);
    const body = { name: 'Mine', mishaps, most: 5 };
    expect((await observer.ask('POST', `/api/devices/${deviceId}/rehearsals`, body)).status).toBe(403);
    expect((await observer.ask('POST', `/api/devices/${deviceId}/drills`, { mishaps })).status).toBe(403);
  });
});

const WATCH = {
  ...{ interval: 5, losses: 3, timeout: 1, good: 3, hold: 15 },
  targets: [{ by: 'ping' as const, to: 'gateway' }],
};

test('an uplink without an address is listed among what goes wrong, with why, until it has one', async () => {
  const listed = async () => {
    const { hitches } = await ada.get('/api/hitches');
    return hitches
      .filter(({ code }: { code: string }) => code === 'uplink')
      .map(({ reason }: { reason: string }) => reason);
  };
  gateway.say(says([{}, { state: 'none', why: 'The provider turns the name and the password down.' }]));
  await expect
    .poll(listed)
    .toEqual(['An uplink has no address: wan2 (The provider turns the name and the password down).']);
  // Looked at again it is listed again while nothing changed.
  const { hitches } = await ada.get('/api/hitches');
  await ada.post(`/api/hitches/${hitches.find(({ code }: { code: string }) => code === 'uplink').id}/retry`, {});
  await gateway.untilClosed();
  expect(await listed()).toEqual([]);
  await gateway.call(runs);
  gateway.say(says([{}, { state: 'none', why: 'The provider turns the name and the password down.' }]));
  await expect.poll(listed).toHaveLength(1);
  gateway.say(says([{}, { state: 'unplugged' }]));
  await expect.poll(listed).toEqual([]);
});
