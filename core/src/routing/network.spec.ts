import fc from 'fast-check';
import { expect, test } from 'vitest';
import { contains, formatIp, parseIp, parsePrefix, type IpAddress } from '../address';
import { checkNetwork, classesOf } from './network-check';
import { resolveNextHop } from './next-hop';
import { OpenTable } from './open-table';
import { overlayPath } from './overlay-path';
import { redistribute } from './redistribute';
import { lookUp, type Route } from './route-table';

const seed = Number(process.env['SEED'] ?? 1);
const route = (prefix: string, nextHop: string, preference = 1, metric = 0): Route => ({
  prefix: parsePrefix(prefix)!,
  ...{ nextHop, preference, metric },
});
const ip = (text: string) => parseIp(text)!;
const ROUTERS = ['a', 'b', 'c', 'd'];
const anyRoute = fc
  .tuple(
    fc.nat(7),
    fc.integer({ min: 0, max: 4 }),
    fc.constantFrom(...ROUTERS, 'local', 'discard', 'elsewhere'),
    fc.nat(1),
    fc.boolean(),
    fc.boolean(),
  )
  .map(([host, bits, nextHop, metric, up, six]): Route => ({
    ...(six
      ? route(`2001:db8:0:${(host * 0x2000).toString(16)}::/${48 + bits}`, nextHop, 1, metric)
      : route(`10.0.0.${host * 32}/${24 + bits}`, nextHop, 1, metric)),
    up,
  }));
const anyTable = fc.array(anyRoute, { maxLength: 10 });

test('a table that is open finds what going through all of its routes finds, at the ends of prefixes and between them', () => {
  fc.assert(
    fc.property(anyTable, (table) => {
      const open = new OpenTable(table);
      for (const { version, first, last } of classesOf([open]))
        for (const value of [first, last, (first + last) / 2n])
          expect(open.lookUp({ version, value })).toEqual(lookUp(table, { version, value }));
    }),
    { seed },
  );
});

test('no router tells the addresses of a class apart', () => {
  fc.assert(
    fc.property(anyTable, anyTable, fc.nat(255), (one, two, host) => {
      const tables = [one, two].map((each) => new OpenTable(each));
      const address = ip(`10.0.0.${host}`);
      const own = classesOf(tables).filter(
        ({ version, first, last }) => version === 4 && first <= address.value && address.value <= last,
      );
      expect(own).toHaveLength(1);
      for (const table of tables)
        expect(table.lookUp({ version: 4, value: own[0]!.first })).toEqual(table.lookUp(address));
    }),
    { seed },
  );
});

/** Every way that a packet may take, followed to its end. */
function endsOf(
  tables: ReadonlyMap<string, readonly Route[]>,
  at: string,
  to: IpAddress,
  before: readonly string[] = [],
): string[] {
  if (at === 'local' || at === 'discard') return [at];
  if (before.includes(at)) return ['loop'];
  const { nextHops } = lookUp(tables.get(at) ?? [], to);
  return nextHops.length === 0 ? ['no-route'] : nextHops.flatMap((next) => endsOf(tables, next, to, [...before, at]));
}

test('the whole network has exactly those faults that following each packet from each router finds', () => {
  let faulty = 0;
  fc.assert(
    fc.property(fc.array(anyTable, { minLength: 4, maxLength: 4 }), (lists) => {
      const tables = new Map(ROUTERS.map((name, i) => [name, lists[i]!]));
      const open = new Map([...tables].map(([name, routes]) => [name, new OpenTable(routes)]));
      const faults = checkNetwork(open);
      faulty += faults.length;
      for (const { version, first, last } of classesOf(open.values()))
        for (const router of ROUTERS) {
          const ends = endsOf(tables, router, { version, value: first });
          const mine = faults.filter(
            ({ from, classes }) =>
              from.includes(router) &&
              classes.some((each) => each.version === version && each.first <= first && last <= each.last),
          );
          expect(mine.length > 0).toBe(ends.includes('loop') || ends.includes('no-route'));
        }
      for (const { kind, cycle, packet } of faults) {
        expect(endsOf(tables, packet.from, ip(packet.to))).toContain(kind === 'loop' ? 'loop' : 'no-route');
        // Every step of a circle is one that a router takes.
        for (const [i, at] of cycle.entries())
          expect(lookUp(tables.get(at)!, ip(packet.to)).nextHops).toContain(cycle[(i + 1) % cycle.length]);
        expect(cycle.length > 0).toBe(kind === 'loop');
      }
    }),
    { seed, numRuns: 150 },
  );
  expect(faulty).toBeGreaterThan(50);
});

test('a summary at a hub without a route that drops the rest goes round with the way back', () => {
  const hub = [route('10.0.0.0/16', 'spoke'), route('0.0.0.0/0', 'discard')];
  const spoke = [route('10.0.1.0/24', 'local'), route('0.0.0.0/0', 'hub')];
  const check = (more: readonly Route[]) =>
    checkNetwork(
      new Map([
        ['hub', new OpenTable(hub)],
        ['spoke', new OpenTable([...spoke, ...more])],
      ]),
    ).filter(({ kind }) => kind === 'loop');
  const [loop] = check([]);
  expect(loop).toMatchObject({ cycle: ['hub', 'spoke'], from: ['hub', 'spoke'], packet: { to: '10.0.0.0' } });
  expect(
    loop!.classes.map(({ first, last }) => [
      formatIp({ version: 4, value: first }),
      formatIp({ version: 4, value: last }),
    ]),
  ).toEqual([
    ['10.0.0.0', '10.0.0.255'],
    ['10.0.2.0', '10.0.255.255'],
  ]);
  expect(check([route('10.0.0.0/16', 'discard')])).toEqual([]);
});

test('a next hop is looked up in the same table, a few times, and never through the route that it serves', () => {
  const at = (routes: readonly Route[]) => resolveNextHop(new OpenTable(routes), routes[0]!, parseIp);
  const lan = route('10.1.0.0/24', 'lan');
  expect(at([route('10.9.0.0/16', '10.1.0.7'), lan])).toEqual({ at: 'link', interface: 'lan' });
  expect(at([route('10.9.0.0/16', '10.2.0.1'), route('10.2.0.0/16', '10.1.0.7'), lan])).toEqual({
    at: 'link',
    interface: 'lan',
  });
  expect(at([route('10.9.0.0/16', '10.2.0.1'), route('10.2.0.0/16', 'discard')])).toEqual({ at: 'discard' });
  expect(at([route('10.9.0.0/16', '10.3.0.1'), lan])).toEqual({ at: 'nowhere', why: 'none' });
  expect(at([route('10.1.0.0/16', '10.1.3.1'), lan])).toEqual({ at: 'nowhere', why: 'itself' });
  // Within the route, and on the link of a longer one.
  expect(at([route('10.1.0.0/16', '10.1.0.9'), lan])).toEqual({ at: 'link', interface: 'lan' });
  const chain = (steps: number): Route[] => [
    ...Array.from({ length: steps }, (_, i) => route(`10.${20 + i}.0.0/16`, `10.${21 + i}.0.1`)),
    route(`10.${20 + steps}.0.0/16`, 'lan'),
  ];
  expect(at(chain(8))).toEqual({ at: 'link', interface: 'lan' });
  expect(at(chain(9))).toEqual({ at: 'nowhere', why: 'deep' });
  expect(at([route('10.9.0.0/16', '10.8.0.1'), route('10.8.0.0/16', '10.9.0.1')])).toEqual({
    at: 'nowhere',
    why: 'itself',
  });
});

const overlay = (order: Readonly<Record<string, readonly string[]>>, ...down: string[]) => ({
  ...{ hubs: ['north', 'south'], order },
  up: (a: string, b: string) => !down.includes(`${a} ${b}`) && !down.includes(`${b} ${a}`),
});

test('a spoke sends by its first hub that lives, and what comes from a hub goes to the target’s', () => {
  const order = { quay: ['north', 'south'], mole: ['north', 'south'], islet: ['south'] };
  expect(overlayPath(overlay(order), 'quay', 'mole')).toEqual({
    ...{ path: ['quay', 'north', 'mole'], back: ['mole', 'north', 'quay'], symmetric: true },
  });
  expect(overlayPath(overlay(order), 'quay', 'islet').path).toEqual(['quay', 'north', 'south', 'islet']);
  // The way back is another: the islet’s hub has a tunnel to the quay itself.
  expect(overlayPath(overlay(order), 'islet', 'quay')).toEqual({
    ...{ path: ['islet', 'south', 'quay'], back: ['quay', 'north', 'south', 'islet'], symmetric: false },
  });
  const half = overlay(order, 'quay north');
  expect(overlayPath(half, 'quay', 'mole').path).toEqual(['quay', 'south', 'mole']);
  expect(overlayPath(half, 'mole', 'quay').path).toEqual(['mole', 'north', 'south', 'quay']);
  expect(overlayPath(overlay(order, 'islet south'), 'quay', 'islet')).toEqual({
    path: null,
    back: null,
    symmetric: false,
  });
  expect(overlayPath(overlay(order, 'north south'), 'quay', 'islet').path).toBeNull();
  expect(overlayPath(overlay(order), 'north', 'islet').path).toEqual(['north', 'south', 'islet']);
  expect(overlayPath(overlay(order), 'quay', 'south').path).toEqual(['quay', 'north', 'south']);
  expect(overlayPath(overlay(order), 'quay', 'quay').path).toEqual(['quay']);
});

test('nothing goes through a tunnel that is down, nor through more than two hubs, whatever is', () => {
  const hubs = ['h0', 'h1', 'h2'];
  const spokes = ['s0', 's1', 's2'];
  const orders = fc.record(Object.fromEntries(spokes.map((each) => [each, fc.shuffledSubarray(hubs)])));
  const all = [...hubs, ...spokes].flatMap((a, i, list) => list.slice(i + 1).map((b) => `${a} ${b}`));
  fc.assert(
    fc.property(orders, fc.subarray(all), (order, down) => {
      const up = (a: string, b: string) => !down.includes(`${a} ${b}`) && !down.includes(`${b} ${a}`);
      for (const from of spokes)
        for (const to of spokes) {
          const { path } = overlayPath({ hubs, order, up }, from, to);
          if (!path || from === to) continue;
          expect(path.at(-1)).toBe(to);
          expect(path.slice(1, -1).every((each) => hubs.includes(each))).toBe(true);
          expect(path.length).toBeLessThanOrEqual(4);
          for (const [i, end] of path.slice(1).entries()) expect(up(path[i]!, end)).toBe(true);
        }
    }),
    { seed },
  );
});

test('what is handed on is what the first fitting entry permits, without what came from there', () => {
  const prefixes = ['10.1.0.0/24', '10.1.1.128/25', '0.0.0.0/0', '10.7.0.0/16', '192.168.1.0/24', 'fd00:1::/48'];
  const routes = prefixes.map((text, i) => ({ prefix: parsePrefix(text)!, ...(i === 3 ? { tag: 9 } : {}) }));
  const told = (...filter: Parameters<typeof redistribute>[1]) =>
    redistribute(routes, filter, 9, 50).map(
      ({ prefix }) => prefixes[routes.findIndex((each) => each.prefix === prefix)],
    );
  const ten = parsePrefix('10.0.0.0/8')!;
  expect(told({ within: ten, action: 'permit' })).toEqual(['10.1.0.0/24', '10.1.1.128/25']);
  expect(told({ within: ten, most: 24, action: 'permit' })).toEqual(['10.1.0.0/24']);
  expect(told({ within: ten, least: 25, action: 'deny' }, { within: ten, action: 'permit' })).toEqual(['10.1.0.0/24']);
  expect(told({ within: parsePrefix('::/0')!, action: 'permit' })).toEqual(['fd00:1::/48']);
  expect(told()).toEqual([]);
  expect(redistribute(routes, [{ within: ten, action: 'permit' }], 8, 50)).toEqual([
    ...[0, 1, 3].map((i) => ({ prefix: routes[i]!.prefix, metric: 50, tag: 8 })),
  ]);
});

test('a way through several equally good ones is bad where any of them is', () => {
  const tables = new Map([
    ['a', [route('0.0.0.0/0', 'b'), route('0.0.0.0/0', 'c')]],
    ['b', [route('10.1.0.0/24', 'local'), route('0.0.0.0/0', 'discard')]],
    ['c', [route('10.1.0.0/24', 'a')]],
  ]);
  const open = new Map([...tables].map(([name, routes]) => [name, new OpenTable(routes)]));
  const faults = checkNetwork(
    open,
    classesOf(open.values()).filter(({ version }) => version === 4),
  );
  expect(faults.map(({ kind, at, cycle }) => [kind, at, cycle])).toEqual([
    ['no-route', 'c', []],
    ['loop', 'a', ['a', 'c']],
  ]);
  expect(contains(parsePrefix('10.1.0.0/24')!, { version: 4, value: faults[1]!.classes[0]!.first })).toBe(true);
});
