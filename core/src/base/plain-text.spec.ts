import fc from 'fast-check';
import { expect, test } from 'vitest';
import { textFault } from '.';

test.each(['Crew', 'Fáilte ☸', 'a–b', '渡船', '👩‍🚀', '"quoted", with a comma', '=1+1'])('%s is plain text', (text) => {
  expect(textFault(text)).toBeNull();
});

test.each([
  ['a\0b', 'U+0000'],
  ['bell\u0007', 'U+0007'],
  ['\u009fold', 'U+009F'],
  ['half \ud83d', 'U+D83D'],
  ['\udc00 half', 'U+DC00'],
  ['\ufffe', 'U+FFFE'],
  ['\ufdd0', 'U+FDD0'],
  ['\u{1ffff}', 'U+1FFFF'],
])('%j holds what cannot be shown', (text, code) => {
  expect(textFault(text)).toContain(code);
  expect(textFault(text, true)).toContain(code);
});

test.each(['two\nlines', 'a\tb', 'a\r', 'a\u2028b'])('%j stands on several lines', (text) => {
  expect(textFault(text)).toBe('must stand on one line, without tabs');
  expect(textFault(text, true)).toBeNull();
});

test('every whole character but a control character or a noncharacter is taken', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0x20, max: 0x10_ffff }), (code) => {
      fc.pre(code < 0x7f || code > 0x9f);
      fc.pre(code < 0xd800 || code > 0xdfff);
      fc.pre((code & 0xfffe) !== 0xfffe && (code < 0xfdd0 || code > 0xfdef));
      expect(textFault(String.fromCodePoint(code), true)).toBeNull();
    }),
    { seed: Number(process.env['SEED'] ?? 1) },
  );
});
