/**
 * What two gateways can agree on (RFC 7296 §3.3.2, registry “IKEv2 Parameters”), with what the standards make of it: RFC 8247 for the exchange, RFC 8221 for
 * packets.
 */

/** How packets are kept secret. */
export interface Cipher {
  readonly title: string;
  /** As files of swanctl call it. */
  readonly name: string;
  /** Octets of what stands before and after what is kept secret, and to how many octets that is filled up (RFC 4303 §2, RFC 4106 §3, RFC 7634 §2). */
  readonly iv: number;
  readonly block: number;
  /** Octets by which it proves what it carries; absent: a hash does, beside it. */
  readonly icv?: number;
  readonly poor?: string;
}
/** What proves that nothing was changed, and makes keys. */
export interface Hash {
  readonly title: string;
  readonly name: string;
  /** Octets of a proof (RFC 4868 §2.1.1, RFC 2404 §3). */
  readonly icv: number;
  readonly poor?: string;
}
/** How both come to a key that nobody else knows (RFC 3526, RFC 5903, RFC 8031). */
export interface Group {
  readonly title: string;
  readonly name: string;
  readonly poor?: string;
}

export const CIPHERS = {
  'aes-gcm-256': { title: 'AES-GCM, 256 bits', name: 'aes256gcm16', iv: 8, block: 4, icv: 16 },
  'aes-gcm-128': { title: 'AES-GCM, 128 bits', name: 'aes128gcm16', iv: 8, block: 4, icv: 16 },
  'chacha20-poly1305': { title: 'ChaCha20-Poly1305', name: 'chacha20poly1305', iv: 8, block: 4, icv: 16 },
  'aes-cbc-256': { title: 'AES-CBC, 256 bits', name: 'aes256', iv: 16, block: 16 },
  'aes-cbc-128': { title: 'AES-CBC, 128 bits', name: 'aes128', iv: 16, block: 16 },
  '3des': { title: '3DES', name: '3des', iv: 8, block: 8, poor: 'RFC 8221 §5: should not be used' },
} as const satisfies Record<string, Cipher>;
export const HASHES = {
  'sha2-256': { title: 'SHA-256', name: 'sha256', icv: 16 },
  'sha2-384': { title: 'SHA-384', name: 'sha384', icv: 24 },
  'sha2-512': { title: 'SHA-512', name: 'sha512', icv: 32 },
  sha1: { title: 'SHA-1', name: 'sha1', icv: 12, poor: 'RFC 8247 §2.3: it is on its way out' },
} as const satisfies Record<string, Hash>;
export const GROUPS = {
  '31': { title: '31, Curve25519', name: 'x25519' },
  '19': { title: '19, 256 bits, elliptic', name: 'ecp256' },
  '20': { title: '20, 384 bits, elliptic', name: 'ecp384' },
  '21': { title: '21, 521 bits, elliptic', name: 'ecp521' },
  '14': { title: '14, 2048 bits', name: 'modp2048' },
  '15': { title: '15, 3072 bits', name: 'modp3072' },
  '16': { title: '16, 4096 bits', name: 'modp4096' },
  '5': { title: '5, 1536 bits', name: 'modp1536', poor: 'RFC 8247 §2.4: should not be used' },
  '2': { title: '2, 1024 bits', name: 'modp1024', poor: 'RFC 8247 §2.4: should not be used' },
} as const satisfies Record<string, Group>;

export type CipherName = keyof typeof CIPHERS;
export type HashName = keyof typeof HASHES;
export type GroupName = keyof typeof GROUPS;
/** All of them, what is best first. */
export const [CIPHER_NAMES, HASH_NAMES] = [Object.keys(CIPHERS) as CipherName[], Object.keys(HASHES) as HashName[]];
/** The same of groups, which an object would put in the order of their numbers. */
export const GROUP_NAMES: readonly GroupName[] = ['31', '19', '20', '21', '14', '15', '16', '5', '2'];

/** What one end would use, each list with what it likes best first. */
export interface Offer {
  readonly ciphers: readonly CipherName[];
  readonly hashes: readonly HashName[];
  /** For packets: of which a key of their own is made anew; none: keys follow from the exchange. */
  readonly groups: readonly GroupName[];
}

/** Whether a cipher proves by itself what it carries (RFC 5282, RFC 4106). */
export const provesItself = (cipher: CipherName): boolean => 'icv' in CIPHERS[cipher];

/** What is poor of an offer, each with what the standard says. */
export function poorOf({ ciphers, hashes, groups }: Offer): string[] {
  const of = (each: Cipher | Hash | Group): string[] =>
    each.poor === undefined ? [] : [`${each.title} (${each.poor})`];
  return [
    ...ciphers.flatMap((name) => of(CIPHERS[name])),
    ...hashes.flatMap((name) => of(HASHES[name])),
    ...groups.flatMap((name) => of(GROUPS[name])),
  ];
}
