import type { WeekSpan } from './rule';

/** Minutes of a week; minute 0 is Monday, 00:00. */
export const WEEK = 7 * 24 * 60;
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;

/** The stretches of the week that spans name, in minutes; the end is not part of them. */
export function minutesOf(spans: readonly WeekSpan[]): { readonly from: number; readonly to: number }[] {
  return spans.flatMap(({ days, from, to }) =>
    days.flatMap((day) => {
      const [start, end] = [minuteOfDay(from) ?? 0, minuteOfDay(to) ?? 0];
      const first = (day - 1) * 1440 + start;
      const last = first + (end > start ? end - start : end + 1440 - start);
      return last > WEEK
        ? [
            { from: first, to: WEEK },
            { from: 0, to: last - WEEK },
          ]
        : [{ from: first, to: last }];
    }),
  );
}

/** Whether a minute of the week lies in one of the spans; without spans it is always. */
export const isInForce = (spans: readonly WeekSpan[] | undefined, minute: number): boolean =>
  !spans || minutesOf(spans).some(({ from, to }) => minute >= from && minute < to);

/** How moments read by the clock of a time zone. */
interface ZoneClock {
  readonly minute: Intl.DateTimeFormat;
  readonly day: Intl.DateTimeFormat;
}
/** Made once for each zone: making one takes a hundred times as long as asking it. There are some 600 zones. */
const MOST_CLOCKS = 1000;
const clocks = new Map<string, ZoneClock>();
function clockOf(timeZone: string): ZoneClock {
  const known = clocks.get(timeZone);
  if (known) return known;
  if (clocks.size >= MOST_CLOCKS) clocks.clear(); // a name may be written in capitals or not
  const two = '2-digit' as const;
  const made: ZoneClock = {
    minute: new Intl.DateTimeFormat('en-GB', {
      ...{ timeZone, weekday: 'short', hour: two, minute: two, hourCycle: 'h23' },
    }),
    day: new Intl.DateTimeFormat('en-GB', { timeZone, year: 'numeric', month: two, day: two }),
  };
  clocks.set(timeZone, made);
  return made;
}

/** The minute of the week of a moment, by the clock of a time zone. @param at milliseconds since 1970. */
export function minuteOfWeek(at: number, timeZone: string): number {
  const parts = clockOf(timeZone).minute.formatToParts(at);
  const part = (type: string): string => parts.find((each) => each.type === type)!.value;
  return (
    DAYS.indexOf(part('weekday') as (typeof DAYS)[number]) * 1440 + Number(part('hour')) * 60 + Number(part('minute'))
  );
}

/** The day of a moment by the clock of a time zone, such as `2026-12-25`. @param at milliseconds since 1970. */
export function dayOf(at: number, timeZone: string): string {
  const parts = clockOf(timeZone).day.formatToParts(at);
  const part = (type: string): string => parts.find((each) => each.type === type)!.value;
  return `${part('year').padStart(4, '0')}-${part('month')}-${part('day')}`;
}

/** A moment by the clock of a time zone, such as `2026-12-25 18:30`. @param at milliseconds since 1970. */
export function localMoment(at: number, timeZone: string): string {
  const minute = minuteOfWeek(at, timeZone) % 1440;
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${dayOf(at, timeZone)} ${two(Math.floor(minute / 60))}:${two(minute % 60)}`;
}

/** Whether a text is a day that there is (ISO 8601). */
export function isDay(text: string): boolean {
  const at = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN;
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(text);
}

/** Half hours of a week, from Monday, 00:00. */
export const HALF_HOURS = WEEK / 30;

/** Which half hours of a week spans cover, wholly or in part. */
export function halfHoursOf(spans: readonly WeekSpan[]): boolean[] {
  const on = Array.from({ length: HALF_HOURS }, () => false);
  for (const { from, to } of minutesOf(spans)) on.fill(true, Math.floor(from / 30), Math.ceil(to / 30));
  return on;
}

/** Half hours of a week as spans: of a day each, those of several days that are alike together, in the order of the first. */
export function spansOfHalfHours(on: readonly boolean[]): WeekSpan[] {
  const days = new Map<string, number[]>();
  for (let day = 1; day <= 7; day++) {
    const [first, end] = [(day - 1) * 48, day * 48];
    for (let at = first; at < end; at++) {
      if (!on[at] || (at > first && on[at - 1])) continue;
      let to = at + 1;
      while (to < end && on[to]) to++;
      const key = `${timeOfDay((at - first) * 30)}-${timeOfDay((to - first) * 30)}`;
      days.set(key, [...(days.get(key) ?? []), day]);
    }
  }
  return [...days].map(([key, of]) => ({ days: of, from: key.slice(0, 5), to: key.slice(6) }));
}

const timeOfDay = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/** A time during which a clock stands to UTC as it does. Seconds since 1970; null: without end. */
export interface ClockPeriod {
  readonly from: number | null;
  readonly to: number | null;
  /** Minutes that the clock is ahead of UTC. */
  readonly offset: number;
}

const DAY_S = 86_400;
/** How far ahead the clock of a zone is looked at, in days. */
const AHEAD_DAYS = 400;

/**
 * How a zone's clock stands to UTC from a moment on, over a little more than a year; the last period is said to end there
 * where the clock is put forward and back.
 * @param at milliseconds since 1970.
 */
export function clockPeriods(timeZone: string, at: number): ClockPeriod[] {
  const begin = Math.floor(at / 1000 / DAY_S) * DAY_S;
  const periods: { from: number | null; to: number | null; offset: number }[] = [
    { from: null, to: null, offset: offsetAt(timeZone, begin) },
  ];
  for (let day = begin; day < begin + AHEAD_DAYS * DAY_S; day += DAY_S) {
    const { offset } = periods.at(-1)!;
    if (offsetAt(timeZone, day + DAY_S) === offset) continue;
    // Somewhere in this day: halve it down to the minute.
    let [before, after] = [day, day + DAY_S];
    while (after - before > 60) {
      const middle = before + Math.floor((after - before) / 120) * 60;
      if (offsetAt(timeZone, middle) === offset) before = middle;
      else after = middle;
    }
    periods.at(-1)!.to = after;
    periods.push({ from: after, to: null, offset: offsetAt(timeZone, after) });
  }
  if (periods.length > 1) periods.at(-1)!.to = begin + AHEAD_DAYS * DAY_S;
  return periods;
}

/** Minutes that a zone's clock is ahead of UTC at a moment. @param seconds since 1970, of a whole minute. */
function offsetAt(timeZone: string, seconds: number): number {
  const utc = ((Math.floor(seconds / 60) % WEEK) + 3 * 1440 + WEEK) % WEEK; // 1970 began on a Thursday
  const ahead = (minuteOfWeek(seconds * 1000, timeZone) - utc + WEEK) % WEEK;
  return ahead > WEEK / 2 ? ahead - WEEK : ahead;
}

/** A minute of the week in words: `Mon 08:30`. */
export function minuteWords(minute: number): string {
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${DAYS[Math.floor(minute / 1440)]} ${two(Math.floor((minute % 1440) / 60))}:${two(minute % 60)}`;
}

/** Minutes from midnight of `08:30`; null when it is no time of day up to 24:00. */
export function minuteOfDay(text: string): number | null {
  const match = /^(\d{1,2}):(\d{2})$/.exec(text.trim());
  const [hours, minutes] = [Number(match?.[1]), Number(match?.[2])];
  return match && minutes < 60 && hours * 60 + minutes <= 1440 ? hours * 60 + minutes : null;
}

/** Spans as they would be typed: `Mon-Fri 08:00-18:00; Sat,Sun 10:00-14:00`. */
export const writeTimes = (spans: readonly WeekSpan[]): string =>
  spans.map(({ days, from, to }) => `${writeDays(days)} ${from}-${to}`).join('; ');

function writeDays(days: readonly number[]): string {
  const runs: number[][] = [];
  for (const day of days) {
    const run = runs.at(-1);
    if (run?.at(-1) === day - 1) run.push(day);
    else runs.push([day]);
  }
  const name = (day: number): string => DAYS[day - 1]!;
  return runs
    .map((run) => (run.length > 2 ? `${name(run[0]!)}-${name(run.at(-1)!)}` : run.map(name).join(',')))
    .join(',');
}

/** Reads spans as they are typed; days left out are all. @returns null when they cannot be read. */
export function readTimes(text: string): WeekSpan[] | null {
  const spans = text
    .split(/[;\n]/)
    .filter((part) => part.trim() !== '')
    .map((part): WeekSpan | null => {
      const match = /^\s*(?:([a-z, -]+?)\s+)?(\d{1,2}:\d{2})\s*-\s*(\d{1,2}:\d{2})\s*$/i.exec(part);
      const days = match && (match[1] === undefined ? [1, 2, 3, 4, 5, 6, 7] : readDays(match[1]));
      const [from, to] = [minuteOfDay(match?.[2] ?? ''), minuteOfDay(match?.[3] ?? '')];
      if (!days || from === null || to === null || from === to || from === 1440) return null;
      return { days, from: match[2]!.padStart(5, '0'), to: match[3]!.padStart(5, '0') };
    });
  return spans.every((span) => span !== null) ? spans : null;
}

function readDays(text: string): number[] | null {
  const days = new Set<number>();
  for (const part of text.split(',')) {
    const ends = part.split('-').map((word) => {
      const wanted = word.trim().slice(0, 3).toLowerCase();
      return DAYS.findIndex((day) => day.toLowerCase() === wanted) + 1;
    });
    if (ends.length > 2 || ends.includes(0)) return null;
    const [first, last = first] = ends as [number, number?];
    for (let day = first; ; day = (day % 7) + 1) {
      days.add(day);
      if (day === last) break;
    }
  }
  return [...days].sort((a, b) => a - b);
}
