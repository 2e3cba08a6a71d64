import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  checked,
  healthy,
  holdOf,
  noticedAfter,
  shareVerdict,
  Together,
  unplugged,
  type Health,
  type HealthRule,
} from '.';

const RULE: HealthRule = { losses: 3, good: 2, hold: 10 };
const run = (answers: string, start: Health = healthy(0), every = 5000, from = 0): Health[] => {
  const all: Health[] = [];
  let now = start;
  [...answers].forEach((one, i) => all.push((now = checked(now, one === '1', from + i * every, RULE))));
  return all;
};

describe('an uplink that is watched', () => {
  test('is gone after so many rounds in a row without an answer, and no sooner', () => {
    expect(run('1001001000').map(({ good }) => good)).toEqual([...Array<boolean>(9).fill(true), false]);
  });

  test('is back once it answered so often, and for so long', () => {
    const gone = unplugged(healthy(0), 1000);
    expect(gone).toMatchObject({ good: false, since: 1000 });
    // Two answers are there after 5 s, and 10 s have to pass.
    expect(run('1111', gone, 5000, 2000).map(({ good }) => good)).toEqual([false, false, true, true]);
    expect(run('1101111', gone, 5000, 2000).map(({ good }) => good)).toEqual([
      ...[false, false, false, false, false, true, true],
    ]);
  });

  test('has to stay good twice as long each time it goes soon after it came, until it holds', () => {
    let now = healthy(0);
    let at = 0;
    const waits: number[] = [];
    for (let i = 0; i < 8; i++) {
      now = unplugged(now, (at += 1000));
      const went = at;
      while (!now.good) now = checked(now, true, (at += 1000), RULE);
      waits.push((at - went) / 1000 - 1);
    }
    expect(waits).toEqual([10, 20, 40, 80, 160, 320, 320, 320]);
    now = unplugged(now, at + 3_600_000);
    expect(holdOf(RULE, now)).toBe(10);
  });

  test('is noticed to be gone within what was computed, whenever it goes', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.5, max: 60, noNaN: true }),
        fc.integer({ min: 1, max: 8 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (interval, losses, part, phase) => {
          const timeout = interval * part;
          const { best, worst } = noticedAfter({ interval, losses, timeout });
          // Checks begin at 0, interval, …; it goes at `phase` of an interval.
          const cut = phase * interval;
          let now = healthy(0);
          for (let i = 0; now.good; i++) {
            const sent = i * interval;
            now = checked(now, sent < cut, (sent + timeout) * 1000, { losses, good: 1, hold: 0 });
          }
          const took = now.since / 1000 - cut;
          expect(took).toBeGreaterThanOrEqual(best - 1e-6);
          expect(took).toBeLessThanOrEqual(worst + 1e-6);
        },
      ),
    );
  });
});

describe('uplinks used together', () => {
  const three = [
    { port: 'a', weight: 2, standby: null },
    { port: 'b', weight: 1, standby: null },
    { port: 'c', weight: 1, standby: 1 },
    { port: 'd', weight: 1, standby: 0 },
  ];
  const ports = (together: Together, at = 0): string =>
    together
      .used(at)
      .map(({ port }) => port)
      .join('');

  test('a standby begins when all are gone, or when any is, the lowest turn first', () => {
    const all = new Together(three, { begins: 'all', back: 0 });
    expect(ports(all)).toBe('ab');
    all.told('a', false, 0);
    expect(ports(all)).toBe('b');
    all.told('b', false, 0);
    expect(ports(all)).toBe('d');
    all.told('d', false, 0);
    expect(ports(all)).toBe('c');
    const any = new Together(three, { begins: 'any', back: 0 });
    any.told('b', false, 0);
    expect(ports(any)).toBe('ad');
  });

  test('where nothing is good and nothing has a link nobody is served', () => {
    const together = new Together(three, { begins: 'all', back: 0 });
    for (const { port } of three) together.told(port, false, 0);
    expect(ports(together)).toBe('a');
    together.link('a', false);
    expect(ports(together)).toBe('b');
    for (const { port } of three) together.link(port, false);
    expect(ports(together)).toBe('');
  });

  test('one that came back is used again after its time, by hand, or never; before that only if nothing else is left', () => {
    const timed = new Together(three, { begins: 'all', back: 30 });
    for (const port of ['a', 'b']) timed.told(port, false, 0);
    timed.told('a', true, 10_000);
    expect([ports(timed, 20_000), timed.due(20_000), timed.waiting(20_000)]).toEqual(['d', 40_000, ['a']]);
    expect([ports(timed, 40_000), timed.due(40_000), timed.waiting(40_000)]).toEqual(['a', null, []]);
    const hand = new Together(three, { begins: 'all', back: 'hand' });
    for (const port of ['a', 'b']) hand.told(port, false, 0);
    hand.told('a', true, 0);
    expect([ports(hand, 1e9), hand.due(0)]).toEqual(['d', null]);
    hand.told('d', false, 0);
    hand.told('c', false, 0);
    expect(ports(hand, 1e9)).toBe('a');
    hand.told('d', true, 0);
    expect(ports(hand, 1e9)).toBe('a');
    hand.bringBack();
    expect(ports(hand, 1e9)).toBe('a');
    hand.told('a', false, 1e9);
    expect(ports(hand, 1e9)).toBe('d');
  });

  test('somebody is always served while anything is good, and nobody by what is gone; else what has a link is tried', () => {
    const rule = fc.record({
      begins: fc.constantFrom('any' as const, 'all' as const),
      back: fc.oneof(fc.integer({ min: 0, max: 60 }), fc.constantFrom('hand' as const, 'never' as const)),
    });
    const step = fc.tuple(fc.constantFrom('a', 'b', 'c', 'd'), fc.boolean(), fc.integer({ min: 0, max: 20_000 }));
    fc.assert(
      fc.property(rule, fc.array(step, { maxLength: 30 }), (how, steps) => {
        const together = new Together(three, how);
        const good = new Set('abcd');
        let at = 0;
        for (const [port, isGood, ms] of steps) {
          at += ms;
          together.told(port, isGood, at);
          if (isGood) good.add(port);
          else good.delete(port);
          const used = together.used(at).map((each) => each.port);
          expect(used.length).toBeGreaterThan(0);
          expect(used.every((each) => good.has(each))).toBe(good.size > 0);
        }
      }),
    );
  });
});

test('shares as asked for are told from others by so many sessions', () => {
  const verdict = (counts: readonly number[], weights: readonly number[]): boolean =>
    shareVerdict(counts, weights).fits;
  expect(verdict([745, 255], [3, 1])).toBe(true);
  expect(verdict([680, 320], [3, 1])).toBe(false);
  // Of few nobody can tell.
  expect(verdict([5, 4], [3, 1])).toBe(true);
  expect([verdict([10, 1], [1, 0]), verdict([10, 0], [1, 0]), verdict([], [])]).toEqual([false, true, true]);
  expect(shareVerdict([75, 25], [3, 1]).ranges).toEqual([
    { least: 63, most: 87 },
    { least: 13, most: 37 },
  ]);
  // Quantiles of chi-square at 0.9973 with 1, 2 and 9 degrees of freedom.
  const bound = (count: number): number =>
    shareVerdict(Array<number>(count).fill(1), Array<number>(count).fill(1)).bound;
  for (const [count, exact] of [
    [2, 9],
    [3, 11.83],
    [10, 25.26],
  ] as const)
    expect(Math.abs(bound(count) / exact - 1)).toBeLessThan(0.02);
});
