import { EAP_TYPE, type EapPacket } from '../eap';
import { accepted, judgePassword, rejected, turnedAway, unknownTo, type Judged } from '../judged';
import { textOfOctets } from '../text';
import { readAvps } from './avps';
import { PeapServer } from './peap-server';
import type { MethodParts, Step } from './step';
import type { TlsEngine } from './tls-engine';
import { TLS_MARK, TlsAssembly, TlsOutbox } from './tls-pieces';

/** Methods that begin with TLS, and what their keys are made for (RFC 5216 §2.3, RFC 5281 §8). */
const TLS_METHODS = {
  tls: { type: EAP_TYPE.tls, label: 'client EAP encryption' },
  ttls: { type: EAP_TYPE.ttls, label: 'ttls keying material' },
  peap: { type: EAP_TYPE.peap, label: 'client EAP encryption' },
} as const;
export type TlsMethod = keyof typeof TLS_METHODS;
export const isTlsMethod = (method: string): method is TlsMethod => Object.hasOwn(TLS_METHODS, method);
export const labelOf = (method: TlsMethod): string => TLS_METHODS[method].label;
export const typeOf = (method: TlsMethod): number => TLS_METHODS[method].type;

/** Octets of key material, of which the first half is the session’s (RFC 3748 §7.10). */
const MATERIAL = 128;
const NOTHING = new Uint8Array();
/** Codes of User-Name and User-Password inside EAP-TTLS: those of RADIUS (RFC 5281 §11.2.5). */
const [NAME, PASSWORD] = [1, 2];

/** The server’s side of EAP-TLS (RFC 5216), EAP-TTLS with PAP (RFC 5281) and PEAP with MS-CHAPv2. */
class TlsServer {
  private readonly coming = new TlsAssembly();
  private readonly going = new TlsOutbox();
  private readonly peap: PeapServer;

  constructor(
    private readonly method: TlsMethod,
    private readonly engine: TlsEngine,
    private readonly name: string,
    private readonly parts: MethodParts,
  ) {
    this.peap = new PeapServer(parts);
  }

  begin(): Step {
    return this.ask(Uint8Array.of(TLS_MARK.start));
  }

  private ask(data: Uint8Array): Step {
    return { kind: 'ask', type: typeOf(this.method), data, next: (answer) => this.hear(answer) };
  }

  private over(judged: Judged): Step {
    // Whoever cannot be judged inside a tunnel begins anew: what was said in it is not said again.
    const told = judged.code === null ? rejected(judged.words) : judged;
    const keys = told.code === 2 ? this.engine.keys(labelOf(this.method), MATERIAL).slice(0, 64) : undefined;
    this.engine.close();
    return { kind: 'over', judged: told, ...(keys ? { keys } : {}) };
  }

  private async hear({ type, data }: EapPacket): Promise<Step> {
    if (type !== typeOf(this.method)) return this.over(rejected('it goes on with another method'));
    const took = this.coming.take(data);
    switch (took.kind) {
      case 'wrong':
        return this.over(rejected(took.why));
      case 'more':
        return this.ask(Uint8Array.of(0));
      case 'empty':
        return this.going.waits ? this.ask(this.going.next()) : this.goOn(NOTHING);
      case 'whole':
        return this.going.waits ? this.over(rejected('it speaks before it has heard all')) : this.goOn(took.octets);
    }
  }

  private async goOn(octets: Uint8Array): Promise<Step> {
    const { engine } = this;
    if (octets.length > 0) {
      const out = await engine.feed(octets);
      if (engine.failed !== null) return this.over(rejected(`TLS: ${engine.failed}`));
      if (out.length > 0) return this.send(out);
    }
    if (!engine.open) return this.over(rejected('TLS does not go on'));
    const plain = engine.read();
    switch (this.method) {
      case 'tls':
        return this.over(await this.byCertificate());
      case 'ttls':
        return this.over(await this.byPassword(plain));
      case 'peap': {
        const inner = await this.peap.hear(plain);
        return inner.kind === 'over' ? this.over(inner.judged) : this.send(await engine.write(inner.plain));
      }
    }
  }

  private send(octets: Uint8Array): Step {
    this.going.put(octets);
    return this.ask(this.going.next());
  }

  private async byCertificate(): Promise<Judged> {
    const seen = this.engine.certificate();
    if (!seen) return rejected('it showed no certificate');
    if (this.engine.trust !== 'yes') return rejected('its certificate is of none whom we believe');
    if (!seen.names.some((name) => name.toLowerCase() === this.name.toLowerCase()))
      return rejected(`its certificate is for ${seen.names.join(', ') || 'nobody'}`);
    const user = await this.parts.find(this.name);
    if (!user) return unknownTo(this.name);
    const whyNot = user.certified?.(seen.sha256) ?? null;
    return whyNot === null ? accepted(user) : turnedAway(user, whyNot);
  }

  private async byPassword(plain: Uint8Array): Promise<Judged> {
    const avps = readAvps(plain);
    const valueOf = (code: number): Uint8Array | undefined =>
      avps?.find((each) => each.code === code && each.vendor === 0)?.data;
    const [name, password] = [valueOf(NAME), valueOf(PASSWORD)];
    if (!name || !password) return rejected('inside EAP-TTLS it wants another method than PAP');
    let size = password.length;
    while (size > 0 && password[size - 1] === 0) size--; // padded, so that its length is not seen
    const text = textOfOctets(name);
    const user = await this.parts.find(text);
    return user ? judgePassword(password.slice(0, size), user) : unknownTo(text);
  }
}

/** Begins one of them. @param name as it said at first, outside TLS. */
export const beginTls = (method: TlsMethod, name: string, parts: MethodParts): Step =>
  new TlsServer(method, parts.engine!(method), name, parts).begin();
