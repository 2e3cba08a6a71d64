import { Duplex } from 'node:stream';
import { setImmediate } from 'node:timers/promises';
import { createSecureContext, TLSSocket, type SecureContext } from 'node:tls';
import type { TlsEngine } from '@iron-lattice/core/radius';

/** Turns of the event loop that TLS may be quiet for before what it said is all. */
const QUIET_TURNS = 3;

/** What the controller shows: the same for all conversations, made once. */
export const contextOf = (cert: string, key: string): SecureContext =>
  createSecureContext({ cert, key, minVersion: 'TLSv1.2', maxVersion: 'TLSv1.2' });

/** The controller’s end of TLS 1.2 by Node’s own, without a wire; it asks for no certificate. */
export class ServerTls implements TlsEngine {
  readonly trust = 'unchecked';
  private readonly socket: TLSSocket;
  private readonly wire: Duplex;
  private out: Buffer[] = [];
  private came: Buffer[] = [];
  private wrong: string | null = null;
  private done = false;

  constructor(secureContext: SecureContext) {
    this.wire = new Duplex({
      read: () => {},
      write: (octets: Buffer, _encoding, done) => {
        this.out.push(octets);
        done();
      },
    });
    this.socket = new TLSSocket(this.wire, { isServer: true, secureContext });
    this.socket.on('data', (plain: Buffer) => this.came.push(plain));
    this.socket.on('error', (error: NodeJS.ErrnoException) => (this.wrong ??= error.code ?? error.message));
    this.socket.once('secure', () => (this.done = true));
  }

  get open(): boolean {
    return this.done && this.wrong === null;
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

  certificate(): null {
    return null;
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
