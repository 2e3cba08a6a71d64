import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { burstOctets, capFlaws, plainCaps, shareOf, sharesAmong, tokenBucket, type Limit } from '.';

const each = (kbps: number): Limit => ({ of: 'client', each: true, kbps });
const all = (kbps: number): Limit => ({ of: 'all', each: false, kbps });

describe('caps', () => {
  test('of 0, or of what no cap is, are refused at their field', () => {
    const codes = (caps: Parameters<typeof capFlaws>[0]) =>
      capFlaws(caps, 'switch it off').map(({ code, field }) => [code, field]);
    expect(codes({ client: { down: 0 } })).toEqual([['caps.zero', 'caps.client.down']]);
    expect(codes({ all: { up: 63 }, burst: 6000 })).toEqual([
      ['caps.range', 'caps.all.up'],
      ['caps.burst', 'caps.burst'],
    ]);
    expect(codes({ client: { down: 5000, up: null }, all: { down: 100_000 }, burst: 200 })).toEqual([]);
  });

  test('that say nothing are not kept', () => {
    expect(plainCaps({ client: { down: null }, all: null, burst: 300 })).toBeUndefined();
    expect(plainCaps({ client: { down: 500, up: null }, burst: 100 })).toEqual({ client: { down: 500 } });
  });

  test('have a bucket that lets the longest frame pass, and no more than is said', () => {
    expect(burstOctets(64, 20)).toBe(3028);
    expect(burstOctets(8000, null)).toBe(100_000);
    const packets = Array.from({ length: 20_000 }, (_, i) => [i * 100, 1514] as const);
    const { passed } = tokenBucket(8_000_000, burstOctets(8000, null), packets);
    const octets = 1514 * passed.filter(Boolean).length;
    expect(octets).toBeLessThanOrEqual(100_000 + (8_000_000 * 2) / 8);
    expect(octets).toBeGreaterThan(0.99 * (100_000 + (8_000_000 * 2) / 8) - 1514);
  });
});

describe('what each of many gets', () => {
  test('is the least of what it meets, and which one that is can be told', () => {
    const limits = [each(10_000), all(50_000)];
    expect([1, 2, 5, 20, 100].map((n) => shareOf(limits, n)!.kbps)).toEqual([10_000, 10_000, 10_000, 2500, 500]);
    expect([1, 20].map((n) => shareOf(limits, n)!.by.of)).toEqual(['client', 'all']);
    expect(shareOf([], 3)).toBeNull();
  });

  test('leaves to others what a group may not have', () => {
    const guests = { count: 10, limits: [each(5000), all(20_000)] };
    expect(sharesAmong([guests, { count: 2, limits: [] }], [all(100_000)])).toEqual([2000, 40_000]);
    expect(sharesAmong([guests], [])).toEqual([2000]);
    expect(sharesAmong([{ count: 3, limits: [] }], [])).toEqual([Infinity]);
    expect(sharesAmong([guests, { count: 90, limits: [] }], [all(100_000)])).toEqual([1000, 1000]);
  });

  test('never sums to more than all may have, nor is above what each may', () => {
    const limit = fc.record({ of: fc.constant('x'), each: fc.boolean(), kbps: fc.integer({ min: 64, max: 1e6 }) });
    const group = fc.record({ count: fc.integer({ min: 0, max: 50 }), limits: fc.array(limit, { maxLength: 3 }) });
    const run = fc.property(fc.array(group, { maxLength: 4 }), fc.array(limit, { maxLength: 2 }), (groups, around) => {
      const shares = sharesAmong(groups, around);
      let sum = 0;
      for (const [i, { count, limits }] of groups.entries()) {
        const share = shares[i]!;
        if (count === 0) continue;
        sum += share * count;
        for (const { each: own, kbps } of limits)
          expect(own ? share : share * count).toBeLessThanOrEqual(kbps * 1.0001);
        for (const { each: own, kbps } of around) if (own) expect(share).toBeLessThanOrEqual(kbps * 1.0001);
      }
      for (const { each: own, kbps } of around) if (!own) expect(sum).toBeLessThanOrEqual(kbps * 1.0001);
    });
    fc.assert(run);
  });
});
