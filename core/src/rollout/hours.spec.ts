import fc from 'fast-check';
import { expect, test } from 'vitest';
import { isInForce, minuteOfWeek, readTimes } from '../rules';
import { fitsHours, nextHours } from './hours';

const at = (text: string): number => Date.parse(text);

test('what lasts has to end within the hours, by the clock of the place', () => {
  const night = '02:00-04:00';
  expect(fitsHours(night, 'Europe/Dublin', at('2026-11-27T02:00:00Z'), 7200)).toBe(true);
  expect(fitsHours(night, 'Europe/Dublin', at('2026-11-27T02:00:01Z'), 7200)).toBe(false);
  expect(fitsHours(night, 'Europe/Dublin', at('2026-11-27T03:59:50Z'), 5)).toBe(true);
  expect(fitsHours(night, 'Europe/Dublin', at('2026-11-27T03:59:50Z'), 15)).toBe(false);
  expect(fitsHours(night, 'Pacific/Auckland', at('2026-11-27T02:30:00Z'), 15)).toBe(false); // 15:30 there
  // The clocks of Dublin go forward over 01:00 to 02:00 UTC+1: 01:30 to 02:30 by the clock is half an hour.
  expect(fitsHours('00:30-02:30', 'Europe/Dublin', at('2026-03-29T00:30:00Z'), 3600)).toBe(true);
  expect(fitsHours('00:30-02:30', 'Europe/Dublin', at('2026-03-29T00:30:00Z'), 3661)).toBe(false);
  expect(fitsHours('Fri 23:00-01:00', 'UTC', at('2026-11-27T23:30:00Z'), 3600)).toBe(true);
});

test('the next hours begin where the clock says so, and none before', () => {
  const zones = ['UTC', 'Europe/Dublin', 'America/Los_Angeles', 'Australia/Lord_Howe', 'Asia/Kolkata'];
  fc.assert(
    fc.property(
      fc.constantFrom(...zones),
      fc.constantFrom('02:30-04:30', 'Mon-Fri 22:00-05:00', 'Sun 12:00-13:00; Wed 03:10-04:10'),
      fc.integer({ min: at('2026-01-01T00:00:00Z') / 1000, max: at('2027-01-01T00:00:00Z') / 1000 }),
      (zone, hours, seconds) => {
        const [now, spans] = [seconds * 1000, readTimes(hours)!];
        const next = nextHours(hours, zone, now);
        expect(next).toBeGreaterThanOrEqual(now - 59_999);
        const holds = (moment: number): boolean => isInForce(spans, minuteOfWeek(moment, zone));
        expect(holds(next)).toBe(true);
        if (next <= now) return;
        for (let moment = now; moment < next - 60_000; moment += 20 * 60_000) expect(holds(moment)).toBe(false);
      },
    ),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 60 },
  );
});
