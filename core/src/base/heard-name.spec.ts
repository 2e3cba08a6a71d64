import { expect, test } from 'vitest';
import { asHeard, nameDoubt } from '.';

test('what is not seen of a name stands as its code point, blanks at its ends as blanks', () => {
  expect(asHeard('Skerrow Crew')).toBe('Skerrow Crew');
  expect(asHeard('Crew\u200b ')).toBe('Crew‹U+200B›‹blank›');
  expect(asHeard('\u202eCrew\u00a0deck')).toBe('‹U+202E›Crew‹U+00A0›deck');
});

test.each([
  ['Skerrow Crew', null],
  ['Přístav „U majáku“', null],
  ['Δίκτυο', null],
  ['クルー', null],
  ['Crew\u200b', { plain: 'Crew', words: /^holds what is not seen \(U\+200B\)$/ }],
  ['Crew ', { plain: 'Crew', words: /blanks at an end/ }],
  ['Crew  deck', { plain: 'Crew deck', words: /several in a row/ }],
  ['Cafe\u0301', { plain: 'Café', words: /accents apart/ }],
  ['Сrew', { plain: null, words: /mixes Latin and Cyrillic letters/ }],
  ['Ｃrew', { plain: null, words: /look like others \(“Crew”\)/ }],
  ['\u200b', { plain: null, words: /not seen/ }],
  ['Crew\u200b ', { plain: 'Crew', words: /not seen \(U\+200B\); it has blanks/ }],
])('what makes %j another name than it looks like', (name, expected) => {
  const doubt = nameDoubt(name);
  if (expected === null) return expect(doubt).toBeNull();
  expect(doubt).toMatchObject({ plain: expected.plain });
  expect(doubt!.words).toMatch(expected.words);
});
