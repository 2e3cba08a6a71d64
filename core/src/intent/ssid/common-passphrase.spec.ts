import { expect, test } from 'vitest';
import { isCommonPassphrase } from './common-passphrase';

test.each([
  ['password', true],
  ['PassWord2026!', true],
  ['12345678', true],
  ['qwertyuiop', true],
  ['GuestWiFi-1', true],
  ['halyard-and-tackle-26', false],
  ['welcome-aboard', false],
  ['a passphrase of some length', false],
])('guessers try %s first: %s', (text, common) => {
  expect(isCommonPassphrase(text)).toBe(common);
});
