import fc from 'fast-check';
import { expect, test } from 'vitest';
import { dayOf } from '../rules';
import { captiveAnswer, codeAnswer, dayWindow, quotaDay, quotaState, type VisitTerms } from '.';

const [HOUR, DAY] = [3_600_000, 86_400_000];
const at = (text: string): number => Date.parse(text);
const iso = (moment: number): string => new Date(moment).toISOString();
/** Zones whose clocks do odd things, and some that do none. */
const ZONES = [
  ...['UTC', 'Europe/Madrid', 'Europe/Dublin', 'America/Santiago', 'Africa/Cairo', 'Asia/Beirut', 'America/Havana'],
  ...['Australia/Lord_Howe', 'Asia/Kathmandu', 'Pacific/Apia', 'Antarctica/Troll', 'America/St_Johns', 'Asia/Kolkata'],
];

test.each<[string, string, string, number]>([
  ['Europe/Madrid', '2025-03-30', '2025-03-29T23:00:00.000Z', 23],
  ['Europe/Madrid', '2025-10-26', '2025-10-25T22:00:00.000Z', 25],
  ['America/Santiago', '2024-09-08', '2024-09-08T04:00:00.000Z', 23],
  ['Africa/Cairo', '2024-04-26', '2024-04-25T22:00:00.000Z', 23],
  ['America/Havana', '2025-11-02', '2025-11-02T04:00:00.000Z', 25],
  ['Australia/Lord_Howe', '2025-04-06', '2025-04-05T13:00:00.000Z', 24.5],
  ['Asia/Kathmandu', '2025-06-01', '2025-05-31T18:15:00.000Z', 24],
  ['Pacific/Apia', '2011-12-30', '2011-12-30T10:00:00.000Z', 0],
  ['Antarctica/Troll', '2024-03-31', '2024-03-31T00:00:00.000Z', 22],
  ['America/St_Johns', '2010-11-07', '2010-11-07T02:30:00.000Z', 25],
])('a day in %s, %s, begins at %s and has %d hours', (zone, day, start, hours) => {
  const window = dayWindow(zone, day);
  expect([iso(window.start), (window.end - window.start) / HOUR]).toEqual([start, hours]);
});

test('every moment counts to one day, which has begun and is not over, and days follow each other without a gap', () => {
  const moments = fc.integer({ min: at('2009-01-01T00:00:00Z') / 1000, max: at('2027-01-01T00:00:00Z') / 1000 });
  fc.assert(
    fc.property(fc.constantFrom(...ZONES), moments, (zone, seconds) => {
      const moment = seconds * 1000;
      const { day, start, end } = quotaDay(zone, moment);
      expect([start <= moment, moment < end]).toEqual([true, true]);
      expect(dayOf(start, zone) >= day).toBe(true);
      expect(dayOf(start - 1000, zone) < day).toBe(true);
      expect(quotaDay(zone, end).start).toBe(end);
    }),
  );
});

test('what is no day or no zone is refused', () => {
  expect(() => dayWindow('UTC', '2026-02-30')).toThrow(RangeError);
  expect(() => dayWindow('UTC', 'today')).toThrow(RangeError);
  expect(() => dayWindow('Sea/Nowhere', '2026-02-20')).toThrow(RangeError);
});

test('what was counted over midnight counts to both days, and another zone gives nobody a second quota', () => {
  const counted = [{ from: at('2026-06-01T21:30:00Z'), to: at('2026-06-01T22:30:00Z'), octets: 900 }];
  const now = at('2026-06-01T23:00:00Z');
  const madrid = quotaState('Europe/Madrid', 1000, counted, now); // its midnight is at 22:00Z
  expect(madrid).toEqual({
    day: '2026-06-02',
    used: 450,
    left: 550,
    blocked: false,
    resets: at('2026-06-02T22:00:00Z'),
  });
  expect(quotaState('UTC', 1000, counted, now)).toMatchObject({ day: '2026-06-01', used: 900, left: 100 });
  expect(quotaState('UTC', 900, counted, now)).toMatchObject({ left: 0, blocked: true });
  const once = [{ from: now, to: now, octets: 7 }];
  expect([now, now - 1].map((moment) => quotaState('UTC', 10, once, moment).used)).toEqual([7, 0]);
  // What is counted further than now is not used yet.
  const ahead = [{ from: now - HOUR, to: now + HOUR, octets: 100 }];
  expect(quotaState('UTC', 1000, ahead, now).used).toBe(50);
});

const TERMS: VisitTerms = {
  ...{ runs: 'used', madeAt: 0, usedAt: null, useBy: 10 * DAY, seconds: 86_400, most: 2, devices: [] },
};
test.each<[string, Partial<VisitTerms>, number, boolean, unknown]>([
  ['not used yet', {}, DAY, false, { ok: true, until: 2 * DAY }],
  ['not used in time', {}, 10 * DAY, false, { ok: false, why: 'over', until: 10 * DAY }],
  ['used in time and over', { usedAt: DAY }, 2 * DAY, false, { ok: false, why: 'over', until: 2 * DAY }],
  ['used in the last moment', { usedAt: 10 * DAY - 1 }, 10 * DAY, false, { ok: true, until: 11 * DAY - 1 }],
  ['of which time runs since it was made', { runs: 'made' }, DAY, false, { ok: false, why: 'over', until: DAY }],
  ['with one place left', { devices: ['b'] }, 0, false, { ok: true, until: DAY }],
  ['without a place left', { devices: ['b', 'c'] }, 0, false, { ok: false, why: 'devices', until: DAY }],
  ['that it had before', { devices: ['a', 'b', 'c'] }, 0, false, { ok: true, until: DAY }],
  ['for any number', { most: null, devices: ['b', 'c'] }, 0, false, { ok: true, until: DAY }],
  ['used up for today', {}, 0, true, { ok: false, why: 'quota', until: DAY }],
  ['over, full and used up', { runs: 'made', devices: ['b', 'c'] }, DAY, true, { ok: false, why: 'over', until: DAY }],
  ['full and used up', { devices: ['b', 'c'] }, 0, true, { ok: false, why: 'devices', until: DAY }],
])('a code %s', (_what, terms, now, blocked, answer) => {
  expect(codeAnswer({ ...TERMS, ...terms }, 'a', now, blocked)).toEqual(answer);
});

test('a device is told what is left only while it is let through (RFC 8908)', () => {
  const inside = { letIn: true, until: 10_500, left: 5 };
  expect(captiveAnswer(inside, 1000)).toEqual({ captive: false, 'seconds-remaining': 9, 'bytes-remaining': 5 });
  expect(captiveAnswer({ ...inside, until: null, left: null }, 1000)).toEqual({ captive: false });
  for (const held of [{ letIn: false }, { until: 1000 }, { left: 0 }])
    expect(captiveAnswer({ ...inside, ...held }, 1000)).toEqual({ captive: true });
});
