import { generateKeyPairSync } from 'node:crypto';

/** A pair of keys of Curve25519 (RFC 7748 §5), each of 32 octets in base64. */
export function curveKeys(): { readonly own: string; readonly public: string } {
  const { x, d } = generateKeyPairSync('x25519').privateKey.export({ format: 'jwk' });
  const plain = (text: string | undefined): string => Buffer.from(text!, 'base64url').toString('base64');
  return { own: plain(d), public: plain(x) };
}
