import { concatBytes } from '@noble/hashes/utils.js';
import { VENDOR_SPECIFIC } from '../dictionary';
import type { Attribute } from '../packet';
import { hideSalted, revealSalted } from '../salted';

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
    const hidden = hideSalted(material.slice(KEY_OCTETS * i, KEY_OCTETS * (i + 1)), secret, authenticator, salt);
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
      const key = revealSalted(value.slice(8), secret, authenticator, value.slice(6, 8));
      if (key && key.length > 0) return key;
    }
    return null;
  });
  return keys[0] && keys[1] ? concatBytes(keys[0], keys[1]) : null;
}
