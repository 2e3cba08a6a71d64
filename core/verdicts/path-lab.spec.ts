import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { parseIp } from '../src/address';
import {
  coursePicker,
  courseRule,
  ledTo,
  translator,
  type CourseDocument,
  type PublishedDocument,
  type TranslationDocument,
} from '../src/document';
import {
  iproute2Of,
  nftablesOfUplinks,
  type LinuxCourse,
  type LinuxPublished,
  type LinuxTranslation,
  type LinuxRoute,
  type LinuxUplink,
} from '../src/formats';
import { flowBetween, shareVerdict } from '../src/paths';
import { KeptTable, linesTo } from '../src/routing';
import { packetRuleOf, readAddresses } from '../src/rules';
import { randomFrom } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/path-lab.py', import.meta.url));
const seed = Number(process.env['SEED'] ?? 1);

/** Uplinks as the lab has them: an address of the provider’s subnet, and its router. */
const ADDRESSES: Readonly<Record<string, { readonly address: string; readonly gateway: string }>> = {
  wan1: { address: '203.0.113.11/29', gateway: '203.0.113.9' },
  wan2: { address: '198.51.100.12/24', gateway: '198.51.100.1' },
  cell: { address: '192.0.2.5/24', gateway: '192.0.2.1' },
};
const uplink = (port: string, more: Partial<LinuxUplink> = {}): LinuxUplink => ({
  ...{ port, gateway: ADDRESSES[port]!.gateway, weight: 1, standby: null, translate: true },
  ...more,
});
/** The same of IPv6; and all that is inside. */
const ADDRESSES6: Readonly<Record<string, string>> = { wan1: '2001:db8:f1::9/64', wan2: '2001:db8:f2::9/64' };
const INSIDE6 = '2001:db8:8000::/33';
interface Sent {
  readonly from: string;
  readonly to: string;
  readonly protocol: number;
  readonly port: number;
  readonly sourcePort: number;
  readonly dscp?: number;
  /** The uplink that it comes in by; absent: it comes from inside. */
  readonly at?: string;
}
interface Left {
  readonly port: string | null;
  readonly source: string | null;
  readonly destination: string | null;
  readonly dport: number | null;
}
const course = (name: string, more: Partial<CourseDocument> = {}): CourseDocument => ({
  ...{ id: name, name, from: ['any'], to: ['any'], services: [{ protocol: 'any' }] },
  ...{ ways: [{ port: 'wan1', turn: 0 }], ...more },
});
const linux = (told: CourseDocument): LinuxCourse => {
  const { ports, how, otherwise } = courseRule(told);
  const packets = packetRuleOf({ ...told, verdict: 'allow' });
  return { name: told.name, packets, ...(told.dscp ? { dscp: told.dscp } : {}), ports, how, otherwise };
};

/** By which uplink the kernel has each packet leave, and with which address. */
function kernelLeaves(
  uplinks: readonly LinuxUplink[],
  courses: readonly CourseDocument[],
  packets: readonly Sent[],
  cut: readonly string[] = [],
  published: readonly LinuxPublished[] = [],
  translations: readonly LinuxTranslation[] = [],
  routes: readonly LinuxRoute[] = [],
): Left[] {
  const out = {
    name: 'aq-gw-01',
    uplinks,
    courses: courses.map(linux),
    published,
    translations,
    routes,
    own: ['10.1.5.1'],
  };
  const job = {
    ...{ script: iproute2Of(out), nft: nftablesOfUplinks(out), inside: '10.0.0.0/8', packets },
    ...(published.length > 0 ? { own: '10.1.5.1/32' } : {}),
    ...(uplinks.some(({ six }) => six) ? { inside6: INSIDE6 } : {}),
    uplinks: uplinks.map(({ port, six }) => ({
      ...{ port, address: ADDRESSES[port]!.address, cut: cut.includes(port) },
      ...(six ? { address6: ADDRESSES6[port] } : {}),
    })),
  };
  const lab = spawnSync('/usr/bin/python3', [LAB], {
    input: JSON.stringify(job),
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return JSON.parse(lab.stdout) as Left[];
}

/** Flows of TCP, no two alike. */
function flows(count: number, more: Partial<Sent> = {}): Sent[] {
  const random = randomFrom(seed);
  return Array.from({ length: count }, (_, i) => ({
    ...{ from: `10.1.${random(4)}.${1 + random(250)}`, to: `${60 + random(60)}.${random(250)}.7.${1 + random(250)}` },
    ...{ protocol: 6, port: [80, 443, 5060][random(3)]!, sourcePort: 10_000 + i, ...more },
  }));
}

describe('in the kernel', () => {
  test('flows are shared as the weights ask for, leave with the address of their uplink, and stay with it', () => {
    const sent = flows(3000);
    const uplinks = [uplink('wan1', { weight: 3 }), uplink('wan2')];
    const left = kernelLeaves(uplinks, [], [...sent, ...sent]);
    const count = (port: string): number => left.slice(0, 3000).filter((each) => each.port === port).length;
    expect(count('wan1') + count('wan2')).toBe(3000);
    // Its hash is no better than chance would be: three standard deviations, and as much again for what its weights are rounded to.
    const { ranges } = shareVerdict([count('wan1'), count('wan2')], [3, 1]);
    const slack = ranges[0]!.most - ranges[0]!.least;
    expect(Math.abs(count('wan1') - 2250)).toBeLessThan(slack);
    for (const { port, source } of left) expect(source).toBe(ADDRESSES[port!]!.address.split('/')[0]);
    expect(left.slice(3000).map(({ port }) => port)).toEqual(left.slice(0, 3000).map(({ port }) => port));
  });

  test('what a route is for goes as it says, before any course: the longest prefix, then the lowest metric, else as the rest', () => {
    const routes: LinuxRoute[] = [
      { name: 'Works', prefix: '60.0.0.0/8', by: 'wan2' },
      { name: 'Not this part', prefix: '60.64.0.0/10', metric: 5 },
      { name: 'But this', prefix: '60.64.7.0/24', by: 'cell', metric: 5 },
      { name: 'Second', prefix: '60.64.7.0/24', by: 'wan1', metric: 20 },
      { name: 'Old works', prefix: '172.20.0.0/16', to: '10.1.5.20' },
      { name: 'Six', prefix: 'fd00:60::/32' },
    ];
    const uplinks = [uplink('wan1'), uplink('wan2', { standby: 1 }), uplink('cell', { standby: 2 })];
    const courses = [course('All', { ways: [{ port: 'wan2', turn: 0 }], from: ['10.1.3.0/24'] })];
    const to = (address: string): Sent[] => flows(40, { to: address });
    const sent = ['60.1.7.1', '60.70.7.1', '60.64.7.9', '61.1.7.1']
      .flatMap(to)
      .map((each, i) => ({ ...each, sourcePort: 10_000 + i }));
    const left = kernelLeaves(uplinks, courses, sent, [], [], [], routes);
    const table = new KeptTable().of({
      links: [{ name: 'inside', address: '10.0.0.0/8' }],
      said: routes,
      uplinks: [
        { port: 'wan1', turn: 0 },
        { port: 'wan2', turn: 1 },
        { port: 'cell', turn: 2 },
      ],
    });
    const expected = sent.map(({ from, to: address }) => {
      const [line] = linesTo(table, parseIp(address)!);
      if (line!.kind === 'uplink' && from.startsWith('10.1.3.')) return 'wan2';
      return line!.by ?? null;
    });
    expect(left.map(({ port }) => port)).toEqual(expected);
    expect(new Set(expected)).toEqual(new Set(['wan1', 'wan2', 'cell', null]));
  });

  test('each flow takes the course that it takes here, and what takes none leaves as the rest', () => {
    const courses = [
      course('Pages', {
        from: ['10.1.1.0/24'],
        services: [{ protocol: 'tcp', ports: ['443'] }],
        ways: [{ port: 'cell', turn: 0 }],
      }),
      course('Calls', { dscp: [46, 34], ways: [{ port: 'wan2', turn: 0 }] }),
      course('All of two', { from: ['10.1.2.0-10.1.2.99'], to: ['60.0.0.0/6'], ways: [{ port: 'cell', turn: 0 }] }),
    ];
    const uplinks = [uplink('wan1'), uplink('wan2', { standby: 1 }), uplink('cell', { standby: 2 })];
    const sent = [...flows(600), ...flows(300, { dscp: 46 }), ...flows(100, { dscp: 10 })].map((each, i) => ({
      ...each,
      sourcePort: 10_000 + i,
    }));
    const picked = coursePicker(courses);
    const expected = sent.map(({ from, to, ...ends }) => {
      const id = picked(flowBetween(from, to, ends)!);
      return courses.find((each) => each.id === id)?.ways[0]!.port ?? 'wan1';
    });
    expect(new Set(expected)).toEqual(new Set(['wan1', 'wan2', 'cell']));
    expect(kernelLeaves(uplinks, courses, sent).map(({ port }) => port)).toEqual(expected);
  });

  test('without the first of its uplinks a course leaves by the next, or by nothing, or as the rest, as was said', () => {
    const ways = [
      { port: 'wan1', turn: 0 },
      { port: 'cell', turn: 1 },
    ];
    const courses = [
      course('Next', { from: ['10.1.0.0/24'], ways }),
      course('Never', { from: ['10.1.1.0/24'], otherwise: 'nothing' }),
      course('Rest', { from: ['10.1.2.0/24'] }),
    ];
    const uplinks = [uplink('wan1'), uplink('wan2', { standby: 1 }), uplink('cell', { standby: 2 })];
    const sent = flows(200);
    const by = { '0': 'cell', '1': null, '2': 'wan2', '3': 'wan2' } as Readonly<Record<string, string | null>>;
    const left = kernelLeaves(uplinks, courses, sent, ['wan1']);
    expect(left.map(({ port }) => port)).toEqual(sent.map(({ from }) => by[from.split('.')[2]!]));
  });

  test('what may leave by several is shared among them, and what is inside never leaves', () => {
    const ways = [{ port: 'wan2' }, { port: 'cell' }];
    const uplinks = [uplink('wan1'), uplink('wan2', { weight: 2, standby: 1 }), uplink('cell', { standby: 2 })];
    const sent = flows(900);
    const inside = flows(50).map((each, i) => ({ ...each, to: `10.2.0.${1 + i}` }));
    const left = kernelLeaves(uplinks, [course('Both', { ways })], [...sent, ...inside]);
    const count = (port: string): number => left.filter((each) => each.port === port).length;
    expect(count('wan1')).toBe(0);
    expect(Math.abs(count('wan2') / 900 - 2 / 3)).toBeLessThan(0.1);
    expect(left.slice(900).every(({ port }) => port === 'inside')).toBe(true);
  });

  test('addresses that are not to be translated leave as they are', () => {
    const left = kernelLeaves([uplink('wan1', { translate: false })], [], flows(5));
    expect(left.every(({ source }) => source!.startsWith('10.1.'))).toBe(true);
  });
});

describe('as what people are seen', () => {
  const told: TranslationDocument[] = [
    { id: 'a', name: 'Itself', port: 'wan1', from: ['10.1.0.0/25'], to: ['any'], as: 'itself' },
    { id: 'b', name: 'One', port: 'wan1', from: ['10.1.1.0/24'], to: ['64.0.0.0/3'], as: { pool: '203.0.113.14' } },
    {
      id: 'c',
      name: 'Some',
      port: 'wan1',
      from: ['10.1.0.0-10.1.2.255'],
      to: ['any'],
      as: { pool: '203.0.113.12-203.0.113.13' },
    },
    { id: 'd', name: 'Elsewhere', port: 'wan2', from: ['any'], to: ['any'], as: 'itself' },
  ];
  const translations = told.map(({ port, as, ...ends }): LinuxTranslation => ({
    ...{ port, packets: packetRuleOf({ ...ends, verdict: 'allow', services: [{ protocol: 'any' }] }) },
    as: typeof as === 'string' ? as : { pool: readAddresses(as.pool)! },
  }));

  test('the kernel shows them as we say: itself, the uplink, or one of a pool, always the same', () => {
    const sent = flows(800);
    const as = translator(told);
    const left = kernelLeaves(
      [uplink('wan1')],
      [],
      [...sent, ...sent.map((each) => ({ ...each, sourcePort: each.sourcePort + 20_000 }))],
      [],
      [],
      translations,
    );
    const bySource = new Map<string, string>();
    const seen = new Set<string>();
    left.forEach(({ source }, i) => {
      const { from, to, protocol, port, sourcePort } = sent[i % sent.length]!;
      const packet = {
        version: 4 as const,
        source: parseIp(from)!.value,
        destination: parseIp(to)!.value,
        protocol,
        port,
        sourcePort,
      };
      const expected = as({ port: 'wan1', translate: true }, packet);
      if (expected === 'itself') expect(source).toBe(from);
      else if (expected === 'uplink') expect(source).toBe('203.0.113.11');
      else {
        // Which pool is as we say; which address of it the kernel chooses by itself.
        const one = expected.address === parseIp('203.0.113.14')!.value;
        expect(one ? ['203.0.113.14'] : ['203.0.113.12', '203.0.113.13']).toContain(source);
        // Whoever is seen as one of a pool stays so, whatever it asks for there.
        const key = `${from} ${one}`;
        expect(bySource.get(key) ?? source).toBe(source);
        bySource.set(key, source!);
      }
      seen.add(typeof expected === 'string' ? expected : source!);
    });
    expect(seen).toEqual(new Set(['itself', 'uplink', '203.0.113.12', '203.0.113.13', '203.0.113.14']));
  });
});

describe('what is published', () => {
  const told: PublishedDocument[] = [
    {
      id: 'a',
      name: 'Shop',
      from: ['any'],
      protocols: ['tcp'],
      outside: '443',
      address: '10.1.5.7',
      inside: 8443,
      within: true,
    },
    {
      id: 'b',
      name: 'Talk',
      from: ['any'],
      protocols: ['udp'],
      outside: '7000-7009',
      address: '10.1.5.8',
      inside: 9000,
    },
    {
      id: 'c',
      name: 'Desk',
      from: ['198.18.7.0/24'],
      protocols: ['tcp', 'udp'],
      outside: '22',
      address: '10.1.5.9',
      ports: ['wan2'],
    },
  ];
  const uplinks = [uplink('wan1'), uplink('wan2', { standby: 1 })];
  const published = told.map(({ name, protocols, outside, address, inside, ports, from, within }): LinuxPublished => {
    const [first, last = first] = outside.split('-').map(Number) as [number, number?];
    const { source } = packetRuleOf({
      ...{ id: name, name, from, to: ['any'] },
      verdict: 'allow',
      services: [{ protocol: 'any' }],
    });
    return {
      ...{ name, protocols, outside: [first, last], address, inside: inside ?? first, from: source },
      ...{ ports: ports ?? ['wan1', 'wan2'], within: within ? '10.1.5.0/24' : null },
    };
  });
  const own = (port: string): string => ADDRESSES[port]!.address.split('/')[0]!;
  const coming = (at: string, protocol: number, port: number, from: string, i: number): Sent => ({
    ...{ at, from, to: own(at), protocol, port, sourcePort: 20_000 + i },
  });

  test('is led where we say, and nothing else is let in by it', () => {
    const random = randomFrom(seed);
    const sent = Array.from({ length: 400 }, (_, i) =>
      coming(
        ['wan1', 'wan2'][random(2)]!,
        [6, 17][random(2)]!,
        [443, 22, 80, 6999, 7000 + random(12)][random(5)]!,
        `198.18.${6 + random(2)}.${1 + random(200)}`,
        i,
      ),
    );
    const expected = sent.map(({ at, from, to, protocol, port, sourcePort }) => {
      const [source, destination] = [parseIp(from)!.value, parseIp(to)!.value];
      const led = ledTo(told, { version: 4, source, destination, protocol, port, sourcePort }, at!);
      return led ? [led.published.address, led.packet.port] : [null, null];
    });
    const left = kernelLeaves(uplinks, [], sent, [], published);
    expect(left.map(({ destination, dport }) => [destination, dport])).toEqual(expected);
    for (const each of told) expect(expected.some(([address]) => address === each.address)).toBe(true);
  });

  test('answers by the uplink that it was asked at, though others are used, and with its address', () => {
    const asked = coming('wan2', 17, 7003, '198.18.9.9', 0);
    const answer = { from: '10.1.5.8', to: '198.18.9.9', protocol: 17, port: asked.sourcePort, sourcePort: 9003 };
    const [came, went] = kernelLeaves(uplinks, [], [asked, answer], [], published);
    expect(came).toMatchObject({ port: 'inside', destination: '10.1.5.8', dport: 9003 });
    expect(went).toMatchObject({ port: 'wan2', source: own('wan2'), destination: '198.18.9.9' });
  });

  test('is reached from inside under the address of outside where that is said, and its answers come back', () => {
    const ask = (port: number): Sent => ({ from: '10.1.5.20', to: own('wan1'), protocol: 6, port, sourcePort: 20_001 });
    const [shop, talk] = kernelLeaves(uplinks, [], [ask(443), { ...ask(7000), protocol: 17 }], [], published);
    expect(shop).toEqual({ port: 'inside', source: '10.1.5.1', destination: '10.1.5.7', dport: 8443 });
    expect(talk).toMatchObject({ port: null });
  });
});

test('nothing that people type ends a line of either file', () => {
  const name = 'a\nrm -rf "x"\u2028`id`\r';
  const out = { name, uplinks: [uplink('wan1')], courses: [linux(course(name))] };
  const lines = [...iproute2Of(out).split(/[\n\r\u2028]/), ...nftablesOfUplinks(out).split(/[\n\r\u2028]/)];
  for (const line of lines.filter((each) => /rm -rf|`id`/.test(each))) expect(line).toMatch(/^#/);
});

describe('IPv6, as Linux routes it', () => {
  const [ONE, TWO] = ['2001:db8:9100::/56', '2001:db8:9200::/56'];
  const six = (port: string, gateway: string, prefix?: string, more: Partial<LinuxUplink> = {}) =>
    uplink(port, { six: { gateway, ...(prefix ? { prefix } : {}) }, ...more });
  const sent = (from: string, at: number, to = '2001:db8:1::80'): Sent => ({
    ...{ from, to, protocol: at % 2 === 0 ? 6 : 17, port: 443, sourcePort: 20_000 + at },
  });
  const from = (prefix: string, at: number): string => prefix.replace(/::.*/, `:${(at % 200).toString(16)}::${at + 1}`);
  const left = (
    uplinks: readonly LinuxUplink[],
    packets: readonly Sent[],
    cut: readonly string[] = [],
  ): (string | null)[] => kernelLeaves(uplinks, [], packets, cut).map(({ port }) => port);

  test('by the uplink that its prefix came from, whichever is used first, as itself, and by no other once that is cut', () => {
    const uplinks = [six('wan1', 'fe80::1', ONE, { standby: 1 }), six('wan2', 'fe80::2', TWO)];
    const packets = Array.from({ length: 200 }, (_, i) => sent(from(i % 3 === 0 ? ONE : TWO, i), i));
    const all = kernelLeaves(uplinks, [], packets);
    expect(all.map(({ port }) => port)).toEqual(packets.map((_, i) => (i % 3 === 0 ? 'wan1' : 'wan2')));
    expect(all.map(({ source }) => parseIp(source!)?.value)).toEqual(packets.map((each) => parseIp(each.from)?.value));
    expect(left(uplinks, packets, ['wan1'])).toEqual(packets.map((_, i) => (i % 3 === 0 ? null : 'wan2')));
  });

  test('of nobody’s prefix by the first that has IPv6, and between segments not at all outside', () => {
    const uplinks = [uplink('wan1'), six('wan2', 'fe80::2', TWO)];
    expect(
      left(uplinks, [sent('2001:db8:a000::5', 1), sent(from(TWO, 3), 2), sent(from(TWO, 4), 3, '2001:db8:9200:7::9')]),
    ).toEqual(['wan2', 'wan2', 'inside']);
  });
});
