import fc from 'fast-check';
import { expect, test } from 'vitest';
import { packWord, readWord } from '.';

const word = {
  serial: 'AP-0001',
  portal: '0f0e0d0c-0b0a-4908-8706-050403020100',
  mac: '0e:00:00:00:00:01',
  said: 1_800_000_000,
};

test('word of a device is read as it was packed, whatever it is of', () => {
  const mac = fc
    .uint8Array({ minLength: 6, maxLength: 6 })
    .map((octets) => [...octets].map((octet) => octet.toString(16).padStart(2, '0')).join(':'));
  const serial = fc.stringMatching(/^[\x21-\x7e]{1,32}$/);
  const said = fc.integer({ min: 0, max: 2 ** 32 - 1 });
  fc.assert(
    fc.property(fc.record({ serial, portal: fc.uuid(), mac, said }), (each) => {
      expect(readWord(packWord(each))).toEqual(each);
    }),
  );
});

test('what is no word of a device is read as none', () => {
  const good = packWord(word);
  for (const bad of [
    [],
    [1],
    good.subarray(0, 27),
    [2, ...good.subarray(1)],
    [...good, ...new Array(40).fill(65)],
    [...good, 10],
  ])
    expect(readWord(Uint8Array.from(bad))).toBeNull();
  expect(() => packWord({ ...word, serial: 'a b' })).toThrow(RangeError);
  expect(() => packWord({ ...word, serial: 'x'.repeat(33) })).toThrow(RangeError);
});
