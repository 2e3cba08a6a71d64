import fc from 'fast-check';
import { expect, test } from 'vitest';
import { appliesAtMoment, momentAt, momentOn, momentsOf, momentWords, type When } from './moment';
import { readTimes, WEEK } from './week';

test('a moment of a day is one of its weekday, and reads as both', () => {
  // 2026-12-25 is a Friday; 2027-01-01 as well, a week later.
  expect(momentWords(momentOn('2026-12-25', 8 * 60 + 30))).toBe('Fri 08:30 on 2026-12-25');
  expect(momentOn('2027-01-01', 0) - momentOn('2026-12-25', 0)).toBe(7 * WEEK);
  expect(momentOn('2026-12-25', 5) % WEEK).toBe(4 * 1440 + 5);
  expect(momentOn('1970-01-01', 0)).toBeGreaterThanOrEqual(WEEK);
  expect(momentWords(4 * 1440)).toBe('Fri 00:00');
  // By the clock of the zone: it is still Thursday in New York.
  const at = Date.parse('2026-12-25T03:00:00Z');
  expect(momentWords(momentAt(at, 'America/New_York'))).toBe('Thu 22:00 on 2026-12-24');
  expect(momentAt(at, 'Europe/Athens')).toBe(momentOn('2026-12-25', 5 * 60));
});

test('what leaves a day out does not apply on it, whatever its hours are, and applies on the same weekday else', () => {
  const office: When = { times: readTimes('Mon-Fri 08:00-18:00')!, closed: ['2026-12-25'] };
  expect(appliesAtMoment(office, momentOn('2026-12-25', 600))).toBe(false);
  expect(appliesAtMoment(office, momentOn('2027-01-01', 600))).toBe(true);
  expect(appliesAtMoment(office, 4 * 1440 + 600)).toBe(true); // a Friday as others
  expect(appliesAtMoment({ closed: ['2026-12-25'] }, momentOn('2026-12-25', 0))).toBe(false);
  expect(appliesAtMoment({}, momentOn('2026-12-25', 0))).toBe(true);
  expect(momentsOf([office]).map(momentWords)).toEqual(['Mon 00:00', 'Mon 08:00']);
  const both = momentsOf([office, { times: readTimes('Fri 06:00-24:00')! }]).map(momentWords);
  // Only on that day the second applies at ten while the first does not; before and after office it does so every Friday.
  expect(both).toEqual(['Mon 00:00', 'Mon 08:00', 'Fri 06:00', 'Fri 08:00']);
  const other: When = { times: readTimes('Mon-Fri 09:00-17:00')! };
  expect(momentsOf([office, other]).map(momentWords)).toEqual([
    'Mon 00:00',
    'Mon 08:00',
    'Mon 09:00',
    'Fri 09:00 on 2026-12-25',
  ]);
});

const DAYS = Array.from({ length: 21 }, (_, i) => new Date(Date.UTC(2026, 11, 14 + i)).toISOString().slice(0, 10));
const span = fc
  .tuple(fc.subarray([1, 2, 3, 4, 5, 6, 7], { minLength: 1 }), fc.nat(46), fc.integer({ min: 1, max: 47 }))
  .map(([days, from, length]) => {
    const two = (half: number): string =>
      `${String(Math.floor((half % 48) / 2)).padStart(2, '0')}:${half % 2 === 0 ? '00' : '30'}`;
    return { days, from: two(from), to: two(from + length) };
  });
const when: fc.Arbitrary<When> = fc.record({
  times: fc.option(fc.array(span, { minLength: 1, maxLength: 2 }), { nil: undefined }),
  closed: fc.option(fc.subarray(DAYS, { maxLength: 4 }), { nil: undefined }),
});

test('moments are one for each set of things that apply at any time of three weeks, and no two of one set', () => {
  fc.assert(
    fc.property(fc.array(when, { minLength: 1, maxLength: 4 }), (whens) => {
      const keyAt = (moment: number): string => whens.map((each) => appliesAtMoment(each, moment)).join();
      const found = momentsOf(whens).map(keyAt);
      expect(new Set(found).size).toBe(found.length);
      const met = new Set<string>();
      for (const day of DAYS) for (let minute = 0; minute < 1440; minute += 30) met.add(keyAt(momentOn(day, minute)));
      // A usual week may have what these three, with the days that are left out, do not.
      for (const key of met) expect(found).toContain(key);
    }),
    { numRuns: 60 },
  );
});
