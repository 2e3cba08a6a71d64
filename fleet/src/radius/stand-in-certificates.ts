import 'reflect-metadata'; // that the library of certificates stands on
import { randomBytes, webcrypto } from 'node:crypto';
import type { Certified } from '../ldap/certified';
import {
  BasicConstraintsExtension,
  cryptoProvider,
  ExtendedKeyUsage,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PemConverter,
  SubjectAlternativeNameExtension,
  X509CertificateGenerator,
  type X509Certificate,
} from '@peculiar/x509';

cryptoProvider.set(webcrypto as never);

const CURVE = { name: 'ECDSA', namedCurve: 'P-384', hash: 'SHA-384' } as const;
const [DAY_MS, SERIAL_OCTETS] = [86_400_000, 16];

interface Maker {
  readonly certificate: X509Certificate;
  readonly key: webcrypto.CryptoKey;
}

/** An authority of the made-up world (RFC 5280): lives as long as the process. */
export class MadeUpAuthority {
  private constructor(private readonly maker: Maker) {}

  static async make(name: string): Promise<MadeUpAuthority> {
    const keys = await pair();
    const certificate = await X509CertificateGenerator.createSelfSigned({
      ...{ serialNumber: serial(), name: `CN=${name}`, keys: keys as never, signingAlgorithm: CURVE },
      ...spanOf(3650),
      extensions: [
        new BasicConstraintsExtension(true, 0, true),
        new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
      ],
    });
    return new MadeUpAuthority({ certificate, key: keys.privateKey });
  }

  get pem(): string {
    return this.maker.certificate.toString('pem');
  }

  /** A certificate for a server or a user. @param days for how long; less than none: it is over. */
  async issue(name: string, use: 'server' | 'user', days = 365): Promise<Certified> {
    const keys = await pair();
    const certificate = await X509CertificateGenerator.create({
      ...{ serialNumber: serial(), subject: `CN=${name}`, issuer: this.maker.certificate.subject },
      ...{ publicKey: keys.publicKey as never, signingKey: this.maker.key as never, signingAlgorithm: CURVE },
      ...spanOf(days),
      extensions: [
        new BasicConstraintsExtension(false, undefined, true),
        new KeyUsagesExtension(KeyUsageFlags.digitalSignature, true),
        new ExtendedKeyUsageExtension([use === 'server' ? ExtendedKeyUsage.serverAuth : ExtendedKeyUsage.clientAuth]),
        ...(use === 'server'
          ? [
              new SubjectAlternativeNameExtension([
                { type: 'dns', value: name },
                ...(name === 'localhost' ? [{ type: 'ip' as const, value: '127.0.0.1' }] : []),
              ]),
            ]
          : []),
      ],
    });
    const key = await webcrypto.subtle.exportKey('pkcs8', keys.privateKey);
    return { cert: certificate.toString('pem'), key: PemConverter.encode(key, 'PRIVATE KEY') };
  }
}

const pair = (): Promise<webcrypto.CryptoKeyPair> => webcrypto.subtle.generateKey(CURVE, true, ['sign', 'verify']);

/** A positive number of 16 octets (RFC 5280 §4.1.2.2). */
function serial(): string {
  const octets = randomBytes(SERIAL_OCTETS);
  octets[0] = (octets[0]! & 0x7f) | 0x40;
  return octets.toString('hex');
}

const spanOf = (days: number): { readonly notBefore: Date; readonly notAfter: Date } => ({
  notBefore: new Date(Date.now() - (days > 0 ? DAY_MS : 30 * DAY_MS)),
  notAfter: new Date(Date.now() + days * DAY_MS),
});
