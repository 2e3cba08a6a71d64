import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { groupShares, maxMin, mostOctets, singleRateColours, tokenBucket, twoRateColours, type Packet } from '.';

const amount = fc.integer({ min: 0, max: 1000 });
const packets = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 20_000 }), fc.integer({ min: 1, max: 1500 })), { maxLength: 60 })
  .map((list) => [...list].sort((a, b) => a[0] - b[0]) as Packet[]);

describe('a limit', () => {
  test('lets no window have more than its burst and its rate, and a packet that is larger than its burst never', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8000, max: 50_000_000 }),
        fc.integer({ min: 0, max: 4000 }),
        packets,
        (rate, burst, list) => {
          const { passed, left } = tokenBucket(rate, burst, list);
          expect(left).toBeLessThanOrEqual(burst);
          for (let from = 0; from < list.length; from++)
            for (let to = from, sum = 0; to < list.length; to++) {
              if (passed[to]) sum += list[to]![1];
              const seconds = (list[to]![0] - list[from]![0]) / 1e6;
              expect(sum).toBeLessThanOrEqual(mostOctets(rate, burst, seconds) + 1e-6);
            }
          list.forEach(([, octets], i) => expect(octets > burst && passed[i]).toBe(false));
        },
      ),
      { numRuns: 200 },
    );
  });

  test('is exact to the last bit, and told what is no rate', () => {
    expect(
      tokenBucket(8_000_000, 1500, [
        [0, 1500],
        [1499, 1500],
        [1500, 1500],
      ]).passed,
    ).toEqual([true, false, true]);
    expect(() => tokenBucket(-1, 1500, [])).toThrow(RangeError);
    expect(() => tokenBucket(1.5, 1500, [])).toThrow(RangeError);
  });

  test('of three colours: green never above the committed rate, and what is green under two rates is so under the first alone', () => {
    fc.assert(
      fc.property(packets, (list) => {
        const colours = twoRateColours(100_000, 2000, 200_000, 3000, list);
        const green = list.filter((_, i) => colours[i] === 'green').reduce((sum, [, octets]) => sum + octets, 0);
        const span = list.length > 0 ? (list.at(-1)![0] - list[0]![0]) / 1e6 : 0;
        expect(green).toBeLessThanOrEqual(2000 + 100_000 * span + 1e-6);
        const single = singleRateColours(100_000, 2000, 1000, list);
        const passed = list.filter((_, i) => single[i] !== 'red').reduce((sum, [, octets]) => sum + octets, 0);
        expect(passed).toBeLessThanOrEqual(3000 + 100_000 * span + 1e-6);
      }),
      { numRuns: 200 },
    );
  });
});

describe('fair shares', () => {
  test('use all that is asked for and there, give nobody more than asked, and take from nobody for one who has more', () => {
    fc.assert(
      fc.property(
        amount,
        fc.array(fc.tuple(amount, fc.integer({ min: 1, max: 5 })), { maxLength: 12 }),
        (capacity, all) => {
          const [demands, weights] = [all.map(([demand]) => demand), all.map(([, weight]) => weight)];
          const shares = maxMin(capacity, demands, weights);
          const sum = shares.reduce((a, b) => a + b, 0);
          expect(sum).toBeCloseTo(
            Math.min(
              capacity,
              demands.reduce((a, b) => a + b, 0),
            ),
            6,
          );
          const level = Math.max(0, ...shares.map((share, i) => share / weights[i]!));
          shares.forEach((share, i) => {
            expect(share).toBeLessThanOrEqual(demands[i]! + 1e-9);
            // Who is not content has as much of its weight as anybody.
            if (share < demands[i]! - 1e-6) expect(share / weights[i]!).toBeCloseTo(level, 6);
          });
        },
      ),
    );
  });

  test('of groups keep to the caps of all, of each group and of each client', () => {
    const group = fc.record({ cap: amount, clientCap: amount, demands: fc.array(amount, { maxLength: 6 }) });
    fc.assert(
      fc.property(amount, fc.array(group, { maxLength: 5 }), (capacity, groups) => {
        const shares = groupShares(capacity, groups);
        let all = 0;
        shares.forEach((given, i) => {
          const sum = given.reduce((a, b) => a + b, 0);
          all += sum;
          expect(sum).toBeLessThanOrEqual(groups[i]!.cap + 1e-6);
          given.forEach((share, j) =>
            expect(share).toBeLessThanOrEqual(Math.min(groups[i]!.clientCap, groups[i]!.demands[j]!) + 1e-9),
          );
        });
        expect(all).toBeLessThanOrEqual(capacity + 1e-6);
      }),
    );
    const [third] = groupShares(10, [{ cap: Infinity, clientCap: Infinity, demands: [0, 4, 5, 20] }]);
    expect(third!.map((share) => Math.round(share * 1000))).toEqual([0, 3333, 3333, 3333]);
    expect(() => maxMin(-1, [])).toThrow(RangeError);
  });
});
