import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { allBest, bestPlan, costOf, leastOfClique, lowerBound, searchPlan, worthMoving, type ChannelProblem } from '.';

const apart = (channels: number): number[][] =>
  Array.from({ length: channels }, (_, a) => Array.from({ length: channels }, (__, b) => (a === b ? 1 : 0)));

/** Radios that hear each other as they happen to. */
const problems = (most: number) =>
  fc
    .record({
      radios: fc.integer({ min: 2, max: most }),
      channels: fc.integer({ min: 2, max: 4 }),
      seed: fc.integer(),
      near: fc.boolean(),
      fussy: fc.boolean(),
    })
    .map(({ radios, channels, seed, near, fussy }): ChannelProblem => {
      let state = seed >>> 0;
      const next = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
      const weights = Array.from({ length: radios }, () => Array<number>(radios).fill(0));
      for (let i = 0; i < radios; i++)
        for (let j = i + 1; j < radios; j++)
          weights[i]![j] = weights[j]![i] = next() < 0.4 ? 0 : Math.floor(next() * 90);
      const shares = apart(channels).map((row, a) =>
        row.map((share, b) => (near && Math.abs(a - b) === 1 ? 0.3 : share)),
      );
      if (!fussy) return { weights, shares };
      const own = weights.map(() => shares.map(() => Math.floor(next() * 20)));
      const allowed = weights.map((_, i) => shares.map((__, c) => c).filter((c) => c !== i % channels || channels < 3));
      return { weights, shares, own, allowed };
    });

/** The least cost of all assignments there are. */
function byTrial(problem: ChannelProblem): { cost: number; count: number; first: number[] } {
  const all = problem.shares.map((_, c) => c);
  let best = { cost: Infinity, count: 0, first: [] as number[] };
  const visit = (assignment: number[]): void => {
    if (assignment.length < problem.weights.length) {
      for (const c of problem.allowed?.[assignment.length] ?? all) visit([...assignment, c]);
      return;
    }
    const cost = costOf(problem, assignment);
    if (cost < best.cost - 1e-9) best = { cost, count: 1, first: assignment };
    else if (cost < best.cost + 1e-9) best.count++;
  };
  visit([]);
  return best;
}

describe('a plan of channels', () => {
  test('that is proven costs what trying them all finds, and so do all that are as good', () => {
    fc.assert(
      fc.property(problems(6), (problem) => {
        const tried = byTrial(problem);
        expect(bestPlan(problem)!.cost).toBeCloseTo(tried.cost, 9);
        expect(allBest(problem, tried.cost)).toEqual({ count: tried.count, first: tried.first });
      }),
      { numRuns: 60 },
    );
  });

  test('that is searched for keeps to what is allowed, and is within 2 % of the cheapest', () => {
    fc.assert(
      fc.property(problems(11), (problem) => {
        const { assignment, cost } = searchPlan(problem);
        expect(cost).toBeCloseTo(costOf(problem, assignment), 9);
        for (const [i, choice] of assignment.entries()) expect(problem.allowed?.[i] ?? [choice]).toContain(choice);
        expect(cost).toBeLessThanOrEqual(bestPlan(problem)!.cost * 1.02 + 1e-9);
        expect(searchPlan(problem).assignment).toEqual(assignment);
      }),
      { numRuns: 60 },
    );
  });

  test('that differs from a good one in nearly all radios is found', () => {
    const weights = [
      [0, 0, 0, 0, 34, 89, 26, 0, 27, 0],
      [0, 0, 0, 29, 0, 19, 0, 3, 0, 17],
      [0, 0, 0, 53, 0, 0, 0, 0, 0, 0],
      [0, 29, 53, 0, 40, 4, 37, 0, 66, 0],
      [34, 0, 0, 40, 0, 52, 0, 56, 0, 0],
      [89, 19, 0, 4, 52, 0, 47, 62, 0, 22],
      [26, 0, 0, 37, 0, 47, 0, 63, 0, 39],
      [0, 3, 0, 0, 56, 62, 63, 0, 0, 61],
      [27, 0, 0, 66, 0, 0, 0, 0, 0, 75],
      [0, 17, 0, 0, 0, 22, 39, 61, 75, 0],
    ];
    const own = [
      '5 13 0',
      '11 10 17',
      '6 2 6',
      '15 15 14',
      '0 11 12',
      '7 6 13',
      '0 18 18',
      '12 7 11',
      '16 12 10',
      '9 7 8',
    ];
    const problem = {
      weights,
      shares: apart(3),
      own: own.map((row) => row.split(' ').map(Number)),
      allowed: weights.map((_, i) => [0, 1, 2].filter((choice) => choice !== i % 3)),
    };
    for (let seed = 1; seed <= 20; seed++) expect(searchPlan(problem, { seed }).cost).toBe(185);
  });

  test('never costs less than its lower bound, which is met where all hear each other alike', () => {
    fc.assert(
      fc.property(problems(9), (problem) => {
        expect(lowerBound(problem)).toBeLessThanOrEqual(bestPlan(problem)!.cost + 1e-9);
      }),
      { numRuns: 60 },
    );
    const alike = Array.from({ length: 25 }, (_, i) => Array.from({ length: 25 }, (__, j) => (i === j ? 0 : 1)));
    const problem = { weights: alike, shares: apart(3) };
    expect([lowerBound(problem), searchPlan(problem).cost, leastOfClique(25, 3, 1)]).toEqual([92, 92, 92]);
  });

  test('of a ring on two channels is free where the ring is even', () => {
    const ring = (n: number) =>
      Array.from({ length: n }, (_, i) =>
        Array.from({ length: n }, (__, j) => (j === (i + 1) % n || i === (j + 1) % n ? 1 : 0)),
      );
    expect(bestPlan({ weights: ring(6), shares: apart(2) })!.cost).toBe(0);
    expect(bestPlan({ weights: ring(7), shares: apart(2) })!.cost).toBe(1);
  });

  test('begins from the one that is there, ends when it is told to, and refuses what makes no sense', () => {
    const weights = [
      [0, 1],
      [1, 0],
    ];
    expect(searchPlan({ weights, shares: apart(2) }, { from: [1, 0] }).assignment).toEqual([1, 0]);
    const heard: number[] = [];
    const three = [
      [0, 1, 1],
      [1, 0, 1],
      [1, 1, 0],
    ];
    searchPlan({ weights: three, shares: apart(2) }, { going: (done) => heard.push(done) < 3 });
    expect(heard).toHaveLength(3);
    expect(() =>
      searchPlan({
        weights: [
          [0, 1],
          [2, 0],
        ],
        shares: apart(2),
      }),
    ).toThrow('weights are symmetric');
    expect(() => searchPlan({ weights, shares: apart(2), allowed: [[], [0]] })).toThrow('nothing to choose');
  });

  test('is taken only where it gains more than its moves cost, and more than a little', () => {
    expect(worthMoving(90, 60, 3, 5, 0.05)).toBe(true);
    expect(worthMoving(90, 60, 7, 5, 0.05)).toBe(false);
    expect(worthMoving(1000, 960, 1, 5, 0.05)).toBe(false);
  });
});
