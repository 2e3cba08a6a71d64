import { expect, test } from 'vitest';
import { readTimes } from '../rules';
import { writeCalendar } from './icalendar';

const stamp = Date.parse('2026-11-28T12:00:00Z'); // a Saturday
const hours = (times: string, more: object = {}) => ({ name: 'Office', times: readTimes(times)!, ...more });
/** Lines of a calendar as a reader sees them: folded ones are joined (RFC 5545 §3.1). */
const lines = (text: string): string[] =>
  text
    .replace(/\r\n[ \t]/g, '')
    .split('\r\n')
    .slice(0, -1);

test('each stretch is an event of its days, by the reader’s own clock', () => {
  const text = writeCalendar([hours('Mon-Fri 08:00-18:00; Sat 10:00-14:30')], stamp);
  expect(lines(text).filter((line) => /^(DTSTART|DTEND|RRULE|DTSTAMP)/.test(line))).toEqual([
    'DTSTAMP:20261128T120000Z',
    'DTSTART:20261130T080000',
    'DTEND:20261130T180000',
    'RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR',
    'DTSTAMP:20261128T120000Z',
    'DTSTART:20261128T100000',
    'DTEND:20261128T143000',
    'RRULE:FREQ=WEEKLY;BYDAY=SA',
  ]);
  expect(new Set(lines(text).filter((line) => line.startsWith('UID:'))).size).toBe(2);
});

test('what ends at midnight ends the next day; days that are left out are exceptions where they would be', () => {
  const closed = ['2026-11-01', '2026-12-25', '2026-12-26'];
  const told = lines(writeCalendar([hours('Mon-Fri 20:00-24:00', { closed })], stamp));
  expect(told).toContain('DTEND:20261201T000000');
  expect(told.filter((line) => line.startsWith('EXDATE'))).toEqual(['EXDATE:20261225T200000']);
});

test('names are escaped, and lines folded at 75 octets without parting a letter', () => {
  const name = `Öffnung; Büro, ${'ü'.repeat(60)}\nHaus`;
  const text = writeCalendar([{ ...hours('Mon 08:00-09:00'), name }], stamp);
  expect(lines(text).find((line) => line.startsWith('SUMMARY:'))).toBe(
    `SUMMARY:Öffnung\\; Büro\\, ${'ü'.repeat(60)}\\nHaus`,
  );
  for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
  expect(text.endsWith('END:VCALENDAR\r\n')).toBe(true);
});
