import { type IpAddress } from './ip';
import { type Prefix } from './prefix';

/** Length of the prefixes in which an address can be made from a MAC: 64 bits are left (RFC 4862 §5.5.3, RFC 2464 §4). */
export const SELF_MADE_LENGTH = 64;

/**
 * The address a client makes for itself of an advertised prefix and its MAC: the modified EUI-64 identifier
 * (RFC 4291 App. A), which inverts the universal/local bit and puts FF-FE in the middle.
 * @param mac a 48-bit integer.
 * @returns null where the prefix is no IPv6 prefix of 64 bits.
 */
export function selfMadeAddress(prefix: Prefix, mac: bigint): IpAddress | null {
  if (prefix.version !== 6 || prefix.length !== SELF_MADE_LENGTH) return null;
  const [high, low] = [mac >> 24n, mac & 0xff_ff_ffn];
  const identifier = ((high ^ 0x02_00_00n) << 40n) | (0xff_fen << 24n) | low;
  return { version: 6, value: prefix.network | identifier };
}
