import { describe, expect, test } from 'vitest';
import { contains, parsePrefix, type Prefix } from '../address';
import { randomFrom } from '../base';
import {
  agreeOn,
  CIPHER_NAMES,
  CIPHERS,
  GROUP_NAMES,
  HASH_NAMES,
  innerOctets,
  nameKind,
  narrowed,
  poorOf,
  suiteWords,
  type Offer,
} from '.';

const offer = (more: Partial<Offer> = {}): Offer => ({
  ...{ ciphers: ['aes-gcm-256', 'aes-cbc-256'], hashes: ['sha2-384', 'sha2-256'], groups: ['31', '14'] },
  ...more,
});

describe('what two gateways come to agree on', () => {
  test('is the first of each kind that both have, by the order of whose list decides', () => {
    const there = offer({ ciphers: ['aes-cbc-256', 'aes-gcm-256'], hashes: ['sha2-256'], groups: ['14', '31'] });
    expect(agreeOn('ike', offer(), there).suite).toEqual({ cipher: 'aes-gcm-256', hash: 'sha2-256', group: '31' });
    expect(agreeOn('ike', there, offer()).suite).toEqual({ cipher: 'aes-cbc-256', hash: 'sha2-256', group: '14' });
  });

  test('packets need no hash where the cipher proves itself, and an exchange always one', () => {
    const [here, there] = [offer({ hashes: ['sha2-256'] }), offer({ hashes: ['sha2-512'] })];
    expect(agreeOn('esp', here, there).suite).toMatchObject({ cipher: 'aes-gcm-256', hash: null });
    expect(agreeOn('ike', here, there)).toEqual({
      suite: null,
      missing: 'No hash in common: one has SHA-256, the other SHA-512.',
    });
    // A cipher that proves itself is taken where the first in the order would need a hash that is not in common.
    const cbc = offer({ ciphers: ['aes-cbc-256', 'aes-gcm-256'], hashes: ['sha2-256'] });
    expect(agreeOn('esp', cbc, there).suite).toMatchObject({ cipher: 'aes-gcm-256', hash: null });
  });

  test('a group that packets lack in common shows only when keys are made anew; an exchange fails at once', () => {
    const [here, there] = [offer({ groups: ['31'] }), offer({ groups: ['14'] })];
    expect(agreeOn('ike', here, there).missing).toContain('No group in common: one has 31, Curve25519');
    expect(agreeOn('esp', here, there)).toMatchObject({
      suite: { group: null },
      late: expect.stringContaining('group'),
    });
    expect(agreeOn('esp', here, offer({ groups: [] })).late).toContain('the other none');
    expect(agreeOn('esp', offer({ groups: [] }), offer({ groups: [] })).late).toBeUndefined();
  });

  test('whatever is chosen both have offered, and it is the same whoever is asked of two alike in order', () => {
    const random = randomFrom(7);
    const some = <T>(all: readonly T[]): T[] => all.filter(() => random(3) > 0);
    const any = (): Offer => ({ ciphers: some(CIPHER_NAMES), hashes: some(HASH_NAMES), groups: some(GROUP_NAMES) });
    let agreed = 0;
    for (let i = 0; i < 500; i++) {
      const [a, b] = [any(), any()];
      for (const kind of ['ike', 'esp'] as const) {
        const found = agreeOn(kind, a, b);
        expect(agreeOn(kind, b, a).suite === null).toBe(found.suite === null);
        if (!found.suite) continue;
        agreed++;
        const { cipher, hash, group } = found.suite;
        for (const each of [a, b]) {
          expect(each.ciphers).toContain(cipher);
          if (hash !== null) expect(each.hashes).toContain(hash);
          if (group !== null) expect(each.groups).toContain(group);
        }
        expect(hash === null).toBe(kind === 'esp' && 'icv' in CIPHERS[cipher]);
        expect(suiteWords(found.suite)).toContain(CIPHERS[cipher].title);
      }
    }
    expect(agreed).toBeGreaterThan(500);
  });

  test('what is poor is said with the standard that says so', () => {
    expect(poorOf(offer())).toEqual([]);
    expect(poorOf(offer({ ciphers: ['3des'], hashes: ['sha1'], groups: ['2'] }))).toEqual([
      expect.stringContaining('3DES (RFC 8221'),
      expect.stringContaining('SHA-1 (RFC 8247'),
      expect.stringContaining('2, 1024 bits (RFC 8247'),
    ]);
  });
});

test.each([
  // What is left of 1500 octets, worked out by hand from the headers of RFC 4303, RFC 4106, RFC 3602 and RFC 3948.
  ['aes-gcm-256', null, {}, 1446],
  ['aes-gcm-256', null, { udp: true }, 1438],
  ['chacha20-poly1305', null, { version: 6 as const }, 1426],
  ['aes-cbc-256', 'sha2-256', {}, 1438],
  ['aes-cbc-256', 'sha2-256', { udp: true }, 1422],
  ['aes-cbc-128', 'sha2-512', {}, 1422],
  ['3des', 'sha1', {}, 1446],
] as const)('%s with %s leaves room for the largest packet', (cipher, hash, how, octets) => {
  expect(innerOctets({ cipher, hash }, 1500, how)).toBe(octets);
});

describe('what goes into a tunnel', () => {
  test('is narrowed to what both say', () => {
    expect(narrowed(['10.4.0.0/16', '10.9.0.0/24'], ['10.4.20.0/24', '10.0.0.0/8'])).toEqual([
      '10.4.20.0/24',
      '10.4.0.0/16',
      '10.9.0.0/24',
    ]);
    expect(narrowed(['10.4.0.0/16'], ['10.5.0.0/16', 'fd00::/8'])).toEqual([]);
    expect(narrowed(['fd00:4::/32'], ['fd00::/8'])).toEqual(['fd00:4::/32']);
  });

  test('an address is in what is left where it is in both, and nowhere else', () => {
    const random = randomFrom(3);
    const prefix = (): string => `10.${random(4)}.${random(4) * 64}.0/${[8, 15, 16, 17, 18, 24][random(6)]!}`;
    const any = (): string[] => Array.from({ length: 1 + random(4) }, prefix).filter((text) => parsePrefix(text));
    const holds = (all: readonly string[], value: bigint): boolean =>
      all.some((text) => contains(parsePrefix(text) as Prefix, { version: 4, value }));
    for (let i = 0; i < 300; i++) {
      const [a, b] = [any(), any()];
      const both = narrowed(a, b);
      for (let j = 0; j < 20; j++) {
        const value = (10n << 24n) + BigInt(random(4) * 65_536 + random(65_536));
        expect(holds(both, value)).toBe(holds(a, value) && holds(b, value));
      }
    }
  });
});

test.each([
  ['moor.example', 'host'],
  ['gw-1', 'host'],
  ['203.0.113.9', 'address'],
  ['fd00::1', 'address'],
  ['moor@moor.example', 'mail'],
  ['203.0.113.999', null],
  ['two words', null],
  ['a"b.example', null],
  ['x}\nsecrets', null],
  ['', null],
] as const)('%j as the name of a gateway is %s', (text, kind) => {
  expect(nameKind(text)).toBe(kind);
});
