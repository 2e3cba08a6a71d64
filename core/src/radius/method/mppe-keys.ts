import { md5 } from '@noble/hashes/legacy.js';
import { concatBytes } from '@noble/hashes/utils.js';
import { VENDOR_SPECIFIC } from '../dictionary';
import type { Attribute } from '../packet';

/** The vendor and its types that carry the keys of a session (RFC 2548 §2.4.2, §2.4.3). */
const [MICROSOFT, SEND_KEY, RECEIVE_KEY] = [311, 16, 17];
const KEY_OCTETS = 32;

/**
 * Keys of a session as attributes: the first half of the method’s key material to receive with, the second to send with (RFC 3748 §7.10).
 * @param material 64 octets. @param authenticator of the request. @param salts two of two octets each, never the same twice.
 */
export const keyAttributes = (
  material: Uint8Array,
  secret: Uint8Array,
  authenticator: Uint8Array,
  salts: readonly [Uint8Array, Uint8Array],
): Attribute[] =>
  ([RECEIVE_KEY, SEND_KEY] as const).map((type, i) => {
    const salt = Uint8Array.of(salts[i]![0]! | 0x80, salts[i]![1]!);
    const key = material.slice(KEY_OCTETS * i, KEY_OCTETS * (i + 1));
    const plain = new Uint8Array(Math.ceil((key.length + 1) / 16) * 16);
    plain.set([key.length, ...key]);
    const hidden = chained(plain, secret, concatBytes(authenticator, salt), true);
    return {
      type: VENDOR_SPECIFIC,
      value: Uint8Array.of(0, 0, MICROSOFT >> 8, MICROSOFT & 255, type, 4 + hidden.length, ...salt, ...hidden),
    };
  });

/** The key material that attributes carry; null where they carry none, or it cannot be read with this secret. */
export function keyMaterialIn(
  attributes: readonly Attribute[],
  secret: Uint8Array,
  authenticator: Uint8Array,
): Uint8Array | null {
  const keys = [RECEIVE_KEY, SEND_KEY].map((wanted) => {
    for (const { type, value } of attributes) {
      if (type !== VENDOR_SPECIFIC || value.length < 8 + 16) continue;
      if (((value[2]! << 8) | value[3]!) !== MICROSOFT || value[4] !== wanted || value[5] !== value.length - 4)
        continue;
      const hidden = value.slice(8);
      if (hidden.length % 16 !== 0) continue;
      const plain = chained(hidden, secret, concatBytes(authenticator, value.slice(6, 8)), false);
      const size = plain[0]!;
      if (size > 0 && size < plain.length) return plain.slice(1, 1 + size);
    }
    return null;
  });
  return keys[0] && keys[1] ? concatBytes(keys[0], keys[1]) : null;
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
