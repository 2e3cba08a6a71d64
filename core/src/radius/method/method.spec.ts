import { createCipheriv } from 'node:crypto';
import { hexToBytes } from '@noble/hashes/utils.js';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  authenticatorResponse,
  challengeHash,
  challengeResponse,
  keyAttributes,
  keyMaterialIn,
  md4,
  MOST_TLS_OCTETS,
  octetsOfText,
  PIECE_OCTETS,
  readAvps,
  TlsAssembly,
  tlsPieces,
  writeAvps,
  type Des,
} from '..';

const seed = Number(process.env['SEED'] ?? 1);
const hex = (octets: Uint8Array): string => Buffer.from(octets).toString('hex');
const des: Des = (key, block) => {
  const cipher = createCipheriv('des-ede3-ecb', Buffer.concat([key, key, key]), null).setAutoPadding(false);
  return new Uint8Array(Buffer.concat([cipher.update(block), cipher.final()]));
};

test.each([
  ['', '31d6cfe0d16ae931b73c59d7e0c089c0'],
  ['abc', 'a448017aaf21d8525fc10ae87aa6729d'],
  ['ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789', '043f8582f241db351ce627e153e7f0e4'],
  [
    '12345678901234567890123456789012345678901234567890123456789012345678901234567890',
    'e33b4ddc9c38f2199c3e7b164fcc0536',
  ],
])('MD4 of %j is that of RFC 1320 §A.5', (text, digest) => expect(hex(md4(octetsOfText(text)))).toBe(digest));

test('MS-CHAPv2 is that of RFC 2759 §9.2', () => {
  const authenticator = hexToBytes('5b5d7c7d7b3f2f3e3c2c602132262628');
  const peer = hexToBytes('21402324255e262a28295f2b3a337c7e');
  const challenge = challengeHash(peer, authenticator, 'User');
  expect(hex(challenge)).toBe('d02e4386bce91226');
  const password = octetsOfText('clientPass');
  const response = challengeResponse(challenge, password, des);
  expect(hex(response)).toBe('82309ecd8d708b5ea08faa3981cd83544233114a3d85d6df');
  expect(authenticatorResponse(password, response, challenge)).toBe('S=407A5589115FD0D6209F510FE9C04566932CDA56');
  expect(challengeHash(peer, authenticator, 'QUAY\\User')).toEqual(challenge);
});

test('octets parted into pieces come together as they were; more or fewer than were said do not', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 1, maxLength: 5000 }), (octets) => {
      const assembly = new TlsAssembly();
      const pieces = tlsPieces(octets);
      expect(pieces.length).toBe(Math.ceil(octets.length / PIECE_OCTETS));
      const took = pieces.map((piece) => assembly.take(piece));
      expect(took.slice(0, -1).every(({ kind }) => kind === 'more')).toBe(true);
      expect(took.at(-1)).toEqual({ kind: 'whole', octets });
      expect(assembly.take(Uint8Array.of(0)).kind).toBe('empty');
    }),
    { seed, numRuns: 200 },
  );
  const wrong = (...pieces: number[][]): string => {
    const assembly = new TlsAssembly();
    return pieces.map((piece) => assembly.take(Uint8Array.from(piece)).kind).join(' ');
  };
  expect(wrong([])).toBe('wrong');
  expect(wrong([0x80, 0, 0])).toBe('wrong');
  expect(wrong([0xc0, 0, 0, 0, 3, 1], [0, 2, 3, 4])).toBe('more wrong');
  expect(wrong([0xc0, 0, 0, 0, 9, 1], [0, 2])).toBe('more wrong');
  expect(wrong([0x80, 0xff, 0xff, 0xff, 0xff, 1])).toBe('wrong');
  expect(wrong([0x40])).toBe('wrong'); // else nothing would go on for ever
  const long = new TlsAssembly();
  let kind = '';
  for (let sent = 0; kind !== 'wrong' && sent < 2 * MOST_TLS_OCTETS; sent += PIECE_OCTETS)
    kind = long.take(Uint8Array.of(0x40, ...new Uint8Array(PIECE_OCTETS))).kind;
  expect(kind).toBe('wrong');
});

test('attributes inside a tunnel are read as they were written; what is cut is not read', () => {
  const avp = fc.record({
    code: fc.nat({ max: 2 ** 31 }),
    vendor: fc.constantFrom(0, 311),
    data: fc.uint8Array({ maxLength: 40 }),
  });
  fc.assert(
    fc.property(fc.array(avp, { maxLength: 8 }), fc.nat(), (avps, at) => {
      const bytes = writeAvps(avps);
      expect(bytes.length % 4).toBe(0);
      expect(readAvps(bytes)).toEqual(avps);
      if (bytes.length > 0) expect(readAvps(bytes.slice(0, bytes.length - 4 - (at % 4)))).not.toEqual(avps);
    }),
    { seed, numRuns: 300 },
  );
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
      const read = readAvps(bytes);
      expect(read === null || Array.isArray(read)).toBe(true);
    }),
    { seed, numRuns: 500 },
  );
});

test('keys of a session are those of both ends, and of nobody with another secret', () => {
  const octets = (n: number) => fc.uint8Array({ minLength: n, maxLength: n });
  fc.assert(
    fc.property(octets(64), octets(16), octets(2), octets(2), (material, authenticator, a, b) => {
      const secret = octetsOfText('gulls over the quay');
      const attributes = keyAttributes(material, secret, authenticator, [a, b]);
      expect(keyMaterialIn(attributes, secret, authenticator)).toEqual(material);
      const other = keyMaterialIn(attributes, octetsOfText('gulls over the key'), authenticator);
      expect(other).not.toEqual(material);
      expect(keyMaterialIn(attributes.slice(1), secret, authenticator)).toBeNull();
    }),
    { seed, numRuns: 100 },
  );
});
