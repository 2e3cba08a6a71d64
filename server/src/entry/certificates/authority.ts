import 'reflect-metadata'; // that the library of certificates stands on
import { createHash, randomBytes, webcrypto } from 'node:crypto';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  cryptoProvider,
  Extension,
  ExtendedKeyUsage,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PemConverter,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509Certificate,
  X509CertificateGenerator,
  X509CrlGenerator,
  X509CrlReason,
} from '@peculiar/x509';
import { clock } from '../../platform/clock';

cryptoProvider.set(webcrypto as never);

/** How keys are made and what is signed with them. New authorities have keys of 384 bits: nothing less does for WPA3 of 192 bits. */
const CURVES = {
  256: { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' },
  384: { name: 'ECDSA', namedCurve: 'P-384', hash: 'SHA-384' },
} as const;
/** Bits of the keys of an authority, and of what it makes. */
export type KeyBits = keyof typeof CURVES;
const [DAY_MS, SERIAL_OCTETS] = [86_400_000, 16];
/** For how many days a list of what was taken back holds, and what its number is called (RFC 5280 §5.2.3). */
const [LIST_DAYS, CRL_NUMBER] = [7, '2.5.29.20'];
/** For how long an authority and what it makes hold, in days. */
export const LIVES = { authority: 7300, server: 365 } as const;

/** A certificate and its key, as PEM, and when it ends. */
export interface Certified {
  readonly cert: string;
  readonly key: string;
  readonly until: Date;
}

/** Makes an authority (RFC 5280 §4.2): it makes certificates of servers and users, and no further authorities. */
export async function makeAuthority(name: string, bits: KeyBits = 384): Promise<Certified> {
  const curve = CURVES[bits];
  const keys = await pair(bits);
  const span = spanOf(LIVES.authority);
  const certificate = await X509CertificateGenerator.createSelfSigned({
    ...{ serialNumber: serial(), name: [{ CN: [name] }], keys: keys as never, signingAlgorithm: curve, ...span },
    extensions: [
      new BasicConstraintsExtension(true, 0, true),
      new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
    ],
  });
  return { cert: certificate.toString('pem'), key: await pemOf(keys.privateKey), until: span.notAfter };
}

/** Bits of the key that a certificate is for. */
export function bitsOf(cert: string): KeyBits {
  const { namedCurve } = new X509Certificate(cert).publicKey.algorithm as { readonly namedCurve?: string };
  return namedCurve === CURVES[384].namedCurve ? 384 : 256;
}

/** An authority with its key, as PEM. */
export type Maker = Pick<Certified, 'cert' | 'key'>;
/** A certificate that was made, and how it is known. */
export interface Issued extends Certified {
  /** Serial number, and SHA-256 of it, in hex. */
  readonly serial: string;
  readonly sha256: string;
}

/**
 * Has an authority make a certificate, for a key as long as its own. @param of a server: the name that clients find it by; of a user: as it signs in.
 * @param days for how long it holds; never longer than its authority.
 */
export async function issue(
  authority: Maker,
  of: { readonly kind: 'server' | 'user'; readonly name: string },
  days: number = LIVES.server,
): Promise<Issued> {
  const maker = new X509Certificate(authority.cert);
  const bits = bitsOf(authority.cert);
  const signingKey = await keyOf(authority);
  const keys = await pair(bits);
  const whole = spanOf(days);
  const span = { ...whole, notAfter: whole.notAfter < maker.notAfter ? whole.notAfter : maker.notAfter };
  const { kind, name } = of;
  const certificate = await X509CertificateGenerator.create({
    ...{ serialNumber: serial(), subject: [{ CN: [name] }], issuer: maker.subject, ...span },
    ...{ publicKey: keys.publicKey as never, signingKey: signingKey as never, signingAlgorithm: CURVES[bits] },
    extensions: [
      new BasicConstraintsExtension(false, undefined, true),
      new KeyUsagesExtension(KeyUsageFlags.digitalSignature, true),
      new ExtendedKeyUsageExtension([ExtendedKeyUsage[kind === 'server' ? 'serverAuth' : 'clientAuth']]),
      ...(kind === 'server' ? [new SubjectAlternativeNameExtension([{ type: 'dns', value: name }])] : []),
      await AuthorityKeyIdentifierExtension.create(maker.publicKey),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
    ],
  });
  return {
    ...{ cert: certificate.toString('pem'), key: await pemOf(keys.privateKey), until: span.notAfter },
    serial: certificate.serialNumber,
    sha256: createHash('sha256').update(new Uint8Array(certificate.rawData)).digest('hex'),
  };
}

/** What an authority took back (RFC 5280 §5), as DER, good for so many days. @param revoked `held`: it may be valid again. */
export async function revocationList(
  authority: Maker,
  revoked: readonly { readonly serial: string; readonly at: Date; readonly held: boolean }[],
): Promise<Uint8Array> {
  const maker = new X509Certificate(authority.cert);
  const now = clock.now();
  const list = await X509CrlGenerator.create({
    ...{ issuer: maker.subject, signingAlgorithm: CURVES[bitsOf(authority.cert)] },
    signingKey: (await keyOf(authority)) as never,
    ...{ thisUpdate: new Date(now), nextUpdate: new Date(now + LIST_DAYS * DAY_MS) },
    entries: revoked.map(({ serial: serialNumber, at, held }) => ({
      ...{ serialNumber, revocationDate: at },
      // A user who was taken away may be brought back; nothing else is ever taken out of it (RFC 5280 §5.3.1).
      ...(held ? { reason: X509CrlReason.certificateHold } : {}),
    })),
    extensions: [
      await AuthorityKeyIdentifierExtension.create(maker.publicKey),
      // Numbered by the second it was made in (RFC 5280 §5.2.3).
      new Extension(CRL_NUMBER, false, derNumber(Math.floor(now / 1000))),
    ],
  });
  return new Uint8Array(list.rawData);
}

/** A positive number of four octets (ITU-T X.690 §8.3). */
const derNumber = (value: number): Uint8Array<ArrayBuffer> => {
  const octets = Buffer.alloc(7);
  octets.writeUInt8(2, 0);
  octets.writeUInt8(5, 1);
  octets.writeUInt32BE(value, 3);
  return new Uint8Array(octets);
};

const keyOf = ({ cert, key }: Maker): Promise<webcrypto.CryptoKey> =>
  webcrypto.subtle.importKey('pkcs8', PemConverter.decodeFirst(key), CURVES[bitsOf(cert)], false, ['sign']);
const pair = (bits: KeyBits): Promise<webcrypto.CryptoKeyPair> =>
  webcrypto.subtle.generateKey(CURVES[bits], true, ['sign', 'verify']);
const pemOf = async (key: webcrypto.CryptoKey): Promise<string> =>
  PemConverter.encode(await webcrypto.subtle.exportKey('pkcs8', key), 'PRIVATE KEY');

/** A positive number of 16 octets that nobody guesses (RFC 5280 §4.1.2.2). */
function serial(): string {
  const octets = randomBytes(SERIAL_OCTETS);
  octets[0] = (octets[0]! & 0x7f) | 0x40;
  return octets.toString('hex');
}

/** From a day ago: clocks of clients are not all right. */
const spanOf = (days: number): { readonly notBefore: Date; readonly notAfter: Date } => ({
  notBefore: new Date(clock.now() - DAY_MS),
  notAfter: new Date(clock.now() + days * DAY_MS),
});
