import type { X509Certificate } from 'node:crypto';
import { Duplex } from 'node:stream';
import { setImmediate } from 'node:timers/promises';
import { createSecureContext, TLSSocket, type SecureContext } from 'node:tls';
import type { SeenCertificate, TlsEngine, Trust } from '@iron-lattice/core/radius';

/** Turns of the event loop that TLS may be quiet for before what it said is all. */
const QUIET_TURNS = 3;

/** That a certificate is for clients of TLS (RFC 5280 §4.2.1.12). */
const CLIENT_USE = '1.3.6.1.5.5.7.3.2';

/** What the controller shows, and by whose hand it believes certificates: the same for all conversations, made once. */
export const contextOf = (cert: string, key: string, authority: string): SecureContext =>
  createSecureContext({ cert, key, ca: authority, minVersion: 'TLSv1.2', maxVersion: 'TLSv1.2' });

/** The controller’s end of TLS 1.2 by Node’s own, without a wire; it asks for a certificate where there is an authority to believe it by. */
export class ServerTls implements TlsEngine {
  private believed: Trust = 'unchecked';
  private readonly socket: TLSSocket;
  private readonly wire: Duplex;
  private out: Buffer[] = [];
  private came: Buffer[] = [];
  private wrong: string | null = null;
  private done = false;

  /** @param authority its certificate; null: nobody is asked for one. */
  constructor(secureContext: SecureContext, authority: X509Certificate | null) {
    this.wire = new Duplex({
      read: () => {},
      write: (octets: Buffer, _encoding, done) => {
        this.out.push(octets);
        done();
      },
    });
    this.socket = new TLSSocket(this.wire, {
      ...{ isServer: true, secureContext, requestCert: authority !== null },
      rejectUnauthorized: false, // it is judged here, so that the other end is told why
    });
    this.socket.on('data', (plain: Buffer) => this.came.push(plain));
    this.socket.on('error', (error: NodeJS.ErrnoException) => (this.wrong ??= error.code ?? error.message));
    this.socket.once('secure', () => {
      this.done = true;
      const shown = this.shown();
      if (authority) this.believed = shown && isOf(shown, authority) ? 'yes' : 'no';
    });
  }

  get open(): boolean {
    return this.done && this.wrong === null;
  }
  get trust(): Trust {
    return this.believed;
  }
  get failed(): string | null {
    return this.wrong;
  }

  feed(octets: Uint8Array): Promise<Uint8Array> {
    this.wire.push(Buffer.from(octets));
    return this.quiet();
  }

  write(plain: Uint8Array): Promise<Uint8Array> {
    this.socket.write(Buffer.from(plain));
    return this.quiet();
  }

  read(): Uint8Array {
    const all = new Uint8Array(Buffer.concat(this.came));
    this.came = [];
    return all;
  }

  keys(label: string, octets: number): Uint8Array {
    // Without a context, which is another thing than an empty one (RFC 5705 §4).
    const socket = this.socket as unknown as { exportKeyingMaterial(octets: number, label: string): Buffer };
    return new Uint8Array(socket.exportKeyingMaterial(octets, label));
  }

  certificate(): SeenCertificate | null {
    const shown = this.shown();
    if (!shown) return null;
    const names = shown.subject.split('\n').flatMap((each) => /^CN=(.*)$/s.exec(each)?.[1] ?? []);
    const sha256 = shown.fingerprint256.replaceAll(':', '').toLowerCase();
    return { names, issuer: shown.issuer, until: new Date(shown.validTo).toISOString(), sha256 };
  }

  private shown(): X509Certificate | undefined {
    return this.socket.getPeerX509Certificate();
  }

  close(): void {
    this.socket.destroy();
    this.wire.destroy();
  }

  /** What TLS says, once it has said all that it will. */
  private async quiet(): Promise<Uint8Array> {
    let before = -1;
    for (let turns = 0; turns < QUIET_TURNS; turns++) {
      await setImmediate();
      const size = this.out.length + this.came.length;
      if (size !== before) turns = 0;
      before = size;
    }
    const all = new Uint8Array(Buffer.concat(this.out));
    this.out = [];
    return all;
  }
}

/** Whether the authority itself made a certificate, for a client of TLS, and it holds now (RFC 5280 §6.1). */
function isOf(shown: X509Certificate, authority: X509Certificate): boolean {
  const now = Date.now();
  const holds = now >= Date.parse(shown.validFrom) && now <= Date.parse(shown.validTo);
  return (
    holds &&
    shown.checkIssued(authority) &&
    shown.verify(authority.publicKey) &&
    (shown.keyUsage ?? []).includes(CLIENT_USE)
  );
}
