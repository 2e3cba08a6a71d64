import 'reflect-metadata'; // that the library of certificates stands on
import { randomBytes, webcrypto } from 'node:crypto';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  cryptoProvider,
  ExtendedKeyUsage,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PemConverter,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509Certificate,
  X509CertificateGenerator,
} from '@peculiar/x509';
import { clock } from '../../platform/clock';

cryptoProvider.set(webcrypto as never);

const CURVE = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' } as const;
const [DAY_MS, SERIAL_OCTETS] = [86_400_000, 16];
/** For how long an authority and what it makes hold, in days. */
export const LIVES = { authority: 7300, server: 365 } as const;

/** A certificate and its key, as PEM, and when it ends. */
export interface Certified {
  readonly cert: string;
  readonly key: string;
  readonly until: Date;
}

/** Makes an authority (RFC 5280 §4.2): it makes certificates of servers and users, and no further authorities. */
export async function makeAuthority(name: string): Promise<Certified> {
  const keys = await pair();
  const span = spanOf(LIVES.authority);
  const certificate = await X509CertificateGenerator.createSelfSigned({
    ...{ serialNumber: serial(), name: [{ CN: [name] }], keys: keys as never, signingAlgorithm: CURVE, ...span },
    extensions: [
      new BasicConstraintsExtension(true, 0, true),
      new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
    ],
  });
  return { cert: certificate.toString('pem'), key: await pemOf(keys.privateKey), until: span.notAfter };
}

/** Has an authority make the certificate of a server. @param name that clients find it by. */
export async function makeServerCertificate(
  authority: Pick<Certified, 'cert' | 'key'>,
  name: string,
): Promise<Certified> {
  const maker = new X509Certificate(authority.cert);
  const own = PemConverter.decodeFirst(authority.key);
  const signingKey = await webcrypto.subtle.importKey('pkcs8', own, CURVE, false, ['sign']);
  const keys = await pair();
  const span = spanOf(LIVES.server);
  const certificate = await X509CertificateGenerator.create({
    ...{ serialNumber: serial(), subject: [{ CN: [name] }], issuer: maker.subject, ...span },
    ...{ publicKey: keys.publicKey as never, signingKey: signingKey as never, signingAlgorithm: CURVE },
    extensions: [
      new BasicConstraintsExtension(false, undefined, true),
      new KeyUsagesExtension(KeyUsageFlags.digitalSignature, true),
      new ExtendedKeyUsageExtension([ExtendedKeyUsage.serverAuth]),
      new SubjectAlternativeNameExtension([{ type: 'dns', value: name }]),
      await AuthorityKeyIdentifierExtension.create(maker.publicKey),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
    ],
  });
  return { cert: certificate.toString('pem'), key: await pemOf(keys.privateKey), until: span.notAfter };
}

const pair = (): Promise<webcrypto.CryptoKeyPair> => webcrypto.subtle.generateKey(CURVE, true, ['sign', 'verify']);
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
