import { randomBytes, webcrypto } from 'node:crypto';
import { BmpString, OctetString } from 'asn1js';
import {
  Attribute,
  AuthenticatedSafe,
  CertBag,
  Certificate,
  CryptoEngine,
  PFX,
  PKCS8ShroudedKeyBag,
  PrivateKeyInfo,
  SafeBag,
  SafeContents,
  setEngine,
} from 'pkijs';
import { derOf } from './pem';

setEngine('node', new CryptoEngine({ name: 'node', crypto: webcrypto as never }));

/** Kinds of what is in it, and what each is called and found by (RFC 7292 §4.2, RFC 2985 §5.5). */
const OID = {
  key: '1.2.840.113549.1.12.10.1.2',
  certificate: '1.2.840.113549.1.12.10.1.3',
  name: '1.2.840.113549.1.9.20',
  keyId: '1.2.840.113549.1.9.21',
} as const;
/** Rounds by which a guess at the password is made dear. */
const ROUNDS = 100_000;

/**
 * A certificate with its key and that of its maker in one file (PKCS #12, RFC 7292), under AES-256 and HMAC-SHA-256 (RFC 8018 §6.2).
 * @param made all as PEM. @returns DER.
 */
export async function pkcs12Of(
  made: { readonly cert: string; readonly key: string; readonly authority: string; readonly name: string },
  password: string,
): Promise<Uint8Array> {
  const secret = new TextEncoder().encode(password).buffer;
  const id = new OctetString({ valueHex: new Uint8Array(randomBytes(16)).buffer });
  const attributes = [
    new Attribute({ type: OID.name, values: [new BmpString({ value: made.name })] }),
    new Attribute({ type: OID.keyId, values: [id] }),
  ];
  const key = new PKCS8ShroudedKeyBag({ parsedValue: PrivateKeyInfo.fromBER(derOf(made.key)) });
  const bag = (pem: string) => new CertBag({ parsedValue: Certificate.fromBER(derOf(pem)) });
  const keys = new SafeContents({
    safeBags: [new SafeBag({ bagId: OID.key, bagValue: key, bagAttributes: attributes })],
  });
  const certificates = new SafeContents({
    safeBags: [
      new SafeBag({ bagId: OID.certificate, bagValue: bag(made.cert), bagAttributes: attributes }),
      new SafeBag({ bagId: OID.certificate, bagValue: bag(made.authority) }),
    ],
  });
  const encryption = {
    ...{ password: secret, contentEncryptionAlgorithm: { name: 'AES-CBC', length: 256 } },
    ...{ hmacHashAlgorithm: 'SHA-256', iterationCount: ROUNDS },
  };
  const safe = new AuthenticatedSafe({
    parsedValue: {
      safeContents: [
        { privacyMode: 0, value: keys },
        { privacyMode: 1, value: certificates },
      ],
    },
  });
  await key.makeInternalValues(encryption as never);
  await safe.makeInternalValues({ safeContents: [{}, encryption] });
  const pfx = new PFX({ parsedValue: { integrityMode: 0, authenticatedSafe: safe } });
  await pfx.makeInternalValues({
    ...{ password: secret, iterations: ROUNDS, pbkdf2HashAlgorithm: 'SHA-256', hmacHashAlgorithm: 'SHA-256' },
  });
  return new Uint8Array(pfx.toSchema().toBER(false));
}
