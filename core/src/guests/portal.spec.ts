import fc from 'fast-check';
import { expect, test } from 'vitest';
import { parseIp } from '../address';
import { readTimes } from '../rules';
import {
  CODE_ALPHABET,
  contrastOf,
  daysToGuess,
  ELSEWHERE,
  filled,
  gardenDoubt,
  gardenOf,
  guestState,
  inkOn,
  isAddressInGarden,
  isCode,
  isNameInGarden,
  LANGUAGES,
  languageOf,
  LEAST_CONTRAST,
  LEAST_DAYS,
  plainCode,
  PORTAL_TEXTS,
  readableOn,
  readGarden,
  readPage,
  restPage,
  safeLength,
  strangerPage,
  welcomePage,
  writtenCode,
  type GuestWay,
  type VisitFacts,
} from '.';

test('a walled garden has names, names below one, addresses, prefixes and ranges, and nothing else', () => {
  for (const line of ['Ferries.example', '*.ferries.example', '203.0.113.7', '2001:db8::/48', '10.1.1.1-10.1.1.9'])
    expect([line, readGarden(line) !== null]).toEqual([line, true]);
  for (const line of [
    '',
    'ferries',
    '*',
    '*.',
    'a b.example',
    'http://ferries.example',
    '203.0.113',
    '10.1.1.0/33',
    '-a.example',
    `${'a'.repeat(64)}.example`,
    '**.example',
    'a..example',
  ])
    expect([line, readGarden(line)]).toEqual([line, null]);
  const garden = gardenOf(['ferries.example', '*.tide.example', '203.0.113.0/28']);
  const names = [
    'ferries.example',
    'FERRIES.example.',
    'www.ferries.example',
    'tide.example',
    'a.b.tide.example',
    'ebbtide.example',
  ];
  expect(names.filter((name) => isNameInGarden(garden, name))).toEqual([
    'ferries.example',
    'FERRIES.example.',
    'a.b.tide.example',
  ]);
  const addresses = ['203.0.113.0', '203.0.113.15', '203.0.113.16', '::ffff:cb00:7100'];
  expect(addresses.filter((each) => isAddressInGarden(garden, parseIp(each)!))).toEqual([
    '203.0.113.0',
    '203.0.113.15',
  ]);
  const doubtful = [
    '*.example',
    '0.0.0.0/0',
    '10.0.0.0/8',
    '10.1.0.0/16',
    '::/0',
    '2001:db8::/32',
    '*.ferries.example',
    '1.0.0.0-9.0.0.0',
  ];
  expect(doubtful.filter((line) => gardenDoubt(readGarden(line)!))).toEqual([
    '*.example',
    '0.0.0.0/0',
    '10.0.0.0/8',
    '::/0',
    '1.0.0.0-9.0.0.0',
  ]);
});

test('a page that somebody may be sent to is http or https, and nothing in it ends what it is written into', () => {
  for (const url of [
    'http://a.example',
    'https://a.example/x?y=z#w',
    'http://203.0.113.7:8080/',
    'https://[2001:db8::1]/',
    'HTTP://A.example/%22',
  ])
    expect([url, readPage(url) !== null]).toEqual([url, true]);
  for (const url of [
    '',
    'a.example',
    '//a.example',
    'ftp://a.example',
    'javascript:alert(1)',
    'data:text/html,x',
    'http://',
    'http://a.example:99999/',
    'http://u@a.example/',
    'http://a.example\\@b',
    'http://a.example/"',
    'http://a.example/<b>',
    'http://a.example/ x',
    'http://a.example/\n',
    'http://-a/',
  ])
    expect([url, readPage(url)]).toEqual([url, null]);
  expect(readPage('https://A.Example:8443/x')).toEqual({ host: 'a.example', secure: true });
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      const page = readPage(`http://a.example/${text}`);
      if (page) expect(text).toMatch(/^[^"'<>\\\s`]*$/);
    }),
  );
});

test('what is typed as a code is read as it was meant, and codes are as long as guessing takes a year', () => {
  expect(plainCode(' ab-cd 23–45 ')).toBe('ABCD2345');
  expect(writtenCode('ABCD23456')).toBe('ABCD-2345-6');
  expect(['ABCDEF', 'ABCDE', 'ABCDEI', 'ABCDE0', 'A'.repeat(17), 'ABCDÉF'].map(isCode)).toEqual([
    true,
    false,
    false,
    false,
    false,
    false,
  ]);
  for (const letter of '01ILOU') expect(CODE_ALPHABET).not.toContain(letter);
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 50_000 }), (codes) => {
      const length = safeLength(codes);
      expect(daysToGuess(length, codes)).toBeGreaterThanOrEqual(LEAST_DAYS);
      expect(daysToGuess(length - 1, codes)).toBeLessThan(daysToGuess(length, codes));
    }),
  );
  // One of a million, three hundred tries a minute: one in a hundred after some ten thousand tries.
  expect(daysToGuess(4, 1)).toBeCloseTo((30 ** 4 * 0.01005) / (300 * 1440), 3);
  expect(daysToGuess(1, 1000)).toBe(0);
});

test('colours that cannot be read are moved as little as makes them readable', () => {
  expect(contrastOf('#000000', '#ffffff')).toBeCloseTo(21, 5);
  expect(contrastOf('#767676', '#ffffff')).toBeCloseTo(4.54, 2); // the well-known grey that just does
  const colour = fc.integer({ min: 0, max: 0xffffff }).map((value) => `#${value.toString(16).padStart(6, '0')}`);
  fc.assert(
    fc.property(colour, colour, (one, ground) => {
      const readable = readableOn(one, ground);
      expect(contrastOf(readable, ground)).toBeGreaterThanOrEqual(LEAST_CONTRAST);
      if (contrastOf(one, ground) >= LEAST_CONTRAST) expect(readable).toBe(one);
      expect(contrastOf(inkOn(ground), ground)).toBeGreaterThanOrEqual(LEAST_CONTRAST);
    }),
  );
});

test('a portal speaks the language that is asked for, else the one that is wanted most, else its first', () => {
  const there = ['en', 'de', 'ar'] as const;
  expect(languageOf(there, undefined, 'fr-FR, de;q=0.8, ar;q=0.9')).toBe('ar');
  expect(languageOf(there, 'de', 'ar')).toBe('de');
  expect(languageOf(there, 'fr', 'pl')).toBe('en');
  expect(languageOf(there, undefined, 'de;q=0, en;q=0')).toBe('en');
  expect(languageOf(['de', 'en'], undefined, ',;;q=x,'.repeat(500))).toBe('de');
});

test('all languages say the same things, with the same put in', () => {
  const holes = (text: string): string[] => [...text.matchAll(/\{\w+\}/g)].map(([hole]) => hole).sort();
  for (const language of LANGUAGES)
    for (const [name, text] of Object.entries(PORTAL_TEXTS[language])) {
      expect([language, name, text.trim()]).not.toEqual([language, name, '']);
      expect([language, name, holes(text)]).toEqual([language, name, holes(PORTAL_TEXTS.en[name as 'done'])]);
    }
  expect(filled('Until {time}, {what}.', { time: '9:00' })).toBe('Until 9:00, {what}.');
});

const at = (text: string): number => Date.parse(text);
const facts = (more: Partial<VisitFacts> = {}): VisitFacts => ({
  ...{ until: at('2026-12-02T12:00Z'), ended: false, octetsADay: null, secondsADay: null, counted: [] },
  ...more,
});

test('a guest is let in until its visit ends, and no further than what it may take of the day at its site', () => {
  const now = at('2026-12-01T22:30Z');
  expect(guestState(facts(), 'Europe/Dublin', now)).toMatchObject({
    letIn: true,
    until: at('2026-12-02T12:00Z'),
    left: null,
  });
  expect(guestState(facts({ ended: true }), 'Europe/Dublin', now)).toMatchObject({ letIn: false, why: 'over' });
  expect(guestState(facts({ until: now }), 'Europe/Dublin', now)).toMatchObject({ letIn: false, why: 'over' });
  // An hour and a half before midnight in Dublin; in Athens the day has begun anew already.
  const counted = [{ from: at('2026-12-01T20:00Z'), to: at('2026-12-01T21:00Z'), octets: 900, seconds: 3600 }];
  const data = facts({ octetsADay: 900, counted });
  expect(guestState(data, 'Europe/Dublin', now)).toMatchObject({
    letIn: false,
    why: 'quota',
    left: 0,
    resets: at('2026-12-02T00:00Z'),
  });
  expect(guestState(data, 'Europe/Athens', now)).toMatchObject({
    letIn: true,
    left: 900,
    resets: at('2026-12-02T22:00Z'),
  });
  // What is left of an hour a day is left from now on.
  const time = facts({ secondsADay: 5400, counted });
  expect(guestState(time, 'Europe/Dublin', now)).toMatchObject({ letIn: true, until: now + 1800_000, left: null });
  expect(guestState(facts({ secondsADay: 3600, counted }), 'Europe/Dublin', now)).toMatchObject({
    letIn: false,
    why: 'quota',
  });
  // Slower instead of held, for as long as there is time left.
  const slower = facts({ octetsADay: 900, counted, slows: true });
  expect(guestState(slower, 'Europe/Dublin', now)).toMatchObject({
    ...{ letIn: true, slowed: true, left: 0, resets: at('2026-12-02T00:00Z') },
  });
  expect(guestState(facts({ octetsADay: 901, counted, slows: true }), 'Europe/Dublin', now)).not.toHaveProperty(
    'slowed',
  );
  const noTime = facts({ octetsADay: 900, secondsADay: 3600, counted, slows: true });
  expect(guestState(noTime, 'Europe/Dublin', now)).toMatchObject({ letIn: false, why: 'quota' });
});

test('at hours at which nobody is let in a visit rests, and goes on after; who is in goes out at their end', () => {
  const hours = { times: readTimes('Mon-Fri 08:00-18:00')! };
  const zone = 'Europe/Dublin';
  const week = facts({ until: at('2026-12-09T12:00Z'), hours });
  const shut = { letIn: false, why: 'hours', resets: at('2026-12-02T08:00Z') };
  expect(guestState(week, zone, at('2026-12-01T19:00Z'))).toMatchObject(shut);
  expect(guestState(week, zone, at('2026-12-01T17:00Z'))).toMatchObject({
    ...{ letIn: true, until: at('2026-12-01T18:00Z'), resets: at('2026-12-01T18:00Z') },
  });
  expect(guestState({ ...week, until: at('2026-12-01T17:30Z') }, zone, at('2026-12-01T17:00Z')).until).toBe(
    at('2026-12-01T17:30Z'),
  );
  // What there is for a day begins anew at midnight, before the hours do.
  const counted = [{ from: at('2026-12-01T10:00Z'), to: at('2026-12-01T11:00Z'), octets: 900, seconds: 3600 }];
  const day = guestState({ ...week, octetsADay: 1000, counted }, zone, at('2026-12-01T12:00Z'));
  expect(day).toMatchObject({ letIn: true, left: 100, until: at('2026-12-01T18:00Z') });
});

test('whoever has to wait after a visit is told until when, and whoever took nothing that it was that', () => {
  const now = at('2026-12-02T13:00Z');
  const rests = at('2026-12-02T16:00Z');
  expect(guestState(facts({ rests }), 'Europe/Dublin', now)).toMatchObject({ why: 'rest', resets: rests });
  expect(guestState(facts({ rests }), 'Europe/Dublin', rests)).toMatchObject({ why: 'over', resets: null });
  expect(guestState(facts({ ended: true, idle: true }), 'Europe/Dublin', now)).toMatchObject({ why: 'idle' });
});

test('who has to wait is offered what does before alone', () => {
  const look = { languages: ['en'], words: {}, ground: '#ffffff', accent: '#8c2f1b' } as const;
  const of = (ways: readonly GuestWay[]) => ({
    ...{ portal: { ...look, ways }, siteName: 'Pier', timeZone: 'Europe/Dublin', language: 'en' as const, proof: 'p' },
  });
  const text = (ways: readonly GuestWay[]) => restPage(of(ways), at('2026-12-02T16:00Z')).body.text;
  expect(text(['accept', 'mail'])).toContain('You may sign in again at 2 Dec 2026, 16:00.');
  expect(text(['accept', 'mail'])).not.toContain('<form');
  expect(text(['accept', 'code'])).toContain('action="/code"');
  expect(text(['accept', 'code'])).not.toContain('/accept');
});

test('a name and a password are a form where nothing else is, and a way of their own beside others', () => {
  const look = { languages: ['en'], words: {}, ground: '#ffffff', accent: '#8c2f1b' } as const;
  const text = (ways: readonly GuestWay[]): string =>
    welcomePage(
      { portal: { ...look, ways }, siteName: 'Pier', timeZone: 'Europe/Dublin', language: 'en', proof: 'p' },
      null,
    ).body.text;
  expect(text(['user'])).toContain('action="/user"');
  expect(text(['accept', 'user'])).toContain('href="/user"');
  expect(text(['accept', 'user'])).not.toContain('type="password"');
  expect(text(['mail', 'user'])).toContain('href="/ask/mail"');
});

test('who may press or give a code agrees once, and what was typed and a stranger’s way on are text', () => {
  const look = { languages: ['en'], words: { en: { title: '', text: '', terms: 'Be kind.', news: '' } } } as const;
  const of = (ways: readonly GuestWay[]) => ({
    ...{ portal: { ...look, ways, agree: true, ground: '#ffffff', accent: '#8c2f1b' }, siteName: 'Pier' },
    ...({ timeZone: 'Europe/Dublin', language: 'en', proof: 'p' } as const),
  });
  const drawn = (...ways: GuestWay[]): string => welcomePage(of(ways), null, '"><b>').body.text;
  const times = (text: string, part: string): number => text.split(part).length - 1;
  for (const ways of [['accept'], ['code'], ['accept', 'code']] as const)
    expect([ways, times(drawn(...ways), 'type="checkbox"'), times(drawn(...ways), '<form')]).toEqual([ways, 1, 1]);
  expect(drawn('accept', 'code')).not.toContain('<b>');
  // Enter in the field gives the code: the first button of the form has its action.
  expect(drawn('accept', 'code')).toMatch(
    /<form method="post" action="\/code">[^]*?<button hidden>[^]*formaction="\/accept"/,
  );
  expect(drawn('accept')).toContain('action="/accept"');
  expect(strangerPage('de', 'used').body.text).toContain(`href="${ELSEWHERE}"`);
});
