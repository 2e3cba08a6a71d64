import fc from 'fast-check';
import { expect, test } from 'vitest';
import { parseIp } from '../address';
import {
  blockedShare,
  effectiveImpairment,
  expectedShares,
  fromSamples,
  isFairlyShared,
  jitters,
  noticedAfter,
  opinionOf,
  PathChoice,
  pickUplink,
  plainDelayImpairment,
  ratingOf,
  smoothTrips,
  smoothTurns,
  strainOf,
  waitingShare,
  watchingCost,
  wronglyGoneEvery,
  type Flow,
  type PathMeasure,
} from '.';

const flow = (n: number, more: Partial<Flow> = {}): Flow => ({
  ...{ protocol: 6, source: parseIp(`10.0.${(n >> 8) & 255}.${n & 255}`)!, destination: parseIp('198.51.100.7')! },
  ...{ sourcePort: 1024 + n, port: 443, ...more },
});
const uplinks = fc
  .uniqueArray(fc.nat(50), { minLength: 1, maxLength: 6 })
  .chain((ids) =>
    fc.tuple(...ids.map((id) => fc.record({ id: fc.constant(id), weight: fc.integer({ min: 1, max: 9 }) }))),
  );

test('flows are shared as the weights are, and where an uplink fails its own move alone', () => {
  const three = [1, 2, 3].map((id) => ({ id, weight: [5, 3, 2][id - 1]! }));
  const counts = three.map(
    ({ id }) =>
      Array.from({ length: 4000 }, (_, n) => pickUplink(flow(n), three)!.id).filter((each) => each === id).length,
  );
  expect(isFairlyShared(counts, [5, 3, 2])).toBe(true);
  expect(isFairlyShared(counts, [1, 1, 1])).toBe(false);
  fc.assert(
    fc.property(uplinks, fc.nat(60_000), fc.nat(5), (all, n, which) => {
      const before = pickUplink(flow(n), all)!.id;
      const lost = all[which % all.length]!.id;
      const after = pickUplink(
        flow(n),
        all.map((each) => (each.id === lost ? { ...each, down: true } : each)),
      )?.id;
      if (before !== lost) expect(after).toBe(before);
      else expect(after).not.toBe(lost);
      // The order in which they stand is no matter.
      expect(pickUplink(flow(n), [...all].reverse())!.id).toBe(before);
    }),
  );
  expect(
    pickUplink(flow(1), [
      { id: 1, weight: 0 },
      { id: 2, weight: 3, down: true },
    ]),
  ).toBeNull();
  const six = flow(1, { source: parseIp('2001:db8::1')!, destination: parseIp('2001:db8::2')! });
  expect(pickUplink(six, [{ id: 7, weight: 1 }])!.id).toBe(7);
});

test('what uplinks are to get follows from their weights; where all are 0 none gets any, and none is below', () => {
  expect(expectedShares([3, 1], 1000)[0]).toMatchObject({ mean: 750, sigma: expect.closeTo(13.693, 3) });
  expect(expectedShares([0, 0], 10)).toEqual([0, 1].map(() => ({ mean: 0, sigma: 0 })));
  expect(() => expectedShares([-1], 10)).toThrow(RangeError);
  expect(smoothTurns([5, 1, 1], 7)).toEqual([0, 0, 1, 0, 2, 0, 0]);
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 6 }), (weights) => {
      const all = weights.reduce((sum, weight) => sum + weight, 0);
      const turns = smoothTurns(weights, all);
      expect(weights.map((_, i) => turns.filter((each) => each === i).length)).toEqual(weights);
    }),
  );
});

test('how soon a failure is noticed, how often one is wrongly, and what watching costs', () => {
  expect(noticedAfter({ interval: 30, losses: 2, timeout: 3 })).toEqual({ best: 33, mean: 48, worst: 63 });
  expect(wronglyGoneEvery({ interval: 1, losses: 3 }, 0.01)).toBeCloseTo(1_010_100, 0);
  expect(watchingCost(1, 2)).toEqual({ bitsASecond: 2688, megabytesAMonth: expect.closeTo(870.912, 3) });
  for (const wrong of [
    () => noticedAfter({ interval: 0, losses: 1, timeout: 1 }),
    () => noticedAfter({ interval: 1, losses: 0, timeout: 1 }),
    () => wronglyGoneEvery({ interval: 1, losses: 3 }, 1),
    () => watchingCost(0, 1),
  ])
    expect(wrong).toThrow(RangeError);
  // More losses in a row: later noticed, and seldom wrongly.
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 9 }), fc.double({ min: 0.001, max: 0.9, noNaN: true }), (losses, loss) => {
      const [one, next] = [losses, losses + 1].map((each) => ({ interval: 2, losses: each, timeout: 1 }));
      expect(noticedAfter(next!).best).toBeGreaterThan(noticedAfter(one!).best);
      expect(wronglyGoneEvery(next!, loss)).toBeGreaterThan(wronglyGoneEvery(one!, loss));
    }),
  );
});

test('the first path that meets the needs is taken, none is left for one bad window, nor taken again for one good', () => {
  const good: PathMeasure = { loss: 0.1, latency: 40, jitter: 5 };
  const lossy = { ...good, loss: 3 };
  const needs = { loss: 1, latency: 150 };
  const choice = new PathChoice(2, needs, { bad: 3, good: 2, margin: 0.1 });
  const windows = [good, lossy, good, lossy, lossy, lossy, good, lossy, good, good].map((first) =>
    choice.next([first, good]),
  );
  expect(windows).toEqual([0, 0, 0, 0, 0, 1, 1, 1, 1, 0]);
  // One that is just good enough is not well enough to come back.
  const edge = { ...good, loss: 0.95 };
  expect([lossy, lossy, lossy, edge, edge, edge].map((first) => choice.next([first, good]))).toEqual([
    0, 0, 1, 1, 1, 1,
  ]);
  // None meets them: the nearest of those that are up; none is up: none.
  const poor = new PathChoice(3, needs, { bad: 1, good: 1, margin: 0 });
  expect(poor.next([{ ...good, loss: 9 }, { ...good, loss: 2 }, null])).toBe(1);
  expect(poor.next([null, null, null])).toBeNull();
  expect(strainOf(good, {})).toBe(0);
  expect(strainOf(good, { loss: 0 })).toBe(Infinity);
});

test('a call is as good as its delay and losses let it be', () => {
  const concealed = { impairment: 0, robustness: 25.1 };
  const at = (delay: number, loss: number): number => opinionOf(ratingOf(concealed, { delay, loss }));
  expect([at(100, 0), at(200, 0), at(300, 0), at(100, 1), at(100, 3)].map((each) => each.toFixed(2))).toEqual([
    ...['4.41', '4.34', '3.96', '4.33', '4.13'],
  ]);
  expect(opinionOf(ratingOf(concealed, { delay: 300, loss: 0 }, plainDelayImpairment))).toBeCloseTo(3.71, 2);
  expect(effectiveImpairment({ impairment: 11, robustness: 19 }, { delay: 0, loss: 2 })).toBe(19);
  expect([opinionOf(-5), opinionOf(120), opinionOf(3)]).toEqual([1, 4.5, 1]);
  expect([blockedShare(10, 10).toFixed(4), waitingShare(2, 3).toFixed(4), waitingShare(3, 3)]).toEqual([
    '0.2146',
    '0.4444',
    1,
  ]);
  expect(() => blockedShare(-1, 1)).toThrow(RangeError);
});

test('jitter, round trips and samples are smoothed and scaled as their standards have it', () => {
  expect(jitters([16, -8, 0])).toEqual([1, 1.4375, 1.34765625]);
  expect(smoothTrips([100, 120])).toEqual([
    { smooth: 100, varies: 50 },
    { smooth: 102.5, varies: 42.5 },
  ]);
  expect(fromSamples(512, 1000, 600_000)).toEqual({
    packets: 512_000,
    octets: 307_200_000,
    error: expect.closeTo(6.198, 3),
  });
  expect(fromSamples(512, 0, 0).error).toBeNull();
});
