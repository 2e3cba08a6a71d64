import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  askPage,
  documentOf,
  hidden,
  isNobody,
  LANGUAGES,
  maySponsor,
  NO_SPONSORS,
  plainField,
  PORTAL_TEXTS,
  questionPage,
  readContact,
  readPhone,
  readSaid,
  spanIn,
  spansOf,
  welcomePage,
  type PageOf,
  type PortalLook,
} from '.';

const look: PortalLook = {
  ...{ ways: ['sponsor'], languages: ['en'], words: {}, ground: '#ffffff', accent: '#8c2f1b' },
  asks: { name: 'must', company: 'may' },
  sponsors: { ...NO_SPONSORS, domains: ['skerrow.example'], groups: [{ name: 'Harbour <office>', people: [] }] },
};
const of: PageOf = { portal: look, siteName: 'Pier', timeZone: 'Europe/Dublin', language: 'en', proof: 'p' };

test('a phone number is read however it is written, with its country, and is one of E.164', () => {
  for (const typed of ['+353 1 555 01 23', '00353-1-555-0123', '+353 (1) 555.0123', '+353/1 5550123'])
    expect([typed, readPhone(typed)]).toEqual([typed, '+35315550123']);
  for (const typed of ['', '015550123', '+0123456789', '+12345', `+1${'2'.repeat(15)}`, '+35315550123;x', '+353 one'])
    expect([typed, readPhone(typed)]).toEqual([typed, null]);
});

test('a way to reach somebody is a mail address or a phone number, and is shown to others in part', () => {
  expect(readContact(' rin@skerrow.example ')).toEqual({ by: 'mail', to: 'rin@skerrow.example' });
  expect(readContact('+353 1 5550123')).toEqual({ by: 'phone', to: '+35315550123' });
  expect(readContact('a@b.example, c@d.example')).toBeNull();
  expect(hidden('rin@skerrow.example')).toBe('r…@skerrow.example');
  expect(hidden('+35315550123')).toBe('+3…23');
});

test('what a guest says of itself is one line, and leads whoever reads it nowhere', () => {
  expect(plainField('name', '  Rin\r\nBcc: x\u202e  Marlow ')).toBe('Rin Bcc: x Marlow');
  expect(plainField('name', 'Dr. J. Marlow-Byrne')).toBe('Dr. J. Marlow-Byrne');
  for (const typed of ['see http://gull.example', 'www.gull', 'Rin gull.example', 'gull.example/x'])
    expect([typed, plainField('reason', typed)]).toEqual([typed, null]);
  expect(plainField('name', 'x'.repeat(500))).toHaveLength(60);
});

test('what has to be said has to be, what may be left out may, what is not asked for is not kept', () => {
  const asks = { name: 'must', company: 'may' } as const;
  expect(readSaid(asks, { name: 'Rin', reason: 'gulls' })).toEqual({ ok: true, said: { name: 'Rin' } });
  expect(readSaid(asks, { name: ' ' })).toEqual({ ok: false, field: 'name', why: 'missing' });
  expect(readSaid(asks, { name: 'Rin', company: 'gull.example' })).toMatchObject({ field: 'company', why: 'link' });
});

test('whoever has an address of a domain, of the list or of a group may say yes, and nobody else', () => {
  const sponsors = {
    ...NO_SPONSORS,
    ...{ domains: ['skerrow.example', '*.ferries.example'], people: ['Rin@gull.example'] },
    groups: [{ name: 'Harbour office', people: ['mel@pier.example'] }],
  };
  for (const may of ['ida@skerrow.example', 'IDA@Skerrow.Example', 'a@deck.ferries.example', 'rin@GULL.example'])
    expect([may, maySponsor(sponsors, may)]).toEqual([may, true]);
  expect(maySponsor(sponsors, 'mel@pier.example')).toBe(true);
  for (const not of ['a@ferries.example', 'a@notskerrow.example', 'a@skerrow.example.gull.example', 'mo@gull.example'])
    expect([not, maySponsor(sponsors, not)]).toEqual([not, false]);
  expect([isNobody(NO_SPONSORS), isNobody(sponsors)]).toEqual([true, false]);
});

test('a visit may be shortened, never made longer; spans are said in the language of the page', () => {
  fc.assert(
    fc.property(fc.integer({ min: 5, max: 44_640 }), (visit) => {
      const spans = spansOf(visit);
      expect(spans.at(-1)).toBe(visit);
      expect(spans).toEqual([...new Set(spans)].sort((a, b) => a - b));
    }),
  );
  expect(spanIn('en', 1560)).toBe('1 day 2 hours');
  expect(spanIn('de', 90)).toBe('1 Stunde 30 Minuten');
});

test('a way in by itself stands on the first page; beside others it is a link', () => {
  const only = welcomePage(of, null).body.text;
  expect([only.includes('action="/ask/sponsor"'), only.includes('href="/ask/sponsor"')]).toEqual([true, false]);
  const more = welcomePage({ ...of, portal: { ...look, ways: ['accept', 'mail', 'sponsor'] } }, null).body.text;
  expect([
    more.includes('href="/ask/mail"'),
    more.includes('action="/ask/'),
    more.includes('action="/accept"'),
  ]).toEqual([true, false, true]);
});

test('what guests type is text on every page, their own and that of whoever says yes', () => {
  const evil = '"><script>x</script>';
  const typed = { name: evil, company: evil, to: evil, whom: evil, group: evil };
  const question = { said: { name: evil, reason: evil }, contact: evil, mac: '0e:00:00:00:00:01', at: 0, visit: 60 };
  for (const page of [askPage(of, 'sponsor', evil, typed), questionPage(of, question)])
    expect(documentOf(page, { portal: look, language: 'en' }, 's')).not.toContain('<script>');
});

test('each language has every text, with the same put into it', () => {
  const holes = (text: string): string[] => [...text.matchAll(/\{\w+\}/g)].map(([hole]) => hole).sort();
  for (const language of LANGUAGES)
    for (const [key, text] of Object.entries(PORTAL_TEXTS.en)) {
      const own = PORTAL_TEXTS[language][key as keyof typeof PORTAL_TEXTS.en];
      expect([language, key, holes(own)]).toEqual([language, key, holes(text)]);
      expect(own.trim()).not.toBe('');
    }
});
