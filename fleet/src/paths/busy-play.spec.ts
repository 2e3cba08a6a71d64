import { maxMin } from '@iron-lattice/core/traffic';
import { describe, expect, test } from 'vitest';
import { playBusy, playTurns } from './busy-play';

/** A reproducible chance. */
function chanceFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}
const isNear = (got: number, wanted: number): boolean => Math.abs(got - wanted) <= 0.04 * wanted + 20;

describe('senders that are all busy', () => {
  test.each([
    [[1, 1, 1], []],
    [[3, 1], []],
    [[1, 5, 2, 2], []],
    [
      [4, 1, 1],
      [1500, Infinity, 300],
    ],
    [
      [1, 1],
      [100, 100],
    ],
  ])('of weights %j and caps %j get what is computed', (weights, caps) => {
    for (const kbps of [4000, 60_000]) {
      const senders = weights.map((weight, i) => ({ weight, most: caps[i] ?? Infinity }));
      const got = playTurns(kbps, senders, chanceFrom(7));
      const demands = senders.map(({ most }) => Math.min(most, kbps));
      const wanted = maxMin(kbps, demands, weights);
      got.forEach((each, i) => expect([i, each, isNear(each, wanted[i]!)]).toEqual([i, each, true]));
    }
  });
});

test('weights count while what is kept to is less than the provider carries; beyond that queues stand there', () => {
  const document = { leaving: { parts: [{ vlan: 20, weight: 3 }] } };
  const shape = { down: 40_000, up: 8000 };
  const held = playBusy(document, shape, [10, 20], { down: 50, up: 10 });
  expect(held.map(({ vlan }) => vlan)).toEqual([10, 20]);
  expect(isNear(held[0]!.down * 1000, 10_000) && isNear(held[1]!.down * 1000, 30_000)).toBe(true);
  const beyond = playBusy(document, shape, [10, 20], { down: 30, up: 10 });
  expect(isNear(beyond[0]!.down * 1000, 15_000) && isNear(beyond[1]!.down * 1000, 15_000)).toBe(true);
  expect(isNear(beyond[1]!.up * 1000, 6000)).toBe(true);
});
