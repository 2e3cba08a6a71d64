import { sha1 } from '@noble/hashes/legacy.js';
import { bytesToHex, concatBytes } from '@noble/hashes/utils.js';
import { octetsOfText, textOfOctets } from '../text';
import { md4 } from './md4';

/** One block of DES (FIPS 46-3) by a key of eight octets, of which the low bits are parity: of whoever has a library for it. */
export type Des = (key: Uint8Array, block: Uint8Array) => Uint8Array;

/** A password as MS-CHAP takes it: UTF-16, low octet first (RFC 2759 §8.3). */
function wide(password: Uint8Array): Uint8Array {
  const text = textOfOctets(password);
  const out = new Uint8Array(text.length * 2);
  for (let i = 0; i < text.length; i++) out.set([text.charCodeAt(i) & 255, text.charCodeAt(i) >> 8], 2 * i);
  return out;
}

/** Seven octets as a key of eight, whose low bits are parity. */
function spread(seven: Uint8Array): Uint8Array {
  const bits = [...seven].reduce((sum, octet) => (sum << 8n) | BigInt(octet), 0n);
  return Uint8Array.from({ length: 8 }, (_, i) => Number((bits >> BigInt(7 * (7 - i))) & 0x7fn) << 1);
}

/** The challenge of both ends (RFC 2759 §8.2). @param name without a domain before it. */
export const challengeHash = (peer: Uint8Array, authenticator: Uint8Array, name: string): Uint8Array =>
  sha1(concatBytes(peer, authenticator, octetsOfText(name.replace(/^.*\\/, '')))).slice(0, 8);

/** What answers a challenge (RFC 2759 §8.5), 24 octets. */
export function challengeResponse(challenge: Uint8Array, password: Uint8Array, des: Des): Uint8Array {
  const hash = new Uint8Array(21);
  hash.set(md4(wide(password)));
  return concatBytes(...[0, 7, 14].map((at) => des(spread(hash.subarray(at, at + 7)), challenge)));
}

const SIGNED = octetsOfText('Magic server to client signing constant');
const PADDED = octetsOfText('Pad to make it do more than one iteration');

/** What the server proves by that it knows the password too (RFC 2759 §8.7): `S=` and forty digits. */
export function authenticatorResponse(password: Uint8Array, response: Uint8Array, challenge: Uint8Array): string {
  const twice = md4(md4(wide(password)));
  const digest = sha1(concatBytes(sha1(concatBytes(twice, response, SIGNED)), challenge, PADDED));
  return `S=${bytesToHex(digest).toUpperCase()}`;
}
