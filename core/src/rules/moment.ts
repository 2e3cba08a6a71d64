import type { WeekSpan } from './rule';
import { dayOf, isInForce, minuteOfWeek, minutesOf, minuteWords, WEEK } from './week';

/** When something applies: hours of a week, but not on some days. Without hours it is all of them. */
export interface When {
  readonly times?: readonly WeekSpan[] | undefined;
  /** Days such as `2026-12-25`, by the clock of whoever it is used at. */
  readonly closed?: readonly string[] | null | undefined;
}

const [DAY_MS, DAY] = [86_400_000, 1440];
const dayNumber = (day: string): number => Math.floor(Date.parse(`${day}T00:00:00Z`) / DAY_MS);
/** 1970 began on a Thursday. */
const weekdayOf = (number: number): number => (((number + 3) % 7) + 7) % 7;

/**
 * A moment by a site's clock as one number. Below {@link WEEK} it is a minute of any week; from there on it is one of a certain day,
 * which counts where something leaves days out.
 * @param minute of the day.
 */
export function momentOn(day: string, minute: number): number {
  const number = dayNumber(day);
  return (number + 1) * WEEK + weekdayOf(number) * DAY + minute;
}

/** A moment by the clock of a time zone. @param at milliseconds since 1970. */
export const momentAt = (at: number, timeZone: string): number =>
  momentOn(dayOf(at, timeZone), minuteOfWeek(at, timeZone) % DAY);

/** The last moment that there is. */
export const LAST_MOMENT = momentOn('9999-12-31', DAY - 1);

/** The day of a moment; null: any of its weekday that nothing leaves out. */
const dayOfMoment = (moment: number): string | null =>
  moment < WEEK ? null : new Date((Math.floor(moment / WEEK) - 1) * DAY_MS).toISOString().slice(0, 10);

/** Whether something applies at a moment. */
export function appliesAtMoment({ times, closed }: When, moment: number): boolean {
  if (closed && closed.length > 0) {
    const day = dayOfMoment(moment);
    if (day !== null && closed.includes(day)) return false;
  }
  return isInForce(times, moment % WEEK);
}

/**
 * A moment for each different set of things that apply, the earliest of each: minutes of the week, and, where days are left out, minutes
 * of the first of such days.
 */
export function momentsOf(whens: readonly When[]): number[] {
  const timed = whens.filter(({ times, closed }) => times || (closed && closed.length > 0));
  const edges = new Set([
    0,
    ...timed.flatMap(({ times = [] }) => minutesOf(times)).flatMap(({ from, to }) => [from, to % WEEK]),
  ]);
  const usual = [...edges].sort((a, b) => a - b);
  const met = new Map<string, number>();
  for (const moment of [...usual, ...onClosedDays(timed, usual)]) {
    const key = timed.map((when) => (appliesAtMoment(when, moment) ? '1' : '0')).join('');
    if (!met.has(key)) met.set(key, moment);
  }
  return [...met.values()];
}

/** Moments of days that are left out: of those of one weekday which the same things leave out, the first stands for all. */
function onClosedDays(timed: readonly When[], edges: readonly number[]): number[] {
  const lists = [...new Set(timed.flatMap(({ closed }) => (closed && closed.length > 0 ? [closed] : [])))];
  const sets = lists.map((days) => new Set(days));
  const seen = new Set<string>();
  return [...new Set(lists.flat())].sort().flatMap((day) => {
    const weekday = weekdayOf(dayNumber(day));
    const key = `${weekday} ${sets.map((days) => (days.has(day) ? '1' : '0')).join('')}`;
    if (seen.has(key)) return [];
    seen.add(key);
    const inside = edges.filter((minute) => Math.floor(minute / DAY) === weekday).map((minute) => minute % DAY);
    return [...new Set([0, ...inside])].map((minute) => momentOn(day, minute));
  });
}

/** A moment in words: `Mon 08:30`, `Fri 08:30 on 2026-12-25`. */
export function momentWords(moment: number): string {
  const day = dayOfMoment(moment);
  return day === null ? minuteWords(moment) : `${minuteWords(moment % WEEK)} on ${day}`;
}
