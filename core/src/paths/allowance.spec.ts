import fc from 'fast-check';
import { expect, test } from 'vitest';
import { allowanceState, periodEnd, periodStart } from '.';

test.each([
  ['2026-11-30', 1, '2026-11-01', '2026-12-01'],
  ['2026-11-04', 5, '2026-10-05', '2026-11-05'],
  ['2026-11-05', 5, '2026-11-05', '2026-12-05'],
  ['2026-01-03', 28, '2025-12-28', '2026-01-28'],
  ['2028-02-29', 28, '2028-02-28', '2028-03-28'],
])('on %s a month that begins anew on day %i began on %s', (day, anew, start, end) => {
  expect([periodStart(day, anew), periodEnd(day, anew)]).toEqual([start, end]);
});

test('every day is in exactly the month that begins before it and ends after it', () => {
  const days = fc.integer({ min: 0, max: 20_000 }).map((n) => new Date(n * 86_400_000).toISOString().slice(0, 10));
  fc.assert(
    fc.property(days, fc.integer({ min: 1, max: 28 }), (day, anew) => {
      const [start, end] = [periodStart(day, anew), periodEnd(day, anew)];
      expect(start <= day && day < end).toBe(true);
      expect(periodStart(end, anew)).toBe(end);
    }),
  );
});

test('an allowance is used up when its day comes at the pace so far; what is beyond it costs', () => {
  const of = { allowance: 50, anew: 1, price: 2 };
  const at = (gigabytes: number, today = '2026-11-16', part = 0) =>
    allowanceState({ octets: gigabytes * 1e9, since: '2026-11-01', today, part }, of);
  // 30 GB in 15 days: 50 after 25.
  expect(at(30)).toEqual({ share: 0.6, beyond: 0, cost: 0, until: '2026-11-26' });
  expect(at(20).until).toBeNull();
  expect(at(53)).toEqual({ share: 1.06, beyond: 3, cost: 6, until: null });
  expect(at(0, '2026-11-01').until).toBeNull();
});
