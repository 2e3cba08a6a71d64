import { X509Certificate } from 'node:crypto';
import { Duplex } from 'node:stream';
import { setImmediate } from 'node:timers/promises';
import { checkServerIdentity, connect, TLSSocket, createSecureContext, type PeerCertificate } from 'node:tls';
import type { SeenCertificate, TlsEngine, Trust } from '@iron-lattice/core/radius';

/** Turns of the event loop that TLS may be quiet for before what it said is all, and the longest wait for it, in milliseconds. */
const [QUIET_TURNS, PATIENCE_MS] = [3, 2000];
/** That a certificate is for clients of TLS (RFC 5280 §4.2.1.12). */
const CLIENT_USE = '1.3.6.1.5.5.7.3.2';
/** Texts of certificates that are told. */
const MOST_TEXT = 300;

/** Which end of TLS, with what. */
export interface NodeTlsOf {
  readonly isServer: boolean;
  /** Own certificate and its key, as PEM. */
  readonly cert?: string;
  readonly key?: string;
  /** Certificates of the authority by which the other end is believed, as PEM. */
  readonly authority?: string | undefined;
  /** A name that the other end’s certificate is for. */
  readonly name?: string | undefined;
}

/** One end of TLS 1.2 by Node’s own, without a wire. */
export class NodeTls implements TlsEngine {
  private readonly socket: TLSSocket;
  private readonly wire: Duplex;
  private out: Buffer[] = [];
  private came: Buffer[] = [];
  private wrong: string | null = null;
  private done = false;
  /** Why the certificate is not believed. */
  whyNot = '';
  private believed: Trust = 'unchecked';

  constructor(private readonly of: NodeTlsOf) {
    this.wire = new Duplex({
      read: () => {},
      write: (octets: Buffer, _encoding, done) => {
        this.out.push(octets);
        done();
      },
    });
    const versions = { minVersion: 'TLSv1.2', maxVersion: 'TLSv1.2' } as const;
    const context = createSecureContext({
      ...versions,
      ...(of.cert === undefined ? {} : { cert: of.cert }),
      ...(of.key === undefined ? {} : { key: of.key }),
      ...(of.authority === undefined ? {} : { ca: of.authority }),
    });
    this.socket = of.isServer
      ? new TLSSocket(this.wire, {
          isServer: true,
          secureContext: context,
          requestCert: of.authority !== undefined,
          rejectUnauthorized: false,
        })
      : connect({
          ...{ socket: this.wire, secureContext: context, rejectUnauthorized: false },
          checkServerIdentity: () => undefined, // whose name it is to be, if any, is judged apart
        });
    this.socket.on('data', (plain: Buffer) => this.came.push(plain));
    this.socket.on('error', (error: NodeJS.ErrnoException) => {
      this.wrong ??= (error.code ?? error.message)
        .replace(/^ERR_SSL_/, '')
        .toLowerCase()
        .replaceAll('_', ' ');
    });
    this.socket.once(of.isServer ? 'secure' : 'secureConnect', () => {
      this.done = true;
      this.judge();
    });
  }

  get open(): boolean {
    return this.done && this.wrong === null;
  }
  get failed(): string | null {
    return this.wrong;
  }
  get trust(): Trust {
    return this.believed;
  }

  async feed(octets: Uint8Array): Promise<Uint8Array> {
    if (octets.length > 0) this.wire.push(Buffer.from(octets));
    return this.quiet(octets.length === 0);
  }

  async write(plain: Uint8Array): Promise<Uint8Array> {
    this.socket.write(Buffer.from(plain));
    return this.quiet(true);
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
    const seen = this.socket.getPeerCertificate();
    if (!seen.fingerprint256) return null;
    const short = (text: string): string => text.slice(0, MOST_TEXT);
    return {
      names: namesIn(seen).map(short).slice(0, 30),
      issuer: short(seen.issuer?.CN ?? ''),
      until: new Date(seen.valid_to).toISOString(),
      sha256: seen.fingerprint256.replaceAll(':', '').toLowerCase(),
    };
  }

  close(): void {
    this.socket.destroy();
    this.wire.destroy();
  }

  /** What TLS says, once it has said all that it will. @param speaks whether it is to say something at all. */
  private async quiet(speaks: boolean): Promise<Uint8Array> {
    const deadline = Date.now() + PATIENCE_MS;
    let before = -1;
    for (let turns = 0; turns < QUIET_TURNS; turns++) {
      await setImmediate();
      const size = this.out.length + this.came.length;
      if (size !== before || (speaks && this.out.length === 0 && this.wrong === null && Date.now() < deadline))
        turns = 0;
      before = size;
    }
    const all = new Uint8Array(Buffer.concat(this.out));
    this.out = [];
    return all;
  }

  private serverFault(): string | null {
    const { authorized, authorizationError: error } = this.socket;
    return authorized ? null : String(error).toLowerCase().replaceAll('_', ' ');
  }

  /** Whether the certificate of the other end is believed. */
  private judge(): void {
    if (this.of.authority === undefined) return;
    const seen = this.socket.getPeerCertificate();
    const misnamed = this.of.name === undefined ? undefined : checkServerIdentity(this.of.name, seen);
    const fault = this.of.isServer ? clientFault(seen, this.of.authority) : this.serverFault();
    if (fault !== null) this.whyNot = `It is not of the authority (${fault}).`;
    else if (misnamed) this.whyNot = `It is for ${namesIn(seen).join(', ') || 'nobody'}, not for ${this.of.name}.`;
    this.believed = this.whyNot === '' ? 'yes' : 'no';
  }
}

/** Why a client’s certificate is not believed (RFC 5280 §6.1), one that the authority made itself; null: it is. */
function clientFault({ raw }: PeerCertificate, authority: string): string | null {
  if (!raw) return 'none was shown';
  const [shown, maker] = [new X509Certificate(raw), new X509Certificate(authority)];
  if (!maker.ca || !shown.checkIssued(maker) || !shown.verify(maker.publicKey)) return 'somebody else made it';
  const now = new Date();
  if (now < new Date(shown.validFrom) || now > new Date(shown.validTo)) return 'its time is over';
  return shown.keyUsage?.includes(CLIENT_USE) ? null : 'it is for no client';
}

function namesIn({ subject, subjectaltname = '' }: PeerCertificate): string[] {
  const beside = subjectaltname.split(', ').flatMap((each) => /^(?:DNS|email):(.+)$/.exec(each)?.[1] ?? []);
  return [...new Set([...(subject?.CN === undefined ? [] : [subject.CN].flat()), ...beside])];
}
