import { expect, test } from 'vitest';
import { isSsidLength, keyKind, keyName, pairwiseKey, pairwiseKeyLater } from './pairwise-key';

const octets = (text: string): Uint8Array => new TextEncoder().encode(text);

test('a passphrase is stretched as the standard does it (Annex J.4), now or later; a key is itself', async () => {
  const wanted = 'f42c6fc52df0ebef9ebb4b90b38a5f902e83fe1b135a70e23aed762e9710a12e';
  expect(pairwiseKey('password', octets('IEEE'))).toBe(wanted);
  expect(await pairwiseKeyLater('password', octets('IEEE'))).toBe(wanted);
  expect(pairwiseKey(wanted.toUpperCase(), octets('IEEE'))).toBe(wanted);
  expect(pairwiseKey('password', octets('IEEF'))).not.toBe(wanted);
  expect(keyName(wanted, '0200000000aa', '0200000000bb')).toBe('b19f029ee34f6e8a7b655ce5b1582daf');
});

test('what is no key and no name is told', () => {
  expect(
    ['1234567', '12345678', ' '.repeat(8), 'é2345678', 'x'.repeat(63), 'x'.repeat(64), 'a'.repeat(64)].map(keyKind),
  ).toEqual([null, 'passphrase', 'passphrase', null, 'passphrase', null, 'key']);
  expect([0, 1, 32, 33, 1.5].map(isSsidLength)).toEqual([false, true, true, false, false]);
  expect(() => pairwiseKey('short', octets('IEEE'))).toThrow(RangeError);
  expect(() => pairwiseKey('password', octets('x'.repeat(33)))).toThrow(RangeError);
});
