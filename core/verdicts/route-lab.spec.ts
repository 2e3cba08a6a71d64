import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { formatIp, formatPrefix, parseIp, prefixOf, rangeOf, type IpAddress } from '../src/address';
import { courseRule, type CourseDocument } from '../src/document';
import { iproute2Of, type LinuxCourse, type LinuxRoute, type LinuxUplink } from '../src/formats';
import { KeptTable, linesTo } from '../src/routing';
import { packetRuleOf } from '../src/rules';
import { randomFrom } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/route-lab.py', import.meta.url));
const seed = Number(process.env['SEED'] ?? 1);
/** Marks of courses begin there; see `iproute2Of`. */
const MARK = 0x100;

/** Links of a gateway, and its uplinks with their providers’ routers. */
const LINKS = [
  { port: 'crew', addresses: ['10.20.0.1/16'] },
  { port: 'tills', addresses: ['10.21.0.1/24'] },
];
const UPLINKS: readonly (LinuxUplink & { readonly address: string })[] = [
  { port: 'wan1', address: '203.0.113.11/29', gateway: '203.0.113.9', weight: 3, standby: null, translate: true },
  { port: 'wan2', address: '198.51.100.12/24', gateway: '198.51.100.1', weight: 1, standby: null, translate: true },
  { port: 'cell', address: '192.0.2.5/24', gateway: '192.0.2.1', weight: 1, standby: 0, translate: true },
];
const COURSES: readonly CourseDocument[] = (
  [
    ['first', ['wan2', 'wan1'], 'usual'],
    ['first', ['cell'], 'nothing'],
    ['share', ['wan1', 'cell'], 'usual'],
    ['share', ['wan1', 'wan2'], 'nothing'],
  ] as const
).map(([how, ports, otherwise], at) => ({
  ...{ id: `${at}`, name: `Course ${at}`, from: ['any'], to: ['any'], services: [{ protocol: 'any' }] },
  ways: ports.map((port, turn) => ({ port, turn: how === 'first' ? turn : 0 })),
  ...(otherwise === 'nothing' ? { otherwise } : {}),
}));

interface Asked {
  readonly to: string;
  readonly mark: number;
}
interface Went {
  readonly dev: string | null;
  readonly via: string | null;
}

function kernelGoes(routes: readonly LinuxRoute[], gets: readonly Asked[]): Went[] {
  const courses = COURSES.map((told): LinuxCourse => {
    const { ports, how, otherwise } = courseRule(told);
    return { name: told.name, packets: packetRuleOf({ ...told, verdict: 'allow' }), ports, how, otherwise };
  });
  const script = iproute2Of({ name: 'aq-gw-01', uplinks: UPLINKS, courses, routes });
  const links = [...LINKS, ...UPLINKS.map(({ port, address }) => ({ port, addresses: [address] }))];
  const lab = spawnSync('/usr/bin/python3', [LAB], {
    ...{ input: JSON.stringify({ links, script, gets }), encoding: 'utf8', maxBuffer: 1 << 28 },
  });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return JSON.parse(lab.stdout) as Went[];
}

/** Routes nested in each other, by every kind of way, with twins of other metrics. */
function randomRoutes(random: (n: number) => number, count: number): LinuxRoute[] {
  const routes: LinuxRoute[] = [];
  const seen = new Set<string>();
  const host = (): IpAddress => ({
    ...{ version: 4 as const },
    value: parseIp(`172.${16 + random(4)}.${random(4) * 16}.${random(256)}`)!.value,
  });
  for (let i = 0; routes.length < count; i++) {
    const prefix = formatPrefix(prefixOf(host(), 10 + random(21)));
    const metric = random(3) * 5;
    if (seen.has(`${prefix} ${metric}`)) continue;
    seen.add(`${prefix} ${metric}`);
    const kind = random(4);
    const way =
      kind === 0
        ? { to: `10.20.7.${1 + random(20)}` }
        : kind === 1
          ? { to: `10.21.0.${2 + random(20)}` }
          : kind === 2
            ? { by: UPLINKS[random(3)]!.port }
            : {};
    routes.push({ name: `Route ${i}`, prefix, metric, ...way });
  }
  return routes;
}

/** Where somebody may go by our own table, and by the course that it has. */
function weGo(routes: readonly LinuxRoute[]): (asked: Asked) => readonly string[] {
  const links = [...LINKS, ...UPLINKS.map(({ port, address }) => ({ port, addresses: [address] }))];
  const table = new KeptTable().of({
    links: links.map(({ port, addresses: [address] }) => ({ name: port, address: address! })),
    said: routes,
    uplinks: UPLINKS.map(({ port, standby }) => ({ port, turn: standby === null ? 0 : 1 + standby })),
  });
  const out = (port: string): string => `${port} ${UPLINKS.find((each) => each.port === port)!.gateway}`;
  const behind = (to: string): string => `${to.startsWith('10.20.') ? 'crew' : 'tills'} ${to}`;
  return ({ to, mark }) => {
    const lines = linesTo(table, parseIp(to)!);
    const [first] = lines;
    if (first?.kind === 'link') return [`${first.name} on the link`];
    if (first?.kind === 'said') return [first.to ? behind(first.to) : first.by ? out(first.by) : 'nowhere'];
    if (mark === 0) return lines.map(({ by }) => out(by!));
    const { how, ports } = courseRule(COURSES[mark - MARK]!);
    return (how === 'first' ? ports.slice(0, 1) : ports).map(out);
  };
}

test('5,000 addresses go where the kernel has them go, by several tables and rules of policy', () => {
  const random = randomFrom(seed);
  const routes = randomRoutes(random, 400);
  // The ends of prefixes and what is just beside them tell the most.
  const edges = routes.flatMap(({ prefix }) => {
    const [network, length] = prefix.split('/') as [string, string];
    const { first, last } = rangeOf(prefixOf(parseIp(network)!, Number(length)));
    return [first - 1n, first, first + 1n, last - 1n, last, last + 1n];
  });
  const gets = Array.from({ length: 5000 }, (_, i): Asked => {
    const value =
      i % 5 === 0
        ? parseIp(`${['10.20', '10.21', '198.51', '8.8'][random(4)]}.${random(2)}.${2 + random(250)}`)!.value
        : edges[random(edges.length)]!;
    const mark = random(COURSES.length + 1);
    return { to: formatIp({ version: 4, value }), mark: mark === 0 ? 0 : MARK + mark - 1 };
  });
  const went = kernelGoes(routes, gets);
  const goes = weGo(routes);
  const isOwn = (to: string): boolean => to === '198.51.0.0' || to.endsWith('.255') || to.endsWith('.0.1');
  let looked = 0;
  for (const [i, asked] of gets.entries()) {
    // The kernel knows its own addresses, and those that are for all, by another table.
    if (isOwn(asked.to) && asked.to.startsWith('10.')) continue;
    const { dev, via } = went[i]!;
    const kernel = dev === null ? 'nowhere' : via === null ? `${dev} on the link` : `${dev} ${via}`;
    const ours = goes(asked);
    expect([asked, ours, kernel, ours.includes(kernel)]).toEqual([asked, ours, kernel, true]);
    looked++;
  }
  expect(looked).toBeGreaterThan(4900);
  expect(new Set(went.map(({ dev }) => dev)).size).toBe(6); // every way, and nowhere
});

test('the lab tells a table that differs in one route from ours', () => {
  const routes = randomRoutes(randomFrom(seed), 40);
  const [one] = routes.filter(({ to, prefix }) => to !== undefined && Number(prefix.split('/')[1]) > 24);
  const gets = [{ to: one!.prefix.split('/')[0]!, mark: 0 }];
  const before = kernelGoes(routes, gets);
  expect(
    kernelGoes(
      routes.filter((each) => each.prefix !== one!.prefix),
      gets,
    ),
  ).not.toEqual(before);
});
