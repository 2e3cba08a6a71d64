import { EAP_TYPE } from '../eap';
import { octetsOfText } from '../text';
import { writeAvps } from './avps';
import { PeapPeer } from './peap-peer';
import type { PeerOf, PeerStep } from './peer-step';
import type { TlsEngine } from './tls-engine';
import { labelOf, typeOf, type TlsMethod } from './tls-method';
import { TLS_MARK, TlsAssembly, TlsOutbox } from './tls-pieces';

const NOTHING = new Uint8Array();
const CHUNK = 16;
const senseless = (why: string): PeerStep => ({ ok: false, end: 'senseless', why });

/** The client’s side of EAP-TLS, EAP-TTLS with PAP and PEAP with MS-CHAPv2. A password goes to nobody whose certificate is not believed. */
export class TlsPeer {
  private readonly coming = new TlsAssembly();
  private readonly going = new TlsOutbox();
  private readonly peap: PeapPeer;
  private said = false;

  constructor(
    readonly method: TlsMethod,
    readonly engine: TlsEngine,
    private readonly of: PeerOf,
  ) {
    this.peap = new PeapPeer(of);
  }

  get type(): number {
    return typeOf(this.method);
  }

  /** Key material of the session, 64 octets, once it is let in. */
  keys(): Uint8Array {
    return this.engine.keys(labelOf(this.method), 128).slice(0, 64);
  }

  /** @param data of a request, after its type. */
  async hear(data: Uint8Array): Promise<PeerStep> {
    if ((data[0] ?? 0) & TLS_MARK.start) return this.send(await this.engine.feed(NOTHING));
    const took = this.coming.take(data);
    switch (took.kind) {
      case 'wrong':
        return senseless(`In EAP ${took.why}.`);
      case 'more':
        return { ok: true, data: Uint8Array.of(0) };
      case 'empty':
        return this.going.waits ? this.nextPiece() : this.goOn(NOTHING);
      case 'whole':
        return this.goOn(took.octets);
    }
  }

  private nextPiece(): PeerStep {
    return { ok: true, data: this.going.next() };
  }

  private send(octets: Uint8Array): PeerStep {
    if (this.engine.failed !== null) return this.failure();
    this.going.put(octets);
    return this.nextPiece();
  }

  private failure(): PeerStep {
    return senseless(`TLS: ${this.engine.failed}.`);
  }

  private async goOn(octets: Uint8Array): Promise<PeerStep> {
    const { engine, method } = this;
    const out = octets.length > 0 ? await engine.feed(octets) : NOTHING;
    if (engine.failed !== null) return this.failure();
    if (!engine.open) return out.length > 0 ? this.send(out) : senseless('TLS does not go on.');
    if (engine.trust === 'no') return { ok: false, end: 'untrusted', why: '' };
    if (out.length > 0) this.going.put(out);
    if (method === 'ttls' && !this.said) {
      this.said = true;
      this.going.put(await engine.write(this.secret()));
      return this.nextPiece();
    }
    const plain = engine.read();
    if (method === 'peap' && plain.length > 0) {
      const answer = this.peap.hear(plain);
      if (!answer.ok) return answer;
      this.going.put(await engine.write(answer.data));
    }
    return this.nextPiece();
  }

  /** Name and password inside EAP-TTLS, the password padded so that its length is not seen (RFC 5281 §11.2.5). */
  private secret(): Uint8Array {
    const password = octetsOfText(this.of.password);
    const padded = new Uint8Array(Math.max(1, Math.ceil(password.length / CHUNK)) * CHUNK);
    padded.set(password);
    return writeAvps([
      { code: 1, vendor: 0, data: octetsOfText(this.of.name) },
      { code: 2, vendor: 0, data: padded },
    ]);
  }
}

/** What is wanted instead of the method that was asked for (RFC 3748 §5.3.1). */
export const nakFor = (type: number): { readonly type: number; readonly data: Uint8Array } => ({
  type: EAP_TYPE.nak,
  data: Uint8Array.of(type),
});
