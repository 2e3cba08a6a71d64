import fc from 'fast-check';
import { expect, test } from 'vitest';
import { octetsOfText, ringKeysIn, textAttribute, tunnelPassword, vlanAttributes, type Attribute } from '.';

const [SECRET, AUTHENTICATOR] = [octetsOfText('xyzzy5461'), new Uint8Array(16).map((_, i) => 17 * i)];
const key = (text: string, tag: number, salt = tag): Attribute =>
  tunnelPassword(text, tag, SECRET, AUTHENTICATOR, Uint8Array.of(salt, 7));
const read = (...attributes: Attribute[]) => ringKeysIn(attributes, SECRET, AUTHENTICATOR);

test('a key comes back as it was hidden, and its length is a multiple of 16 and three (RFC 2868 §3.5)', () => {
  const text = fc.string({ unit: 'grapheme-ascii', maxLength: 239 });
  fc.assert(
    fc.property(text, fc.integer({ min: 0, max: 31 }), (given, tag) => {
      const hidden = key(given, tag);
      expect(hidden.value.length % 16).toBe(3);
      expect(hidden.value[1]! & 0x80).toBe(0x80);
      expect(read(hidden)).toEqual([{ key: given, vlan: { kind: 'none' } }]);
    }),
  );
});

test('each key leads to the VLAN of its tag, else to what is said without one', () => {
  const keys = [key('berth one key', 1), key('berth two key', 2), key('a third key', 3)];
  const one = [...vlanAttributes('Berth 1', 1), ...vlanAttributes('102', 2)];
  expect(read(...one, ...keys).map(({ vlan }) => vlan)).toEqual([
    { kind: 'name', name: 'Berth 1' },
    { kind: 'id', vlan: 102 },
    { kind: 'none' },
  ]);
  expect(read(...keys, ...one, ...vlanAttributes('Guests')).at(-1)!.vlan).toEqual({ kind: 'name', name: 'Guests' });
  expect(read(key('untagged key', 0), ...one)[0]!.vlan).toEqual({ kind: 'name', name: 'Berth 1' });
  expect(read(...vlanAttributes('4095', 1), keys[0]!)[0]!.vlan).toEqual({ kind: 'wrong', text: '4095' });
});

test('whatever comes is read or left out, and never more than it holds', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 253 }), (value) => {
      for (const { key: text } of read({ type: 69, value }, textAttribute(11, 'Crew')))
        expect(octetsOfText(text).length).toBeLessThanOrEqual(4 * value.length);
    }),
  );
});

test('with another secret, or for another request, nothing is read that was meant', () => {
  const hidden = key('half past nine sailing', 1);
  const other = (secret: string, authenticator: Uint8Array) =>
    ringKeysIn([hidden], octetsOfText(secret), authenticator).map((each) => each.key);
  expect(other('xyzzy5462', AUTHENTICATOR)).not.toContain('half past nine sailing');
  expect(other('xyzzy5461', new Uint8Array(16))).not.toContain('half past nine sailing');
  expect(() => key('x'.repeat(240), 1)).toThrow(RangeError);
});
