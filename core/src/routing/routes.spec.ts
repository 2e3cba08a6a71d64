import fc from 'fast-check';
import { expect, test } from 'vitest';
import { contains, formatPrefix, parseIp, parsePrefix } from '../address';
import { lookUp, type Route } from './route-table';
import { walkRoutes } from './route-walk';

const seed = Number(process.env['SEED'] ?? 1);
const route = (prefix: string, nextHop: string, preference = 1, metric = 0): Route => ({
  prefix: parsePrefix(prefix)!,
  nextHop,
  preference,
  metric,
});
const ip = (text: string) => parseIp(text)!;

const anyRoute = fc
  .tuple(fc.nat(7), fc.integer({ min: 0, max: 4 }), fc.constantFrom('a', 'b', 'c'), fc.nat(1), fc.nat(1), fc.boolean())
  .map(([host, bits, nextHop, preference, metric, up]): Route => ({
    ...route(`10.0.0.${host * 32}/${24 + bits}`, nextHop, preference, metric),
    up,
  }));

test('the best route is the one that no other one beats, as comparing all of them tells', () => {
  fc.assert(
    fc.property(fc.array(anyRoute, { maxLength: 12 }), fc.nat(255), (table, host) => {
      const destination = ip(`10.0.0.${host}`);
      const fitting = table.filter((each) => each.up && contains(each.prefix, destination));
      const rank = ({ prefix, preference, metric }: Route): number => -prefix.length * 100 + preference * 10 + metric;
      const least = Math.min(...fitting.map(rank));
      const best = fitting.filter((each) => rank(each) === least);
      const found = lookUp(table, destination);
      expect(found.nextHops).toEqual([...new Set(best.map((each) => each.nextHop))].sort());
      expect(found.prefix && formatPrefix(found.prefix)).toBe(best[0] ? formatPrefix(best[0].prefix) : null);
    }),
    { seed },
  );
});

test('a destination of another IP version is not found', () => {
  expect(lookUp([route('0.0.0.0/0', 'a')], ip('fd00::1'))).toEqual({ prefix: null, nextHops: [] });
});

test('a packet is followed to its end, and a way that goes round is told from one that arrives', () => {
  const tables = new Map([
    ['quay', [route('10.1.0.0/24', 'local'), route('0.0.0.0/0', 'hub')]],
    ['hub', [route('10.1.0.0/24', 'quay'), route('10.9.0.0/16', 'discard'), route('10.2.0.0/16', 'quay')]],
  ]);
  const walk = (to: string) => walkRoutes(tables, 'quay', ip(to));
  expect(walk('10.1.0.9')).toEqual({ result: 'delivered', path: ['quay'] });
  expect(walk('10.9.1.1')).toEqual({ result: 'discard', path: ['quay', 'hub'] });
  expect(walk('10.2.1.1')).toEqual({ result: 'loop', path: ['quay', 'hub', 'quay'], cycle: ['quay', 'hub'] });
  expect(walk('192.0.2.1')).toEqual({ result: 'no-route', path: ['quay', 'hub'] });
});

test('of several ways that are equally good, one that ends badly is told', () => {
  const tables = new Map([
    ['a', [route('0.0.0.0/0', 'b'), route('0.0.0.0/0', 'c')]],
    ['b', [route('10.1.0.0/24', 'local')]],
    ['c', [route('10.1.0.0/24', 'a')]],
  ]);
  expect(walkRoutes(tables, 'a', ip('10.1.0.1'))).toEqual({ result: 'loop', path: ['a', 'c', 'a'], cycle: ['a', 'c'] });
});
