import { sameOctets } from '../authenticators';
import { EAP_TYPE } from '../eap';
import { accepted, HASHED, rejected, turnedAway, unknownTo, WRONG, type Judged, type KnownUser } from '../judged';
import { octetsOfText, textOfOctets } from '../text';
import { authenticatorResponse, challengeHash, challengeResponse } from './mschapv2';
import type { MethodParts } from './step';

/** What is said inside PEAP next, or how it ended. */
export type InnerStep =
  { readonly kind: 'say'; readonly plain: Uint8Array } | { readonly kind: 'over'; readonly judged: Judged };

/** Parts of MS-CHAPv2 inside EAP: what a packet is, and the value of an answer. */
export const MSCHAP = { challenge: 1, response: 2, success: 3, failure: 4, valueOctets: 49 } as const;
/** Result inside PEAP: a packet of its own, with a head (type 33): success or failure. */
export const RESULT_TYPE = 33;
export const resultPacket = (code: number, id: number, success: boolean): Uint8Array =>
  Uint8Array.of(code, id, 0, 11, RESULT_TYPE, 0x80, 3, 0, 2, 0, success ? 1 : 2);
/** Whether a packet inside PEAP is a result; null: it is none. */
export const resultIn = (plain: Uint8Array): boolean | null =>
  plain.length === 11 && plain[4] === RESULT_TYPE && plain[6] === 3 ? plain[10] === 1 : null;

/** A packet of MS-CHAPv2 inside PEAP version 0: its type, and no head. */
export const mschapPacket = (op: number, id: number, rest: Uint8Array): Uint8Array => {
  const size = 4 + rest.length;
  return Uint8Array.of(EAP_TYPE.mschapv2, op, id, size >> 8, size & 255, ...rest);
};

const OURS = octetsOfText('iron-lattice');

/** What a server says inside PEAP version 0: who are you, MS-CHAPv2 (RFC 2759), and the result on both sides. */
export class PeapServer {
  private stands: 'begin' | 'name' | 'challenge' | 'success' | 'result' = 'begin';
  private challenge = new Uint8Array();
  private user: KnownUser | null = null;
  private judged: Judged = rejected('nothing was said inside PEAP');

  constructor(private readonly parts: MethodParts) {}

  /** @param plain what came inside; empty: nothing yet. */
  async hear(plain: Uint8Array): Promise<InnerStep> {
    switch (this.stands) {
      case 'begin':
        this.stands = 'name';
        return { kind: 'say', plain: Uint8Array.of(EAP_TYPE.identity) };
      case 'name':
        return this.named(plain);
      case 'challenge':
        return this.answered(plain);
      case 'success':
        if (plain[0] !== EAP_TYPE.mschapv2 || plain[1] !== MSCHAP.success)
          return this.result(rejected('it does not believe that we know the password'));
        return this.result(accepted(this.user!));
      case 'result':
        if (this.judged.code === 2 && resultIn(plain) !== true)
          return { kind: 'over', judged: rejected('it says inside PEAP that it failed') };
        return { kind: 'over', judged: this.judged };
    }
  }

  private async named(plain: Uint8Array): Promise<InnerStep> {
    if (plain[0] !== EAP_TYPE.identity || plain.length < 2)
      return this.result(rejected('it does not say who it is inside PEAP'));
    const name = textOfOctets(plain.slice(1));
    this.user = await this.parts.find(name);
    if (!this.user) return this.result(unknownTo(name));
    if (!this.user.password || !this.parts.des) return this.result(turnedAway(this.user, HASHED));
    this.challenge = new Uint8Array(this.parts.random(16));
    this.stands = 'challenge';
    return {
      kind: 'say',
      plain: mschapPacket(MSCHAP.challenge, 1, Uint8Array.of(16, ...this.challenge, ...OURS)),
    };
  }

  private answered(plain: Uint8Array): InnerStep {
    const at = 6;
    const isAnswer = plain[0] === EAP_TYPE.mschapv2 && plain[1] === MSCHAP.response && plain[5] === MSCHAP.valueOctets;
    if (!isAnswer || plain.length < at + MSCHAP.valueOctets)
      return this.result(rejected('inside PEAP it wants another method than MS-CHAPv2'));
    const [peer, response] = [plain.slice(at, at + 16), plain.slice(at + 24, at + 48)];
    const password = this.user!.password!;
    const hashed = challengeHash(peer, this.challenge, textOfOctets(plain.slice(at + MSCHAP.valueOctets)));
    if (!sameOctets(challengeResponse(hashed, password, this.parts.des!), response))
      return this.result(turnedAway(this.user!, WRONG));
    this.stands = 'success';
    const proof = octetsOfText(`${authenticatorResponse(password, response, hashed)} M=let in`);
    return { kind: 'say', plain: mschapPacket(MSCHAP.success, plain[2]!, proof) };
  }

  /** Says how it ended; who hears it says so too. */
  private result(judged: Judged): InnerStep {
    this.judged = judged;
    this.stands = 'result';
    return { kind: 'say', plain: resultPacket(1, 1, judged.code === 2) };
  }
}
