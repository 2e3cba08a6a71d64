import { isAuthentic, proofOf, PROOF, sealResponse } from './authenticators';
import {
  CHAP_CHALLENGE,
  CHAP_PASSWORD,
  EAP_MESSAGE,
  NAS_IDENTIFIER,
  PROXY_STATE,
  REPLY_MESSAGE,
  STATE,
  USER_NAME,
  USER_PASSWORD,
} from './dictionary';
import { EAP, EAP_TYPE, eapAttributes, joinedEap, readEap, writeEap, type EapPacket } from './eap';
import { attributeOf, HEAD, MOST_OCTETS, readPacket, type Attribute, type Code, type Packet } from './packet';
import { judgeChap, judgePassword, rejected, unknownTo, type Judged, type KnownUser } from './judged';
import { beginMd5 } from './method/md5-method';
import { keyAttributes } from './method/mppe-keys';
import type { Des } from './method/mschapv2';
import type { MethodParts, ServerMethod, Step, TlsServerMethod } from './method/step';
import type { TlsEngine } from './method/tls-engine';
import { beginTls, isTlsMethod } from './method/tls-method';
import { revealPassword } from './passwords';
import { textOfOctets } from './text';
import { textAttribute } from './values';

/** What a server is made of. */
export interface ServerParts {
  /** Secret shared with who asks from an address, and says so in a packet; null: it is a stranger, who is told nothing. */
  readonly secretOf: (address: string, packet: Packet) => Uint8Array | null;
  readonly find: (name: string, request: Packet) => KnownUser | null | Promise<KnownUser | null>;
  readonly random: (octets: number) => Uint8Array;
  /** Milliseconds. */
  readonly now: () => number;
  /** EAP methods that are offered, the one that is asked for first in front; absent: EAP-MD5. */
  readonly methods?: readonly ServerMethod[];
  /** The server’s end of a new TLS connection; null, or absent: none of the methods that begin with TLS. */
  readonly engine?: ((method: TlsServerMethod) => TlsEngine) | null;
  /** For MS-CHAPv2; absent: it is not judged. */
  readonly des?: Des;
  /** What a no says where nobody is known by the name (Reply-Message); absent: what it says otherwise. */
  readonly unknown?: string;
  /** Whether a no says why (Reply-Message, RFC 2865 §5.18); absent: it does not. */
  readonly explains?: (request: Packet) => boolean;
  /** Whether requests without a Message-Authenticator are answered. */
  readonly unsigned?: boolean;
}

/** What a server made of what came. */
export interface Handled {
  /** What goes back; null: nothing. */
  readonly bytes: Uint8Array | null;
  /** What happened, in words. */
  readonly words: string;
  readonly user: string | null;
  readonly request: Packet | null;
  readonly answer: { readonly code: Code; readonly attributes: readonly Attribute[] } | null;
  /** Who was judged, inside a tunnel too; absent: nobody who is known, or not yet. */
  readonly known?: KnownUser;
}

/** Characters of why somebody is turned away: with accents, too, it fits into one attribute. */
const MOST_SAID = 120;
/** Conversations by TLS that one who asks may begin in a second; more are unanswered, and come again. */
const MOST_BEGUN = 50;
/** Conversations and answers that are remembered, and for how long (RFC 5080 §2.2.2). */
const [MOST_TALKS, MOST_TALKS_OF_ONE, MOST_ANSWERED] = [1024, 128, 4096];
const TALK_MS = 30_000;
const REPEAT_MS = 10_000;

interface Talk {
  readonly id: number;
  readonly user: string;
  readonly until: number;
  readonly next: (answer: EapPacket) => Promise<Step>;
  /** Methods that were asked for, and whether the last of them is yet to be agreed to. */
  readonly tried: readonly ServerMethod[];
  readonly first: boolean;
  readonly by: string;
}

/**
 * A RADIUS server (RFC 2865, RFC 3579) without its socket: PAP, CHAP, MAC addresses, EAP by the methods that it offers. What it cannot read, what is from
 * strangers and what is not proven it leaves unanswered; the same request once more gets the same answer and is not judged anew.
 */
export class Responder {
  private readonly talks = new Map<string, Talk>();
  private readonly talksOf = new Map<string, Set<string>>();
  private begun = { second: 0, counts: new Map<string, number>() };
  private readonly answered = new Map<string, { readonly until: number; readonly handled: Promise<Handled> }>();

  constructor(private readonly parts: ServerParts) {}

  /** Handles octets that came from an address and port. */
  async handle(bytes: Uint8Array, from: { readonly address: string; readonly port: number }): Promise<Handled> {
    const none = (words: string, request: Packet | null = null): Handled => {
      const user = request && attributeOf(request, USER_NAME);
      return { bytes: null, words, user: user ? textOfOctets(user) : null, request, answer: null };
    };
    const read = readPacket(bytes);
    if (!read.ok) return none(`no packet: ${read.why}`);
    const { packet } = read;
    const secret = this.parts.secretOf(from.address, packet);
    if (!secret) return none(`${from.address} is none of its clients`);
    if (packet.code === 12) return this.status(packet, secret, none);
    if (packet.code === 4) return this.account(packet, secret, none);
    if (packet.code !== 1) return none(`a packet of code ${packet.code} is for no server`, packet);
    const proof = proofOf(packet, packet.authenticator, secret);
    if (proof === 'wrong') return none('its Message-Authenticator is wrong: the secrets differ', packet);
    const isEap = attributeOf(packet, EAP_MESSAGE) !== undefined;
    if (proof === 'missing' && (isEap || !this.parts.unsigned)) return none('it has no Message-Authenticator', packet);

    const key = `${from.address} ${from.port} ${packet.id} ${keyOf(packet.authenticator)}`;
    const before = this.answered.get(key);
    if (before && before.until > this.parts.now()) return before.handled;
    const handled = this.judge(packet, secret, from.address).then((answer): Handled => {
      const user = attributeOf(packet, USER_NAME);
      return {
        bytes: answer.code === null ? null : this.seal(this.explained(answer, packet), packet, secret),
        words: answer.words,
        user: user ? textOfOctets(user) : null,
        request: packet,
        answer: answer.code === null ? null : { code: answer.code, attributes: answer.attributes },
        ...(answer.known ? { known: answer.known } : {}),
      };
    });
    // What could not be judged now, or failed, is judged when it comes again.
    const again = (): boolean => this.answered.delete(key);
    void handled.then(({ answer }) => answer !== null || again(), again);
    remember(this.answered, key, { until: this.parts.now() + REPEAT_MS, handled });
    return handled;
  }

  private explained({ code, attributes, words, unknown }: Judged, packet: Packet) {
    const said = unknown ? this.parts.unknown : undefined;
    const text = said ?? (code === 3 && this.parts.explains?.(packet) ? words : undefined);
    return {
      code: code!,
      attributes:
        text === undefined ? attributes : [textAttribute(REPLY_MESSAGE, text.slice(0, MOST_SAID)), ...attributes],
    };
  }

  /** What goes back; null where what has to be given back with it leaves no room. */
  private seal(
    { code, attributes }: { readonly code: Code; readonly attributes: readonly Attribute[] },
    packet: Packet,
    secret: Uint8Array,
  ): Uint8Array | null {
    const all = [...(code === 5 ? [] : [PROOF]), ...attributes, ...echoed(packet)];
    const octets = all.reduce((sum, { value }) => sum + 2 + value.length, HEAD);
    if (octets > MOST_OCTETS) return null;
    return sealResponse({ code, id: packet.id, attributes: all }, packet.authenticator, secret).bytes;
  }

  /** Whether it is alive (RFC 5997): asked with proof only. */
  private status(packet: Packet, secret: Uint8Array, none: (words: string, request: Packet) => Handled): Handled {
    if (proofOf(packet, packet.authenticator, secret) !== 'right')
      return none('a question for its state without proof', packet);
    const answer = { code: 2 as const, attributes: [] };
    return { bytes: this.seal(answer, packet, secret), words: 'it is alive', user: null, request: packet, answer };
  }

  /** Accounting (RFC 2866 §4): its authenticator is its proof. */
  private account(packet: Packet, secret: Uint8Array, none: (words: string, request: Packet) => Handled): Handled {
    const nothing = new Uint8Array(16);
    if (!isAuthentic(packet, nothing, secret)) return none('its authenticator is wrong: the secrets differ', packet);
    if (proofOf(packet, nothing, secret) === 'wrong') return none('its Message-Authenticator is wrong', packet);
    const answer = { code: 5 as const, attributes: [] };
    const user = attributeOf(packet, USER_NAME);
    return {
      // No standard says how a Message-Authenticator in it is made, and those who check one differ: it has none.
      bytes: this.seal(answer, packet, secret),
      words: 'accounted',
      user: user ? textOfOctets(user) : null,
      request: packet,
      answer,
    };
  }

  private async judge(packet: Packet, secret: Uint8Array, from: string): Promise<Judged> {
    const name = attributeOf(packet, USER_NAME);
    if (!name || name.length === 0) return rejected('it names nobody');
    const text = textOfOctets(name);
    const user = await this.parts.find(text, packet);
    const eap = joinedEap(packet.attributes);
    if (eap) {
      const by = textOfOctets(attributeOf(packet, NAS_IDENTIFIER) ?? new Uint8Array()) || from;
      return this.judgeEap({ packet, eap, name: text, user, secret, by });
    }
    const [password, chap] = [attributeOf(packet, USER_PASSWORD), attributeOf(packet, CHAP_PASSWORD)];
    if (password && chap) return rejected('it has two kinds of passwords');
    if (!user) return unknownTo(text);
    if (password) return judgePassword(revealPassword(password, secret, packet.authenticator), user);
    if (chap) return judgeChap(chap, attributeOf(packet, CHAP_CHALLENGE) ?? packet.authenticator, user);
    return rejected('it has no password');
  }

  /** A conversation in EAP: who it is, then the first method, or the one that is wanted instead (RFC 3748 §2). */
  private async judgeEap({ packet, eap: bytes, name, user, secret, by }: EapAsked): Promise<Judged> {
    const eap = readEap(bytes);
    if (eap?.code !== EAP.response) return rejected('its EAP packet is no answer');
    const methods = this.methods();
    if (eap.type === EAP_TYPE.identity) {
      // Whom it does not keep is asked of the next: who says a name inside a tunnel only is asked there.
      if (!user && this.parts.unknown !== undefined && !/^(anonymous|@)/i.test(name))
        return withEnd(unknownTo(name), eap.id);
      if (methods.some(isTlsMethod) && this.beganMany(by))
        return { code: null, attributes: [], words: 'too many conversations begin at the moment' };
      const first = methods[0];
      if (!first) return withEnd(rejected('no method is offered'), eap.id);
      return this.asks(this.begin(first, name, packet), { eap, name, by, tried: [first] });
    }
    const state = attributeOf(packet, STATE);
    const talk = state && this.talks.get(keyOf(state));
    if (!state || !talk || talk.until < this.parts.now() || talk.user !== name || talk.id !== eap.id)
      return withEnd(rejected('it continues no talk of ours'), eap.id);
    this.forget(keyOf(state), talk);
    if (eap.type === EAP_TYPE.nak && talk.first) {
      const wanted = methods.find((each) => eap.data.includes(EAP_TYPE[each]) && !talk.tried.includes(each));
      if (!wanted) return withEnd(rejected('it wants a method that is not offered'), eap.id);
      const tried = [...talk.tried, wanted];
      return this.asks(this.begin(wanted, name, packet), { eap, name, by, tried });
    }
    const step = await talk.next(eap);
    if (step.kind === 'ask') return this.asks(step, { eap, name, by, tried: talk.tried, first: false });
    const keys =
      step.keys && step.judged.code === 2 ? keyAttributes(step.keys, secret, packet.authenticator, this.salts()) : [];
    const judged = { ...step.judged, attributes: [...step.judged.attributes, ...keys] };
    return withEnd(judged.code === null ? rejected(judged.words) : judged, eap.id);
  }

  /** Whether somebody begins more conversations than are taken from one in a second: each costs milliseconds of work. */
  private beganMany(by: string): boolean {
    const second = Math.floor(this.parts.now() / 1000);
    if (this.begun.second !== second) this.begun = { second, counts: new Map() };
    const count = (this.begun.counts.get(by) ?? 0) + 1;
    this.begun.counts.set(by, count);
    return count > MOST_BEGUN;
  }

  /** Methods that are offered and can be had. */
  private methods(): readonly ServerMethod[] {
    const { methods = ['md5'], engine } = this.parts;
    return methods.filter((method) => !isTlsMethod(method) || (engine !== undefined && engine !== null));
  }

  private begin(method: ServerMethod, name: string, packet: Packet): Step {
    const parts: MethodParts = {
      find: async (text) => this.parts.find(text, packet),
      random: this.parts.random,
      engine: this.parts.engine ?? null,
      des: this.parts.des ?? null,
    };
    return isTlsMethod(method) ? beginTls(method, name, parts) : beginMd5(name, parts);
  }

  private salts(): [Uint8Array, Uint8Array] {
    const [a, b, c] = this.parts.random(3);
    return [Uint8Array.of(a!, b!), Uint8Array.of(a! ^ 1, c!)]; // two that are never alike
  }

  /** Asks something back, and remembers what is to come. */
  private asks(
    step: Step,
    {
      eap,
      name,
      by,
      tried,
      first = true,
    }: { eap: EapPacket; name: string; by: string; tried: readonly ServerMethod[]; first?: boolean },
  ): Judged {
    if (step.kind === 'over') return withEnd(step.judged, eap.id);
    const state = this.parts.random(16);
    const id = (eap.id + 1) & 255;
    this.keep(keyOf(state), { id, user: name, until: this.parts.now() + TALK_MS, next: step.next, tried, first, by });
    const asks: EapPacket = { code: EAP.request, id, type: step.type, data: step.data };
    return {
      code: 11,
      words: `asked by EAP type ${step.type}`,
      attributes: [...eapAttributes(writeEap(asks)), { type: STATE, value: state }],
    };
  }

  /** Keeps a conversation: the oldest goes where there are too many, of whoever has many first. */
  private keep(key: string, talk: Talk): void {
    const mine = this.talksOf.get(talk.by) ?? new Set<string>();
    const oldest =
      mine.size >= MOST_TALKS_OF_ONE
        ? mine.values().next().value
        : this.talks.size >= MOST_TALKS
          ? this.talks.keys().next().value
          : undefined;
    if (oldest !== undefined) this.forget(oldest, this.talks.get(oldest)!);
    this.talks.set(key, talk);
    mine.add(key);
    this.talksOf.set(talk.by, mine);
  }

  private forget(key: string, { by }: Talk): void {
    this.talks.delete(key);
    const mine = this.talksOf.get(by);
    mine?.delete(key);
    if (mine?.size === 0) this.talksOf.delete(by);
  }
}

/** Somebody who speaks EAP. */
interface EapAsked {
  readonly packet: Packet;
  readonly eap: Uint8Array;
  readonly name: string;
  readonly user: KnownUser | null;
  readonly secret: Uint8Array;
  /** Who asks for them. */
  readonly by: string;
}

/** What whoever passed the request on wants back (RFC 2865 §5.33). */
const echoed = ({ attributes }: Packet): Attribute[] => attributes.filter(({ type }) => type === PROXY_STATE);

/** How an EAP conversation ends, inside the answer that ends it (RFC 3579 §2.6). */
const withEnd = (judged: Judged, id: number): Judged => ({
  ...judged,
  attributes: [
    ...judged.attributes,
    ...eapAttributes(writeEap({ code: judged.code === 2 ? EAP.success : EAP.failure, id, data: new Uint8Array() })),
  ],
});

const keyOf = (octets: Uint8Array): string => String.fromCharCode(...octets.subarray(0, 32));

/** Keeps the latest of a kind: the oldest goes where there are too many. */
function remember<T>(all: Map<string, T>, key: string, value: T): void {
  all.delete(key);
  if (all.size >= MOST_ANSWERED) all.delete(all.keys().next().value!);
  all.set(key, value);
}
