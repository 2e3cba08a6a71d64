import { md5 } from '@noble/hashes/legacy.js';
import { concatBytes } from '@noble/hashes/utils.js';

/** Most octets of a password in a User-Password (RFC 2865 §5.2). */
export const MOST_PASSWORD = 128;

/**
 * The value of a User-Password (RFC 2865 §5.2): padded with nothing to a multiple of 16, each sixteen octets hidden behind what the
 * secret and the sixteen before come to.
 * @throws RangeError for more than 128 octets.
 */
export function hidePassword(password: Uint8Array, secret: Uint8Array, authenticator: Uint8Array): Uint8Array {
  if (password.length > MOST_PASSWORD)
    throw new RangeError(`a password has ${MOST_PASSWORD} octets at most, not ${password.length}`);
  const padded = new Uint8Array(Math.max(16, Math.ceil(password.length / 16) * 16));
  padded.set(password);
  return unhide(padded, secret, authenticator, (hidden) => hidden);
}

/**
 * The password of a User-Password, without what pads it.
 * @returns null where the value has no length that one can have.
 */
export function revealPassword(value: Uint8Array, secret: Uint8Array, authenticator: Uint8Array): Uint8Array | null {
  if (value.length === 0 || value.length % 16 !== 0 || value.length > MOST_PASSWORD) return null;
  const padded = unhide(value, secret, authenticator, (_made, given) => given);
  let end = padded.length;
  while (end > 0 && padded[end - 1] === 0) end--;
  return padded.slice(0, end);
}

/** @param chained which of both sixteen octets the next are hidden behind: those on the wire. */
function unhide(
  value: Uint8Array,
  secret: Uint8Array,
  authenticator: Uint8Array,
  chained: (made: Uint8Array, given: Uint8Array) => Uint8Array,
): Uint8Array {
  const out = new Uint8Array(value.length);
  let before = authenticator;
  for (let at = 0; at < value.length; at += 16) {
    const given = value.subarray(at, at + 16);
    const mask = md5(concatBytes(secret, before));
    const made = out.subarray(at, at + 16);
    for (let i = 0; i < 16; i++) made[i] = given[i]! ^ mask[i]!;
    before = chained(made, given);
  }
  return out;
}

/** What a CHAP-Password says after its identifier, and an EAP-MD5 answer says as well (RFC 2865 §5.3, RFC 1994 §4.1). */
export const chapResponse = (id: number, password: Uint8Array, challenge: Uint8Array): Uint8Array =>
  md5(concatBytes(Uint8Array.of(id), password, challenge));
