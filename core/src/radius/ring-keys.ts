import { TUNNEL_PASSWORD } from './dictionary';
import type { Attribute } from './packet';
import { hideSalted, revealSalted } from './salted';
import { octetsOfText, textOfOctets } from './text';
import { NO_VLAN, vlansByTag, type SaidVlan } from './vlan-of';

/** A key of a ring as a server names it, and where it leads. */
export interface ServerKey {
  readonly key: string;
  readonly vlan: SaidVlan;
}

/**
 * A key that an answer names (Tunnel-Password, RFC 2868 §3.5).
 * @param tag 1 to 31: of the attributes that say its VLAN; 0: none of its own. @param authenticator of the request.
 * @param salt two octets, never the same twice in a packet. @throws RangeError for more octets than fit.
 */
export function tunnelPassword(
  key: string,
  tag: number,
  secret: Uint8Array,
  authenticator: Uint8Array,
  salt: Uint8Array,
): Attribute {
  const marked = Uint8Array.of(salt[0]! | 0x80, salt[1]!);
  const hidden = hideSalted(octetsOfText(key), secret, authenticator, marked);
  return { type: TUNNEL_PASSWORD, value: Uint8Array.of(tag, ...marked, ...hidden) };
}

/**
 * The keys that an answer names, in their order. Each leads to the VLAN of its own tag; where that names none, to what is said without
 * a tag; a key without one of its own, to whatever VLAN is said at all. What cannot be read with this secret is left out.
 */
export function ringKeysIn(
  attributes: readonly Attribute[],
  secret: Uint8Array,
  authenticator: Uint8Array,
): ServerKey[] {
  const vlans = vlansByTag(attributes);
  const any = (): SaidVlan => vlans.values().next().value ?? NO_VLAN;
  return attributes.flatMap(({ type, value }): ServerKey[] => {
    if (type !== TUNNEL_PASSWORD || value.length < 3) return [];
    const tag = value[0]! <= 0x1f ? value[0]! : 0;
    const key = revealSalted(value.slice(3), secret, authenticator, value.slice(1, 3));
    if (!key) return [];
    const vlan = vlans.get(tag) ?? (tag === 0 ? any() : (vlans.get(0) ?? NO_VLAN));
    return [{ key: textOfOctets(key), vlan }];
  });
}
