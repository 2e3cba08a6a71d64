/** What one sees of a certificate. */
export interface SeenCertificate {
  /** Names it is for: of the subject, and those beside it. */
  readonly names: readonly string[];
  readonly issuer: string;
  /** Last moment, ISO 8601. */
  readonly until: string;
  /** SHA-256 of it, in hex. */
  readonly sha256: string;
}

/** Whether a certificate was believed: by the authority that was given, or nobody gave one. */
export type Trust = 'yes' | 'no' | 'unchecked';

/** One end of TLS without its wire (RFC 5246): whoever has it moves the octets. */
export interface TlsEngine {
  /** Takes octets of the other end. @returns those that go back; none: it waits for more, or has failed. */
  feed(octets: Uint8Array): Promise<Uint8Array>;
  /** Both ends have finished their handshake, and have not failed since. */
  readonly open: boolean;
  /** Why it failed, in words; null: it has not. */
  readonly failed: string | null;
  /** What came through it since it was last asked. */
  read(): Uint8Array;
  /** Sends through it. @returns the octets that carry it. */
  write(plain: Uint8Array): Promise<Uint8Array>;
  /** Key material of both ends (RFC 5705). */
  keys(label: string, octets: number): Uint8Array;
  /** The certificate of the other end; null: it showed none. */
  certificate(): SeenCertificate | null;
  /** Whether that certificate is believed. */
  readonly trust: Trust;
  close(): void;
}
