import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatPrefix, overlaps, parsePrefix, type Prefix } from '../address';
import { sampleSite } from '../testing';
import { findOverlaps, planEntries, shareTaken } from './address-plan';
import { cellAt, outOf, planTiles } from './plan-grid';

const seed = Number(process.env['SEED'] ?? 1);
const anyPrefix = fc
  .tuple(fc.constantFrom(4 as const, 6 as const), fc.integer({ min: 0, max: 8 }), fc.nat(255))
  .map(([version, length, host]): Prefix => {
    const width = version === 4 ? 32 : 128;
    const bits = BigInt(width - 8);
    const value = (BigInt(host) << bits) >> BigInt(width - length);
    return { version, length, network: value << BigInt(width - length) };
  });

/** The definition, word for word. */
const byDefinition = (prefixes: readonly Prefix[]): string[] =>
  prefixes.flatMap((a, i) => prefixes.slice(i + 1).flatMap((b, j) => (overlaps(a, b) ? [`${i} ${i + 1 + j}`] : [])));

test('finds every pair of prefixes that overlap, each once, as comparing all pairs does', () => {
  fc.assert(
    fc.property(fc.array(anyPrefix, { maxLength: 40 }), (prefixes) => {
      const pairs = findOverlaps(prefixes).map(({ outer, inner }) => [outer, inner].sort((a, b) => a - b).join(' '));
      expect(pairs.sort()).toEqual(byDefinition(prefixes).sort());
    }),
    { seed },
  );
});

test('fullness counts leases, reservations and fixed addresses, each address once', () => {
  const { intent, site } = sampleSite({ segments: 2, aps: 0 });
  const [management, crew] = site.segments;
  const reservations = [
    { mac: '02:00:00:00:00:01', address: '10.1.10.5', name: '' },
    { mac: '02:00:00:00:00:02', address: '10.1.10.30', name: '' },
  ];
  const full = { ...crew!, addresses: { ...crew!.addresses!, reservations } };
  const changed = { ...intent, sites: new Map([[site.id, { ...site, segments: [management!, full] }]]) };
  const entries = planEntries(changed, new Map([[site.id, ['10.1.10.30', '10.1.10.31', '10.1.1.7', '192.0.2.1']]]));
  expect(entries.map(({ name, used, capacity, class: set }) => [name, used, capacity, set])).toEqual([
    ['Management', 1, 236, 'private'],
    ['Segment 1', 3, 236, 'private'],
  ]);
});

test('the share of a prefix that is taken does not count overlaps twice', () => {
  const prefixes = ['10.0.0.0/9', '10.1.0.0/16', '10.128.0.0/10'].map((text) => parsePrefix(text)!);
  expect(shareTaken(parsePrefix('10.0.0.0/8')!, prefixes)).toBeCloseTo(0.75);
  expect(prefixes.map(formatPrefix)[0]).toBe('10.0.0.0/9');
});

test('a drawn prefix is a square of 256 cells in which every aligned block is a rectangle', () => {
  const entry = (prefix: string) => ({
    siteId: 's',
    siteName: 'S',
    segmentId: prefix,
    name: prefix,
    vlan: 1,
    prefix,
    class: 'private' as const,
    capacity: null,
    used: null,
  });
  const parent = parsePrefix('10.10.0.0/16')!;
  const tiles = planTiles(
    parent,
    ['10.10.40.0/22', '10.10.64.0/19', '10.10.20.0/25', '10.10.20.128/26', '10.11.0.0/24'].map(entry),
  );
  expect(
    tiles.map(({ prefix, column, row, wide, high, entries }) => [
      formatPrefix(prefix),
      column,
      row,
      wide,
      high,
      entries.length,
    ]),
  ).toEqual([
    ['10.10.64.0/19', 0, 4, 16, 2, 1],
    ['10.10.40.0/22', 8, 2, 4, 1, 1],
    ['10.10.20.0/24', 4, 1, 1, 1, 2],
  ]);
  expect(tiles.some((tile) => tile.overlaps)).toBe(false);
  expect(planTiles(parent, ['10.10.0.0/20', '10.10.4.0/24'].map(entry)).every((tile) => tile.overlaps)).toBe(true);
  expect(formatPrefix(cellAt(parent, 4, 1))).toBe('10.10.20.0/24');
  expect(formatPrefix(outOf(cellAt(parent, 4, 1)))).toBe('10.10.0.0/16');
});
