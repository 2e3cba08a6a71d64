import { isInForce, minuteOfWeek, minutesOf, readTimes, WEEK } from '../rules';

/** How long a device takes to be told, to prove what it was told, and to say so, in seconds: what hours are reckoned with. */
export const TELL_SECONDS = 15;
const MINUTE = 60_000;

/**
 * Whether something that lasts lies within hours by the clock of a time zone, to its end. Right to the minute, also over
 * changes of the clock.
 * @param hours such as `Mon-Fri 02:00-04:00`. @param at milliseconds since 1970.
 */
export function fitsHours(hours: string, timeZone: string, at: number, seconds: number): boolean {
  const spans = readTimes(hours) ?? [];
  const minutes = Math.ceil(seconds / 60);
  for (let minute = 0; minute <= minutes; minute++) {
    // The end of a span is not part of it, the end of what lasts may be.
    const moment = minute === minutes ? at + seconds * 1000 - 1 : at + minute * MINUTE;
    if (!isInForce(spans, minuteOfWeek(moment, timeZone))) return false;
  }
  return true;
}

/** When hours begin next by the clock of a time zone, in milliseconds since 1970; `at` itself while they last. */
export function nextHours(hours: string, timeZone: string, at: number): number {
  const spans = readTimes(hours) ?? [];
  const now = minuteOfWeek(at, timeZone);
  if (spans.length === 0 || isInForce(spans, now)) return at;
  const wait = Math.min(...minutesOf(spans).map(({ from }) => (from - now + WEEK) % WEEK));
  const guess = Math.floor(at / MINUTE) * MINUTE + wait * MINUTE;
  // A change of the clock in between makes it read something else then.
  const off = ((minuteOfWeek(guess, timeZone) - ((now + wait) % WEEK) + WEEK * 1.5) % WEEK) - WEEK / 2;
  return guess - off * MINUTE;
}
