import fc from 'fast-check';
import { expect, test } from 'vitest';
import { appliesAtMoment, momentAt, openingAt, readTimes, type When } from '.';

const at = (text: string): number => Date.parse(text);
const office: When = { times: readTimes('Mon-Fri 08:00-18:00')! };

test('hours say until when they apply by the clock of a place, and when they begin again', () => {
  // Tuesday, 1 December 2026: Dublin is at UTC, Kathmandu 5 h 45 min ahead of it.
  expect(openingAt(office, 'Europe/Dublin', at('2026-12-01T17:59:59Z'))).toEqual({
    ...{ open: true, until: at('2026-12-01T18:00Z') },
  });
  expect(openingAt(office, 'Europe/Dublin', at('2026-12-01T18:00Z'))).toEqual({
    ...{ open: false, until: at('2026-12-02T08:00Z') },
  });
  expect(openingAt(office, 'Asia/Kathmandu', at('2026-12-01T03:00Z')).until).toBe(at('2026-12-01T12:15Z'));
  const closed = { ...office, closed: ['2026-12-02', '2026-12-03', '2026-12-04'] };
  expect(openingAt(closed, 'Europe/Dublin', at('2026-12-01T18:00Z')).until).toBe(at('2026-12-07T08:00Z'));
});

test('a night that a clock is put back in is an hour longer', () => {
  const night: When = { times: readTimes('Mon-Sun 22:00-06:00')! };
  const { until } = openingAt(night, 'Europe/Dublin', at('2026-10-24T21:00Z')); // 22:00 there, an hour ahead still
  expect(until).toBe(at('2026-10-25T06:00Z'));
});

test('what always or never applies, or not for longer than it is looked ahead, has no end that is known', () => {
  expect(openingAt({}, 'Europe/Dublin', 0)).toEqual({ open: true, until: null });
  const days = Array.from({ length: 20 }, (_, day) => `2026-12-${String(day + 1).padStart(2, '0')}`);
  expect(openingAt({ closed: days }, 'Europe/Dublin', at('2026-12-02T00:00Z'))).toEqual({ open: false, until: null });
});

test('until its end hours stay as they are, and are another there', () => {
  const zones = fc.constantFrom('Europe/Dublin', 'Asia/Kathmandu', 'America/St_Johns', 'Australia/Lord_Howe');
  const texts = fc.constantFrom('Mon-Fri 08:00-18:00', 'Sat 22:00-04:00', 'Sun 00:30-01:00', 'Mon-Sun 06:00-05:30');
  const time = fc.integer({ min: at('2026-01-01T00:00Z'), max: at('2026-12-31T00:00Z') });
  fc.assert(
    fc.property(zones, texts, time, fc.double({ min: 0, max: 1, noNaN: true }), (zone, text, now, part) => {
      const when: When = { times: readTimes(text)! };
      const applies = (moment: number): boolean => appliesAtMoment(when, momentAt(moment, zone));
      const { open, until } = openingAt(when, zone, now);
      const within = now + Math.floor((until! - 1 - now) * part);
      return applies(now) === open && applies(within) === open && applies(until!) !== open;
    }),
  );
});
