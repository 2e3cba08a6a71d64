import { CIPHERS, HASHES, type Cipher } from './transforms';
import type { Suite } from './agree';

/** Octets of headers around what is kept secret: of IPv4 or IPv6, of UDP where translation is on the way (RFC 3948 §2.1), index and count of ESP, and padding’s two. */
const [HEADER, UDP, ESP, TRAILER] = [{ 4: 20, 6: 40 }, 8, 8, 2];

/**
 * Octets of the largest packet that fits into one of a tunnel (RFC 4303 §2, tunnel mode).
 * @param mtu octets of the largest packet that its way takes. @param how.udp whether it goes inside UDP.
 */
export function innerOctets(
  { cipher, hash }: Pick<Suite, 'cipher' | 'hash'>,
  mtu: number,
  { version = 4, udp = false }: { readonly version?: 4 | 6; readonly udp?: boolean } = {},
): number {
  const { iv, block, icv = hash === null ? 0 : HASHES[hash].icv }: Cipher = CIPHERS[cipher];
  const room = mtu - HEADER[version] - (udp ? UDP : 0) - ESP - iv - icv;
  return Math.max(0, Math.floor(room / block) * block - TRAILER);
}
