import { dayOf, isDay } from '../rules';

/** A day by the clock of a time zone, half open: its end is the next one’s. Both in milliseconds since 1970. */
export interface DayWindow {
  readonly start: number;
  readonly end: number;
}

const [SECOND_MS, HOUR_MS, DAY_MS] = [1000, 3_600_000, 86_400_000];
/** No clock is further from UTC than that, or is moved by more; in milliseconds. */
const FURTHEST_MS = 27 * HOUR_MS;

/** Clocks by time zone: making one takes a hundred times as long as asking it. There are some 600 zones. */
const clocks = new Map<string, Intl.DateTimeFormat>();
const MOST_CLOCKS = 1000;
function clockOf(timeZone: string): Intl.DateTimeFormat {
  const known = clocks.get(timeZone);
  if (known) return known;
  if (clocks.size >= MOST_CLOCKS) clocks.clear();
  const two = '2-digit' as const;
  const made = new Intl.DateTimeFormat('en-GB', {
    ...{ timeZone, year: 'numeric', month: two, day: two, hour: two, minute: two, second: two, hourCycle: 'h23' },
  });
  clocks.set(timeZone, made);
  return made;
}

/** By how much a clock is ahead of UTC at a moment, in milliseconds. */
function aheadAt(timeZone: string, at: number): number {
  const parts = new Map(
    clockOf(timeZone)
      .formatToParts(at)
      .map(({ type, value }) => [type, Number(value)]),
  );
  const [year, month, day] = [parts.get('year')!, parts.get('month')!, parts.get('day')!];
  const local = Date.UTC(year, month - 1, day, parts.get('hour'), parts.get('minute'), parts.get('second'));
  return local - Math.floor(at / SECOND_MS) * SECOND_MS;
}

/** A stretch in which a clock is ahead of UTC by the same all the time. */
interface Stretch extends DayWindow {
  readonly ahead: number;
}

/** The stretches between two moments. Two changes within an hour are taken for one: no zone ever had such. */
function stretches(timeZone: string, from: number, to: number): Stretch[] {
  const found: Stretch[] = [];
  let [start, ahead] = [from, aheadAt(timeZone, from)];
  for (let at = from; at < to; at += HOUR_MS) {
    const next = Math.min(at + HOUR_MS, to);
    const then = aheadAt(timeZone, next);
    if (then === ahead) continue;
    let [before, after] = [at, next];
    while (after - before > SECOND_MS) {
      const middle = Math.floor((before + after) / 2 / SECOND_MS) * SECOND_MS;
      if (aheadAt(timeZone, middle) === ahead) before = middle;
      else after = middle;
    }
    found.push({ start, end: after, ahead });
    [start, ahead] = [after, then];
  }
  return [...found, { start, end: to, ahead }];
}

/** Midnight of a day, if clocks showed UTC. @throws RangeError for what is no day. */
function midnightOf(day: string): number {
  if (!isDay(day)) throw new RangeError(`${day} is no day`);
  return Date.parse(`${day}T00:00:00Z`);
}
const plusDays = (day: string, days: number): string =>
  new Date(midnightOf(day) + days * DAY_MS).toISOString().slice(0, 10);

/** The first moment at which a clock shows a day or a later one. It may have been set back since, or have left that day out. */
function startOf(timeZone: string, day: string): number {
  const midnight = midnightOf(day);
  const from = Math.floor((midnight - FURTHEST_MS) / HOUR_MS) * HOUR_MS;
  for (const { start, end, ahead } of stretches(timeZone, from, from + 2 * FURTHEST_MS + HOUR_MS)) {
    const at = Math.max(start, midnight - ahead);
    if (at < end) return at;
  }
  throw new RangeError(`${day} never comes in ${timeZone}`);
}

/**
 * A day by the clock of a time zone: from the first moment at which that shows it, to the first of the next. Where clocks are moved it has 23 or
 * 25 hours, may begin at one o’clock, and one that was left out has no length.
 * @param timeZone a name of the IANA time zone database. @param day such as `2026-12-25`. @throws RangeError for what is neither.
 */
export function dayWindow(timeZone: string, day: string): DayWindow {
  const key = `${timeZone} ${day}`;
  const known = windows.get(key);
  if (known) return known;
  const window = { start: startOf(timeZone, day), end: startOf(timeZone, plusDays(day, 1)) };
  if (windows.size >= MOST_WINDOWS) windows.clear();
  windows.set(key, window);
  return window;
}

/** Days that were worked out, since many guests ask for the same. */
const windows = new Map<string, DayWindow>();
const MOST_WINDOWS = 5000;

/**
 * The day that a moment counts to: the latest that has begun and has any length. Where a clock is set back over midnight that is not what it shows.
 * @param at milliseconds since 1970.
 */
export function quotaDay(timeZone: string, at: number): DayWindow & { readonly day: string } {
  const shown = dayOf(at, timeZone);
  for (const day of [1, 0, -1].map((days) => plusDays(shown, days))) {
    const window = dayWindow(timeZone, day);
    if (window.start <= at && window.end > window.start) return { day, ...window };
  }
  throw new RangeError(`no day of ${timeZone} holds that moment`);
}
