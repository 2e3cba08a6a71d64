import { isAuthentic, proofOf, PROOF, sameOctets, sealResponse } from './authenticators';
import { CHAP_CHALLENGE, CHAP_PASSWORD, EAP_MESSAGE, PROXY_STATE, STATE, USER_NAME, USER_PASSWORD } from './dictionary';
import { EAP, EAP_TYPE, eapAttributes, joinedEap, readEap, writeEap, type EapPacket } from './eap';
import { attributeOf, HEAD, MOST_OCTETS, readPacket, type Attribute, type Code, type Packet } from './packet';
import { chapResponse, revealPassword } from './passwords';
import { textOfOctets } from './text';

/** Somebody whom a server knows. */
export interface KnownUser {
  /** The password, where it is kept as such: challenges cannot be checked without. */
  readonly password: Uint8Array | null;
  /** Whether a password is theirs. */
  readonly fits: (password: Uint8Array) => boolean | Promise<boolean>;
  /** What is answered when they are let in. */
  readonly attributes: readonly Attribute[];
}

/** What a server is made of. */
export interface ServerParts {
  /** Secret shared with who asks from an address; null: it is a stranger, who is told nothing. */
  readonly secretOf: (address: string) => Uint8Array | null;
  readonly find: (name: string) => KnownUser | null | Promise<KnownUser | null>;
  readonly random: (octets: number) => Uint8Array;
  /** Milliseconds. */
  readonly now: () => number;
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
}

/** Conversations and answers that are remembered, and for how long (RFC 5080 §2.2.2). */
const MOST_TALKS = 4096;
const TALK_MS = 30_000;
const REPEAT_MS = 10_000;

interface Talk {
  readonly id: number;
  readonly challenge: Uint8Array;
  readonly user: string;
  readonly until: number;
}

/**
 * A RADIUS server (RFC 2865, RFC 3579) without its socket: PAP, CHAP, EAP-MD5, MAC addresses. What it cannot read, what is from
 * strangers and what is not proven it leaves unanswered; the same request once more gets the same answer and is not judged anew.
 */
export class Responder {
  private readonly talks = new Map<string, Talk>();
  private readonly answered = new Map<string, { readonly until: number; readonly handled: Promise<Handled> }>();

  constructor(private readonly parts: ServerParts) {}

  /** Handles octets that came from an address and port. */
  async handle(bytes: Uint8Array, from: { readonly address: string; readonly port: number }): Promise<Handled> {
    const none = (words: string, request: Packet | null = null): Handled => {
      const user = request && attributeOf(request, USER_NAME);
      return { bytes: null, words, user: user ? textOfOctets(user) : null, request, answer: null };
    };
    const secret = this.parts.secretOf(from.address);
    if (!secret) return none(`${from.address} is none of its clients`);
    const read = readPacket(bytes);
    if (!read.ok) return none(`no packet: ${read.why}`);
    const { packet } = read;
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
    const handled = this.judge(packet, secret).then((answer): Handled => {
      const user = attributeOf(packet, USER_NAME);
      return {
        bytes: this.seal(answer, packet, secret),
        words: answer.words,
        user: user ? textOfOctets(user) : null,
        request: packet,
        answer: { code: answer.code, attributes: answer.attributes },
      };
    });
    remember(this.answered, key, { until: this.parts.now() + REPEAT_MS, handled });
    return handled;
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

  private async judge(packet: Packet, secret: Uint8Array): Promise<Judged> {
    const name = attributeOf(packet, USER_NAME);
    if (!name || name.length === 0) return rejected('it names nobody');
    const text = textOfOctets(name);
    const user = await this.parts.find(text);
    const eap = joinedEap(packet.attributes);
    if (eap) return this.judgeEap(packet, eap, text, user);
    const [password, chap] = [attributeOf(packet, USER_PASSWORD), attributeOf(packet, CHAP_PASSWORD)];
    if (password && chap) return rejected('it has two kinds of passwords');
    if (!user) return rejected(`${text} is not known`);
    if (password) return judgePassword(revealPassword(password, secret, packet.authenticator), user);
    if (chap) return judgeChap(chap, attributeOf(packet, CHAP_CHALLENGE) ?? packet.authenticator, user);
    return rejected('it has no password');
  }

  private judgeEap(packet: Packet, bytes: Uint8Array, name: string, user: KnownUser | null): Judged {
    const eap = readEap(bytes);
    if (eap?.code !== EAP.response) return rejected('its EAP packet is no answer');
    if (eap.type === EAP_TYPE.identity) {
      const challenge = this.parts.random(16);
      const state = this.parts.random(16);
      const id = (eap.id + 1) & 255;
      remember(this.talks, keyOf(state), { id, challenge, user: name, until: this.parts.now() + TALK_MS });
      const asks: EapPacket = { code: EAP.request, id, type: EAP_TYPE.md5, data: Uint8Array.of(16, ...challenge) };
      return {
        code: 11,
        words: 'asked for EAP-MD5',
        attributes: [...eapAttributes(writeEap(asks)), { type: STATE, value: state }],
      };
    }
    const failed = (words: string): Judged => ({ ...rejected(words), attributes: ended(EAP.failure, eap.id) });
    const state = attributeOf(packet, STATE);
    const talk = state && this.talks.get(keyOf(state));
    if (!state || !talk || talk.until < this.parts.now() || talk.user !== name)
      return failed('it continues no talk of ours');
    this.talks.delete(keyOf(state));
    if (eap.type !== EAP_TYPE.md5 || eap.id !== talk.id || eap.data[0] !== 16 || eap.data.length < 17)
      return failed('it wants another method than EAP-MD5');
    if (!user) return failed(`${name} is not known`);
    if (!user.password) return failed(HASHED);
    const right = chapResponse(eap.id, user.password, talk.challenge);
    if (!sameOctets(right, eap.data.slice(1, 17))) return failed('its password is wrong');
    const judged = accepted(user);
    return { ...judged, attributes: [...judged.attributes, ...ended(EAP.success, eap.id)] };
  }
}

/** What is answered, and why. */
interface Judged {
  readonly code: Code;
  readonly attributes: readonly Attribute[];
  readonly words: string;
}

async function judgePassword(password: Uint8Array | null, user: KnownUser): Promise<Judged> {
  if (!password) return rejected('its password has no length that one can have');
  return (await user.fits(password)) ? accepted(user) : rejected('its password is wrong');
}

function judgeChap(chap: Uint8Array, challenge: Uint8Array, user: KnownUser): Judged {
  if (chap.length !== 17) return rejected('its CHAP-Password has not 17 octets');
  if (!user.password) return rejected(HASHED);
  const right = chapResponse(chap[0]!, user.password, challenge);
  return sameOctets(right, chap.slice(1)) ? accepted(user) : rejected('its password is wrong');
}

const HASHED = 'its password is kept in a way that no challenge can be checked by';

/** What whoever passed the request on wants back (RFC 2865 §5.33). */
const echoed = ({ attributes }: Packet): Attribute[] => attributes.filter(({ type }) => type === PROXY_STATE);

const accepted = ({ attributes }: KnownUser): Judged => ({ code: 2, attributes, words: 'let in' });
const rejected = (words: string): Judged => ({ code: 3, attributes: [], words });

/** How an EAP conversation ends, inside the answer that ends it (RFC 3579 §2.6). */
const ended = (code: number, id: number): Attribute[] => eapAttributes(writeEap({ code, id, data: new Uint8Array() }));

const keyOf = (octets: Uint8Array): string => String.fromCharCode(...octets.subarray(0, 32));

/** Keeps the latest of a kind: the oldest goes where there are too many. */
function remember<T>(all: Map<string, T>, key: string, value: T): void {
  all.delete(key);
  if (all.size >= MOST_TALKS) all.delete(all.keys().next().value!);
  all.set(key, value);
}
