import { flaw, type Flaw } from '../base';

/** A time each week when devices may restart, in the site's own time zone. */
export interface UpdateWindow {
  /** 0 Sunday … 6 Saturday. */
  readonly day: number;
  /** Minutes after midnight. */
  readonly from: number;
  /** How long it lasts. */
  readonly minutes: number;
}

export const WEEKDAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'] as const;
const WEEK = 7 * 1440;

/** @returns what is wrong with a window; at least a quarter of an hour, at most a day. */
export function checkWindow({ day, from, minutes }: UpdateWindow): Flaw[] {
  const flaws: Flaw[] = [];
  if (!Number.isInteger(day) || day < 0 || day > 6) flaws.push(flaw('window.day', 'Choose a day of the week.', 'day'));
  if (!Number.isInteger(from) || from < 0 || from >= 1440)
    flaws.push(flaw('window.from', 'Give a time of day, such as 03:00.', 'from'));
  if (!Number.isInteger(minutes) || minutes < 15 || minutes > 1440)
    flaws.push(flaw('window.minutes', 'A window lasts from 15 minutes to a day.', 'minutes'));
  return flaws;
}

/** Whether a moment lies in the window as clocks in the time zone show it. */
export function isInWindow(window: UpdateWindow, timeZone: string, at: Date): boolean {
  const local = minuteOfWeek(timeZone, at);
  const start = window.day * 1440 + window.from;
  return (((local - start) % WEEK) + WEEK) % WEEK < window.minutes;
}

/** When the window opens next, or `at` itself when it is open. Right to the minute, also over changes of the clock. */
export function nextWindow(window: UpdateWindow, timeZone: string, at: Date): Date {
  if (isInWindow(window, timeZone, at)) return at;
  const start = window.day * 1440 + window.from;
  const wait = (((start - minuteOfWeek(timeZone, at)) % WEEK) + WEEK) % WEEK;
  const minute = Math.floor(at.getTime() / 60_000) * 60_000;
  const guess = new Date(minute + wait * 60_000);
  // A clock change in between shifts the guess by what local time then reads.
  const off = (((minuteOfWeek(timeZone, guess) - start + WEEK / 2) % WEEK) + WEEK) % WEEK;
  return new Date(guess.getTime() - (off - WEEK / 2) * 60_000);
}

function minuteOfWeek(timeZone: string, at: Date): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone,
    weekday: 'long',
    hour: 'numeric',
    minute: 'numeric',
    hourCycle: 'h23',
  }).formatToParts(at);
  const part = (type: string): string => parts.find((each) => each.type === type)!.value;
  const day = (WEEKDAYS as readonly string[]).indexOf(part('weekday'));
  return day * 1440 + Number(part('hour')) * 60 + Number(part('minute'));
}

/** Says a window in words, such as `Sunday 03:00 to 05:00`. */
export function windowWords({ day, from, minutes }: UpdateWindow): string {
  const clock = (minute: number): string =>
    `${String(Math.floor(minute / 60) % 24).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
  return `${WEEKDAYS[day]} ${clock(from)} to ${clock(from + minutes)}`;
}
