import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { sha256 } from '@noble/hashes/sha2.js';

/** Hours of a week, and days on which they do not apply. */
export interface CalendarHours {
  readonly name: string;
  /** Days from Monday as 1, and times of day such as `08:00`. */
  readonly times: readonly { readonly days: readonly number[]; readonly from: string; readonly to: string }[];
  readonly closed?: readonly string[] | null;
}

const DAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;

/**
 * Hours as a calendar (RFC 5545): an event each week for each stretch, without a time zone, since they are of the clock of whoever reads
 * them (§3.3.5, form 1); days that are left out as exceptions (§3.8.5.1).
 * @param stamp when it is written, and from when on events are, in milliseconds since 1970.
 */
export function writeCalendar(hours: readonly CalendarHours[], stamp: number): string {
  const lines = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Iron Lattice//Hours//EN'];
  for (const { name, times, closed } of hours)
    for (const { days, from, to } of times) {
      const first = firstDay(stamp, days);
      const ends = minutes(to) <= minutes(from) || to === '24:00' ? shifted(first, 1) : first;
      const out = (closed ?? []).filter((day) => day >= first && days.includes(weekday(day)));
      const id = bytesToHex(sha256(utf8ToBytes(`${name} ${days.join()} ${from}-${to}`))).slice(0, 32);
      lines.push(
        'BEGIN:VEVENT',
        `UID:${id}@iron-lattice`,
        `DTSTAMP:${new Date(stamp).toISOString().replace(/[-:]|\.\d+/g, '')}`,
        `SUMMARY:${escaped(name)}`,
        `DTSTART:${moment(first, from)}`,
        `DTEND:${moment(ends, to === '24:00' ? '00:00' : to)}`,
        `RRULE:FREQ=WEEKLY;BYDAY=${days.map((day) => DAYS[day - 1]).join(',')}`,
        ...out.map((day) => `EXDATE:${moment(day, from)}`),
        'TRANSP:TRANSPARENT',
        'END:VEVENT',
      );
    }
  return [...lines, 'END:VCALENDAR'].flatMap(folded).join('\r\n') + '\r\n';
}

const minutes = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));
const moment = (day: string, time: string): string => `${day.replaceAll('-', '')}T${time.replace(':', '')}00`;
const shifted = (day: string, by: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + by * 86_400_000).toISOString().slice(0, 10);
/** Monday as 1. */
const weekday = (day: string): number => new Date(`${day}T00:00:00Z`).getUTCDay() || 7;

/** The first day from a moment on that is one of some weekdays. */
function firstDay(stamp: number, days: readonly number[]): string {
  let day = new Date(stamp).toISOString().slice(0, 10);
  while (!days.includes(weekday(day))) day = shifted(day, 1);
  return day;
}

/** Text of a value (§3.3.11). */
const escaped = (text: string): string => text.replace(/[\\;,]/g, '\\$&').replace(/\n/g, '\\n');

/** A line in pieces of 75 octets at the most (§3.1), never parted within a character. */
function folded(line: string): string[] {
  const pieces = [''];
  let octets = 0;
  for (const character of line) {
    const length = utf8ToBytes(character).length;
    if (octets + length > 74) {
      pieces.push(' ');
      octets = 1;
    }
    pieces[pieces.length - 1] += character;
    octets += length;
  }
  return pieces;
}
