import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { formatIp, parseIp } from './ip';

const seed = Number(process.env['SEED'] ?? 1);

describe('IPv4 text', () => {
  test.each(['010.0.0.1', '1.2.3', '1.2.3.4.5', '256.1.1.1', '1.2.3.4 ', '', '1..2.3', '+1.2.3.4', '0x1.2.3.4'])(
    'refuses %j',
    (text) => expect(parseIp(text)).toBeNull(),
  );
  test('every address survives being written and read', () => {
    fc.assert(
      fc.property(fc.bigInt(0n, 2n ** 32n - 1n), (value) => {
        expect(parseIp(formatIp({ version: 4, value }))).toEqual({ version: 4, value });
      }),
      { seed },
    );
  });
});

describe('IPv6 text', () => {
  test.each([
    ['2001:0db8::0001', '2001:db8::1'], // RFC 5952 §4.1
    ['2001:db8:0:0:0:0:2:1', '2001:db8::2:1'], // §4.2.1
    ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'], // §4.2.2
    ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1'], // §4.2.3, the longer run
    ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'], // §4.2.3, the first of equals
    ['2001:DB8::ABCD', '2001:db8::abcd'], // §4.3
    ['::ffff:192.0.2.1', '::ffff:c000:201'],
    ['::', '::'],
    ['1::', '1::'],
  ])('%s is written %s', (text, canonical) => expect(formatIp(parseIp(text)!)).toBe(canonical));
  test.each([
    ':::',
    '1::2::3',
    '1:2:3:4:5:6:7',
    '1:2:3:4:5:6:7:8:9',
    '12345::',
    'fe80::1%eth0',
    '::1.2.3',
    ':1:2:3:4:5:6:7',
    '1:2:3:4:5:6:7:8::',
  ])('refuses %j', (text) => expect(parseIp(text)).toBeNull());
  test('every address survives being written and read', () => {
    const sparse = fc.array(fc.oneof(fc.constant(0), fc.nat(0xffff)), { minLength: 8, maxLength: 8 });
    fc.assert(
      fc.property(sparse, (groups) => {
        const value = groups.reduce((sum, group) => (sum << 16n) | BigInt(group), 0n);
        expect(parseIp(formatIp({ version: 6, value }))).toEqual({ version: 6, value });
      }),
      { seed },
    );
  });
});
