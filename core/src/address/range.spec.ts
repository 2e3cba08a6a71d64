import fc from 'fast-check';
import { expect, test } from 'vitest';
import { nextFreePrefix } from './free-prefix';
import { contains, formatPrefix, lastOf, overlaps, parsePrefix, relationOf, type Prefix } from './prefix';
import { usableHosts } from './prefix-info';
import { parseRange, prefixOfRange, rangeOf, rangeToPrefixes, subtractPrefixes, summarize } from './range';

const seed = Number(process.env['SEED'] ?? 1);
const prefix = (text: string): Prefix => parsePrefix(text)!;

/** Small prefixes close together, so that they meet often and can be counted address by address. */
const small: fc.Arbitrary<Prefix> = fc.tuple(fc.nat(255), fc.integer({ min: 24, max: 32 })).map(([host, length]) => {
  const size = 1n << BigInt(32 - length);
  return { version: 4, network: 0x0a000000n + BigInt(host) - (BigInt(host) % size), length };
});

/** The definition: the set of addresses, one by one. */
function addresses(prefixes: readonly Prefix[]): Set<bigint> {
  const all = new Set<bigint>();
  for (const each of prefixes) for (let at = each.network; at <= lastOf(each); at++) all.add(at);
  return all;
}

test('subtracting leaves exactly the addresses that are in none of the others', () => {
  fc.assert(
    fc.property(small, fc.array(small, { maxLength: 5 }), (from, minus) => {
      const wanted = [...addresses([from])].filter((each) => !addresses(minus).has(each));
      expect([...addresses(subtractPrefixes(from, minus))].sort()).toEqual(wanted.sort());
    }),
    { seed, numRuns: 60 },
  );
});

test('summarising keeps the same addresses, is smallest, and done twice changes nothing', () => {
  fc.assert(
    fc.property(fc.array(small, { maxLength: 8 }), (prefixes) => {
      const summary = summarize(prefixes);
      expect(addresses(summary)).toEqual(addresses(prefixes));
      expect(summarize(summary)).toEqual(summary);
      for (const a of summary) for (const b of summary) if (a !== b) expect(overlaps(a, b)).toBe(false);
    }),
    { seed, numRuns: 60 },
  );
});

test('a prefix is the only prefix of its own range', () => {
  fc.assert(
    fc.property(small, (each) => {
      expect(rangeToPrefixes(rangeOf(each))).toEqual([each]);
    }),
    { seed },
  );
});

test('overlap is the same as having an address in common', () => {
  fc.assert(
    fc.property(small, small, (a, b) => {
      const common = [...addresses([a])].some((each) => addresses([b]).has(each));
      expect(overlaps(a, b)).toBe(common);
      expect(relationOf(a, b) === 'disjoint').toBe(!common);
      expect(contains(a, b)).toBe([...addresses([b])].every((each) => addresses([a]).has(each)));
    }),
    { seed },
  );
});

test('the next free prefix lies in the parent, overlaps nothing used, and none is found only when none is free', () => {
  fc.assert(
    fc.property(
      fc.array(small, { maxLength: 12 }),
      fc.integer({ min: 24, max: 30 }),
      fc.constantFrom('first', 'best'),
      (used, length, policy) => {
        const parent = prefix('10.0.0.0/24');
        const free = nextFreePrefix(parent, used, length, policy);
        const candidates = Array.from({ length: 1 << (length - 24) }, (_, i) => ({
          ...parent,
          network: parent.network + BigInt(i << (32 - length)),
          length,
        }));
        const open = candidates.filter((each) => !used.some((other) => overlaps(each, other)));
        if (open.length === 0) expect(free).toBeNull();
        else expect(open.map(formatPrefix)).toContain(formatPrefix(free!));
        if (policy === 'first' && free) expect(formatPrefix(free)).toBe(formatPrefix(open[0]!));
      },
    ),
    { seed },
  );
});

test.each([
  ['10.0.0.0/31', 2n, 0x0a000000n],
  ['10.0.0.7/32', 1n, 0x0a000007n],
  ['10.0.0.0/30', 2n, 0x0a000001n],
  ['0.0.0.0/0', 2n ** 32n - 2n, 1n],
  ['2001:db8::/127', 2n, 0x20010db8n << 96n],
])('usable hosts of %s', (text, count, first) => {
  expect(usableHosts(prefix(text))).toMatchObject({ count, first });
});

test.each(['10.0.0.9-10.0.0.1', '10.0.0.1-::1', '10.0.0.1-10.0.0.2-10.0.0.3', 'x'])('%s is no range', (text) => {
  expect(parseRange(text)).toBeNull();
});

test('a range is one prefix exactly where the fewest that cover it are one', () => {
  const end = fc.bigInt({ min: 0n, max: 300n });
  fc.assert(
    fc.property(end, end, (a, b) => {
      const [first, last] = a < b ? [a, b] : [b, a];
      const range = { version: 4 as const, first, last };
      const all = rangeToPrefixes(range);
      expect(prefixOfRange(range)).toEqual(all.length === 1 ? all[0] : null);
    }),
    { numRuns: 500 },
  );
  expect(prefixOfRange({ version: 6, first: 0n, last: 2n ** 128n - 1n })).toEqual({
    version: 6,
    network: 0n,
    length: 0,
  });
});
