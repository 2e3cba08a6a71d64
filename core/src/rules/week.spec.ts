import fc from 'fast-check';
import { expect, test } from 'vitest';
import { dayOf, HALF_HOURS, halfHoursOf, isInForce, readTimes, spansOfHalfHours, WEEK, writeTimes } from './week';

const painted = fc.array(fc.boolean(), { minLength: HALF_HOURS, maxLength: HALF_HOURS });

test('half hours as they are painted are the same again once they were spans, or typed', () => {
  fc.assert(
    fc.property(painted, (on) => {
      const spans = spansOfHalfHours(on);
      expect(halfHoursOf(spans)).toEqual(on);
      expect(halfHoursOf(readTimes(writeTimes(spans))!)).toEqual(on);
      for (let minute = 15; minute < WEEK; minute += 30) {
        if (spans.length > 0) expect(isInForce(spans, minute)).toBe(on[Math.floor(minute / 30)]);
      }
    }),
    { numRuns: 30 },
  );
});

test('days that are alike are said together, nights are cut at midnight', () => {
  const spans = spansOfHalfHours(halfHoursOf(readTimes('Mon-Fri 08:00-18:00; Fri-Sat 22:00-02:00')!));
  expect(writeTimes(spans)).toBe('Mon-Fri 08:00-18:00; Fri,Sat 22:00-24:00; Sat,Sun 00:00-02:00');
  expect(spansOfHalfHours(Array.from({ length: HALF_HOURS }, () => true))).toEqual([
    { days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '24:00' },
  ]);
});

test('a day is that of the clock that is asked', () => {
  const at = Date.parse('2026-12-31T23:30:00Z');
  expect(dayOf(at, 'Europe/Dublin')).toBe('2026-12-31');
  expect(dayOf(at, 'Europe/Berlin')).toBe('2027-01-01');
});
