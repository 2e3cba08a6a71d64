/** Days that a certificate may hold for, and holds for where nothing else is said. */
export const CERTIFICATE_DAYS = { least: 1, most: 1095, usual: 365 } as const;
/** Characters of what tells certificates of one user apart. */
export const MOST_LABEL = 40;
/** Characters of the name in a certificate (RFC 5280, Appendix A.1: ub-common-name). */
export const MOST_COMMON_NAME = 64;
/** Certificates of one user that hold at the same time. */
export const MOST_CERTIFICATES = 20;
/** How long before its end a certificate is said to end, in days. */
export const ENDS_SOON_DAYS = 30;

/** A certificate that the estate’s authority made. */
export interface IssuedCertificate {
  /** Serial number, in hex. */
  readonly serial: string;
  readonly kind: 'user' | 'server';
  /** Whom, or which server, it is for. */
  readonly name: string;
  /** Where it is: _laptop_; empty: not said. */
  readonly label: string;
  /** ISO 8601. */
  readonly madeAt: string;
  readonly until: string;
  /** When it was taken back; null: it was not. */
  readonly revokedAt: string | null;
  /** Who made it. */
  readonly by: string;
}

/** A certificate with its key, told once: nobody keeps the key. */
export interface MadeCertificate {
  readonly serial: string;
  readonly name: string;
  readonly label: string;
  readonly until: string;
  /** As PEM. */
  readonly cert: string;
  readonly key: string;
  readonly authority: string;
  /** Both with the authority’s certificate (PKCS #12, RFC 7292), in base64, and the password that opens it. */
  readonly pkcs12: string;
  readonly password: string;
}

/** Who knows its server by what: as a client has to be told. */
export interface TrustedServer {
  /** Name that the server’s certificate is for. */
  readonly name: string;
  /** Certificate of the authority it is believed by, as PEM. */
  readonly authority: string;
}
