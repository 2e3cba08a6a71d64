import { parseIp } from '@iron-lattice/core/address';
import type { CourseDocument, GatewayDocument, UplinkDocument } from '@iron-lattice/core/document';
import { readDeviceFrame } from '@iron-lattice/core/line';
import { isFairlyShared, type CourseReport, type Flow } from '@iron-lattice/core/paths';
import { describe, expect, test } from 'vitest';
import { factoryDocument } from '../world/factory-document';
import type { WorldProvider } from './provider-file';
import { GatewayPaths } from './gateway-paths';
import { Providers } from './providers';

const FILE: { readonly providers: readonly WorldProvider[] } = {
  providers: [
    { name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' }, latency: 10 },
    { name: 'Hillcrest Line', gives: { 'GW:wan2': '198.51.100.9' }, latency: 20 },
  ],
};
const gateway = factoryDocument({ serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' });
const document = (uplinks: readonly Partial<UplinkDocument>[] = [{}, {}], more: Partial<GatewayDocument> = {}) => ({
  ...(gateway as GatewayDocument),
  uplinks: uplinks.map((each, i): UplinkDocument => ({
    port: `wan${i + 1}`,
    method: 'dhcp',
    translate: true,
    ...each,
  })),
  ...more,
});
function setUp(runs = document(), chance = 0.5) {
  const providers = new Providers(FILE, () => chance);
  const paths = new GatewayPaths('GW', '02:00:00:00:00:01', providers, () => {}, false);
  paths.run(runs, {}, 0);
  let at = 0;
  return {
    providers,
    paths,
    /** So many rounds of questions, five seconds apart. */
    rounds: (count: number): void => {
      for (let i = 0; i < count; i++) paths.checkAll((at += 5000));
    },
    used: () =>
      paths
        .used(at)
        .map(({ port }) => port)
        .join(' '),
    states: () => paths.report(at).uplinks.map(({ state }) => state),
    changes: () => paths.report(at).changes.map(({ what, port, uses }) => `${what} ${port}: ${uses.join(' ')}`),
    set: (name: string, change: Parameters<Providers['set']>[1]): void => {
      providers.set(name, change);
      paths.look(at);
    },
  };
}
const flow = (sourcePort: number): Flow => ({
  ...{ protocol: 6, source: parseIp('10.9.10.20')!, destination: parseIp('203.0.113.80')!, port: 443 },
  sourcePort,
});

describe('a gateway with two providers', () => {
  test('leaves by the first while anything answers there, by the other once nothing did three times, and back after its time', () => {
    const { rounds, used, states, changes, set, paths } = setUp();
    rounds(2);
    expect([used(), states()]).toEqual(['wan1', ['good', 'good']]);
    set('Tidewire', { silent: true });
    rounds(2);
    expect([used(), paths.works(10_000)]).toEqual(['wan1', false]); // not noticed yet, and nobody is served
    rounds(1);
    expect([used(), states()]).toEqual(['wan2', ['gone', 'good']]);
    set('Tidewire', { silent: false });
    rounds(3);
    expect(states()[0]).toBe('gone'); // good for 10 s of 15
    rounds(1);
    expect([used(), states()]).toEqual(['wan2', ['waits', 'good']]);
    rounds(7);
    expect([used(), states()]).toEqual(['wan1', ['good', 'good']]);
    expect(changes()).toEqual(['gone wan1: wan2', 'back wan1: wan2', 'used : wan1']);
  });

  test('sees at once that a link is down, and tries what has one where nothing is good', () => {
    const { used, states, set, paths, changes } = setUp();
    set('Tidewire', { up: false });
    expect([used(), states(), changes()]).toEqual(['wan2', ['none', 'good'], ['gone wan1: wan2']]);
    expect(paths.report(0).uplinks[0]).toMatchObject({ why: 'No link.' });
    set('Hillcrest Line', { up: false });
    expect([used(), paths.works(0)]).toEqual(['', false]);
    set('Tidewire', { up: true });
    expect([used(), paths.works(0)]).toEqual(['wan1', true]);
  });

  test('tells what the controller takes', () => {
    const { rounds, set, paths, changes } = setUp(document(), 0.317); // answers come after parts of milliseconds
    set('Tidewire', { silent: true });
    rounds(3);
    set('Tidewire', { silent: false });
    rounds(5);
    // And once nothing is left to leave by.
    for (const name of ['Tidewire', 'Hillcrest Line']) set(name, { up: false });
    expect(changes().at(-1)).toBe('gone wan2: ');
    const report = {
      ...{ address: null, uptime: 1, neighbours: [], uplinks: [], clients: [], leases: [], counters: [] },
      paths: paths.report(60_000),
    };
    expect(readDeviceFrame(JSON.stringify({ type: 'report', report }))).toMatchObject({ ok: true });
  });

  test('counts one target that does not answer for nothing as long as another does', () => {
    const watch = {
      ...{
        targets: [
          { by: 'ping' as const, to: '192.0.2.1' },
          { by: 'ping' as const, to: '192.0.2.2' },
        ],
      },
      ...{ interval: 5, losses: 2, timeout: 1, good: 1, hold: 0 },
    };
    const { rounds, set, used } = setUp(document([{ watch }, {}]));
    set('Tidewire', { gone: ['192.0.2.1'] });
    rounds(5);
    expect(used()).toBe('wan1');
    set('Tidewire', { gone: ['192.0.2.1', '192.0.2.2'] });
    rounds(2);
    expect(used()).toBe('wan2');
  });

  test('takes an answer that comes too late for none', () => {
    const { rounds, set, used } = setUp();
    set('Tidewire', { delay: 1900 });
    rounds(5);
    expect(used()).toBe('wan1');
    set('Tidewire', { delay: 2500 });
    rounds(3);
    expect(used()).toBe('wan2');
  });

  test('shares sessions by weight, leaves them where they are, and moves those of one that is gone alone', () => {
    const { paths, set } = setUp(document([{ weight: 3 }, { weight: 1 }]));
    const where = (): (string | undefined)[] =>
      Array.from({ length: 2000 }, (_, i) => paths.by(flow(20_000 + i), 0)?.port);
    const first = where();
    const count = (list: readonly unknown[]): number[] =>
      ['wan1', 'wan2'].map((port) => list.filter((each) => each === port).length);
    expect(isFairlyShared(count(first), [3, 1])).toBe(true);
    expect(where()).toEqual(first);
    expect(paths.report(0).uplinks.map(({ sessions }) => sessions)).toEqual(count(first));
    set('Hillcrest Line', { up: false });
    const then = where();
    expect(count(then)).toEqual([2000, 0]);
    expect(then.every((port, i) => port === first[i] || first[i] === 'wan2')).toBe(true);
    // What began on the other stays there once the first is back.
    set('Hillcrest Line', { up: true });
    expect(count(where())).toEqual([2000, 0]);
  });

  test('what is said by hand brings an uplink back that waits for it', () => {
    const { rounds, set, used, paths } = setUp(document([{}, {}], { leaving: { back: 'hand' } }));
    set('Tidewire', { up: false });
    set('Tidewire', { up: true });
    rounds(20);
    expect(used()).toBe('wan2');
    paths.bringBack(200_000);
    expect(used()).toBe('wan1');
  });
});

describe('a gateway with courses', () => {
  const course = (name: string, more: Partial<CourseDocument> = {}): CourseDocument => ({
    ...{
      id: name,
      name,
      from: ['any'],
      to: ['any'],
      services: [{ protocol: 'any' }],
      ways: [{ port: 'wan1', turn: 0 }],
    },
    ...more,
  });
  const tickets = course('Tickets', { from: ['10.9.20.0/24'], otherwise: 'nothing' });
  const calls = course('Calls', {
    dscp: [46],
    ways: [
      { port: 'wan2', turn: 0 },
      { port: 'wan1', turn: 1 },
    ],
    needs: { latency: 200 },
    steady: { bad: 2, good: 4, margin: 0.1 },
  });
  const runs = document([{}, {}], { courses: [tickets, calls] });
  const from = (source: string, sourcePort: number, dscp = 0): Flow => ({
    ...flow(sourcePort),
    source: parseIp(source)!,
    dscp,
  });
  const courses = ({ paths }: ReturnType<typeof setUp>) =>
    paths.report(0).courses!.map(({ id, uses, meets }) => `${id} ${uses.join()} ${meets}`);

  test('has those leave by what they may alone, and what fits none as the rest does', () => {
    const it = setUp(runs);
    const by = (one: Flow): string => it.paths.by(one, 0)?.port ?? 'nothing';
    expect([by(from('10.9.20.5', 1)), by(from('10.9.10.5', 2)), by(from('10.9.10.5', 3, 46))]).toEqual([
      'wan1',
      'wan1',
      'wan2',
    ]);
    it.set('Tidewire', { up: false });
    expect([by(from('10.9.20.5', 1)), by(from('10.9.20.5', 4)), by(from('10.9.10.5', 2))]).toEqual([
      'nothing',
      'nothing',
      'wan2',
    ]);
    expect(courses(it)).toEqual(['Tickets  false', 'Calls wan2 true']);
    expect(
      it.paths.report(0).changes.map(({ what, course: name, uses }) => `${what} ${name ?? ''} ${uses.join()}`),
    ).toEqual(['gone  wan2', 'steered Tickets ']);
    // Sessions of courses are counted with them, and not among those of the rest.
    const { uplinks, courses: told } = it.paths.report(0);
    expect(told![1]!.sessions).toEqual([{ port: 'wan2', sessions: 1 }]);
    expect(uplinks.map(({ sessions }) => sessions)).toEqual([0, 1]);
    // Octets go with sessions, whichever uplink they left by; a document that says the same counts on.
    const parts = told!.map(({ part }) => part!);
    expect(parts.every((part) => part > 0 && part < 1)).toBe(true);
    expect(parts[0]! + parts[1]!).toBeLessThan(1);
    it.paths.run({ ...runs, translations: [] }, {}, 1);
    expect(it.paths.report(0).courses!.map(({ part }) => part)).toEqual(parts);
  });

  test('steers what needs to be quick away from what is slow, once it was so twice, and back only when it is well', () => {
    const it = setUp(runs);
    it.rounds(25);
    it.set('Hillcrest Line', { delay: 1500 });
    const seen = Array.from({ length: 30 }, () => (it.rounds(1), courses(it)[1]!));
    const left = seen.indexOf('Calls wan1 true');
    // The mean of the latest rounds has to be beyond what is needed, twice in a row.
    expect(left).toBeGreaterThan(1);
    expect(it.states()).toEqual(['good', 'good']);
    it.set('Hillcrest Line', { delay: 0 });
    it.rounds(3);
    expect(courses(it)[1]).toBe('Calls wan1 true');
    it.rounds(30);
    expect(courses(it)[1]).toBe('Calls wan2 true');
    const steered = it.paths.report(0).changes.filter(({ what }) => what === 'steered');
    expect(steered.map(({ uses }) => uses.join())).toEqual(['wan1', 'wan2']);
  });

  test('shares what may leave by several by their weights', () => {
    const ways = [{ port: 'wan1' }, { port: 'wan2' }];
    const it = setUp(document([{ weight: 3 }, { weight: 1 }], { courses: [course('All', { ways })] }));
    for (let i = 0; i < 4000; i++) it.paths.by(flow(1000 + i), 0);
    const [{ sessions }] = it.paths.report(0).courses as [CourseReport];
    const count = (port: string): number => sessions.find((each) => each.port === port)?.sessions ?? 0;
    expect(isFairlyShared([count('wan1'), count('wan2')], [3, 1])).toBe(true);
    expect(
      readDeviceFrame(JSON.stringify({ type: 'report', report: { ...REPORT, paths: it.paths.report(0) } })),
    ).not.toBeNull();
  });
});

const REPORT = {
  ...{ address: '10.7.0.1', uptime: 60, neighbours: [], uplinks: [], leases: [], counters: [], clients: [] },
};

describe('an uplink is given an address', () => {
  const given = (uplink: Partial<UplinkDocument>, asks: object, secrets: Record<string, string> = {}) => {
    const provider = { name: 'P', gives: { 'GW:wan1': '203.0.113.10' }, router: { 'GW:wan1': '203.0.113.14' }, asks };
    const all = new Providers({ providers: [provider] });
    return all.given('GW:wan1', { port: 'wan1', method: 'dhcp', translate: true, ...uplink }, secrets);
  };
  const fixed = { address: '203.0.113.10/29', gateway: '203.0.113.14' };
  const login = { user: 'skerrow', password: { secret: 's' } };

  test.each([
    ['by DHCP', {}, {}, null],
    ['where no DHCP answers', {}, { fixed: true }, 'Nobody answers by DHCP.'],
    ['as agreed', { method: 'static', fixed }, { fixed: true }, null],
    [
      'with another gateway',
      { method: 'static', fixed: { ...fixed, gateway: '203.0.113.13' } },
      {},
      /gateway that was said/,
    ],
    [
      'with another address',
      { method: 'static', fixed: { ...fixed, address: '203.0.113.11/29' } },
      {},
      /gateway that was said/,
    ],
    ['tagged', { vlan: 7 }, { vlan: 7 }, null],
    ['untagged where a tag is wanted', {}, { vlan: 7 }, 'Nobody answers untagged.'],
    ['tagged where none is', { vlan: 7 }, {}, 'Nobody answers in VLAN 7.'],
    ['by PPPoE', { method: 'pppoe', login }, { login: { user: 'skerrow', password: 'gull' } }, null],
    [
      'with a wrong password',
      { method: 'pppoe', login },
      { login: { user: 'skerrow', password: 'tern' } },
      /turns the name/,
    ],
    ['by DHCP where PPPoE is wanted', {}, { login: { user: 'a', password: 'b' } }, 'Nobody answers by DHCP.'],
    ['at its access point', { method: 'cellular', apn: 'sea.example' }, { apn: 'sea.example' }, null],
    ['at another', { method: 'cellular', apn: 'land.example' }, { apn: 'sea.example' }, /no access point land.example/],
  ] as const)('%s', (_what, uplink, asks, why) => {
    const got = given(uplink, asks, { s: 'gull' });
    if (why === null) expect(got).toEqual({ address: '203.0.113.10', gateway: '203.0.113.14', dns: ['203.0.113.14'] });
    else expect('why' in got ? got.why : '').toMatch(why);
  });
});

test('a measurement while all are busy is carried by the uplink, and counted; one that is kept to nothing is not measured', () => {
  const { paths, providers } = setUp(document([{ shape: { down: 40_000, up: 8000 } }, {}]));
  const octets = () => paths.report(0).uplinks[0]!.octets!;
  const before = octets();
  const capacity = providers.capacityOf('GW:wan1')!;
  expect(paths.playBusy('wan1', [10, 20], capacity)).toHaveLength(2);
  // Three seconds of what it is kept to.
  expect((octets().down - before.down) / 15e6).toBeCloseTo(1, 1);
  expect((octets().up - before.up) / 3e6).toBeCloseTo(1, 1);
  expect(paths.playBusy('wan2', [10], capacity)).toMatch('wan2 is kept to nothing');
});
