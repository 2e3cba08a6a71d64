import { randomBytes } from 'node:crypto';
import { createSocket } from 'node:dgram';
import {
  callAttributes,
  firstProof,
  octetsOfText,
  PROOF,
  readAnswer,
  sealAccess,
  textOfOctets,
  type AskedFor,
} from '@iron-lattice/core/radius';

/** A device that asks a RADIUS server by UDP, in the hands of a test. */
export class RadiusClient {
  constructor(
    private readonly port: number,
    private readonly mac: string,
    readonly secret: string,
  ) {}

  /** @returns `accept` with the class, `reject` with why, or `silent`. */
  async ask(asked: Partial<AskedFor> & Pick<AskedFor, 'user'>, secret = this.secret, waitMs = 700): Promise<string> {
    const full: AskedFor = { method: 'pap', password: '', mac: '02:00:00:00:00:77', ...asked };
    const shared = octetsOfText(secret);
    const authenticator = new Uint8Array(randomBytes(16));
    const random = new Uint8Array(randomBytes(16));
    const by = { name: 'asker', address: '10.5.1.9', mac: this.mac, wireless: false };
    const attributes = [
      PROOF,
      ...firstProof(full, 'none_lower', shared, authenticator, random),
      ...callAttributes(by, full),
    ];
    const request = { code: 1 as const, id: randomBytes(1)[0]!, authenticator };
    const { bytes } = sealAccess({ code: 1, id: request.id, attributes }, authenticator, shared);
    const heard = await this.send(bytes, waitMs);
    if (heard === null) return 'silent';
    const read = readAnswer(heard, request, shared, true);
    if (!read.ok) return read.fault;
    const said = (type: number): string =>
      read.packet.attributes.flatMap((each) => (each.type === type ? [textOfOctets(each.value)] : [])).join();
    if (read.packet.code === 11) return 'challenge';
    return `${read.packet.code === 2 ? 'accept' : 'reject'} ${said(11)}${said(18)}`.trim();
  }

  /** Sends octets and waits for what comes back. */
  send(bytes: Uint8Array, waitMs = 700): Promise<Uint8Array | null> {
    return new Promise((resolve) => {
      const socket = createSocket('udp4');
      const done = (heard: Uint8Array | null): void => {
        clearTimeout(late);
        socket.close();
        resolve(heard);
      };
      const late = setTimeout(() => done(null), waitMs);
      socket.once('message', (heard) => done(new Uint8Array(heard)));
      socket.send(bytes, this.port, '127.0.0.1');
    });
  }
}
