import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { hashText } from '@iron-lattice/core/document';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { nativeHash } from './native-hash';

test('the platform’s hash is the one that others compute, of whatever text', () => {
  expect(nativeHash('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'); // FIPS 180-4, B.1
  const anyText = fc.string({ unit: fc.integer({ min: 0, max: 0xffff }).map((unit) => String.fromCharCode(unit)) });
  fc.assert(
    fc.property(anyText, (text) => {
      const programmed = bytesToHex(sha256(utf8ToBytes(text))); // halves of a pair that stand alone too
      expect([nativeHash(text), hashText(text)]).toEqual([programmed, programmed]);
    }),
  );
});
