import { fnv1a32, mix32, rangeSize, type IpRange } from '../address';

/** The address of a pool that an address inside is seen as: always the same, and all of them alike (RFC 4787 REQ-2). */
export function pooledFor(inside: bigint, pool: IpRange): bigint {
  const octets = Array.from({ length: 4 }, (_, i) => Number((inside >> BigInt(8 * (3 - i))) & 255n));
  return pool.first + (BigInt(mix32(fnv1a32(Uint8Array.from(octets)))) % rangeSize(pool));
}
