import { md5 } from '@noble/hashes/legacy.js';
import { concatBytes } from '@noble/hashes/utils.js';

/** Most octets that are hidden in one attribute behind a tag, a salt and their length. */
export const MOST_SALTED = 239;

/**
 * Octets hidden behind a secret, with a salt, as keys and passwords of answers are (RFC 2868 §3.5, RFC 2548 §2.4.2).
 * @param authenticator of the request. @param salt two octets, the first above 0x7F, never the same twice in a packet.
 * @returns without the salt. @throws RangeError beyond 239 octets.
 */
export function hideSalted(
  octets: Uint8Array,
  secret: Uint8Array,
  authenticator: Uint8Array,
  salt: Uint8Array,
): Uint8Array {
  if (octets.length > MOST_SALTED) throw new RangeError(`${MOST_SALTED} octets fit, not ${octets.length}`);
  const plain = new Uint8Array(Math.ceil((octets.length + 1) / 16) * 16);
  plain.set([octets.length, ...octets]);
  return chained(plain, secret, concatBytes(authenticator, salt), true);
}

/** The same octets again; null where they have no length that fits, as with another secret. */
export function revealSalted(
  hidden: Uint8Array,
  secret: Uint8Array,
  authenticator: Uint8Array,
  salt: Uint8Array,
): Uint8Array | null {
  if (hidden.length === 0 || hidden.length % 16 !== 0) return null;
  const plain = chained(hidden, secret, concatBytes(authenticator, salt), false);
  const size = plain[0]!;
  return size < plain.length ? plain.slice(1, 1 + size) : null;
}

/** @param hides whether what is given is plain. */
function chained(given: Uint8Array, secret: Uint8Array, first: Uint8Array, hides: boolean): Uint8Array {
  const out = new Uint8Array(given.length);
  let before = first;
  for (let at = 0; at < given.length; at += 16) {
    const mask = md5(concatBytes(secret, before));
    for (let i = 0; i < 16; i++) out[at + i] = given[at + i]! ^ mask[i]!;
    before = (hides ? out : given).slice(at, at + 16);
  }
  return out;
}
