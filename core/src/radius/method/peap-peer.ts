import { EAP_TYPE } from '../eap';
import { octetsOfText, textOfOctets } from '../text';
import { authenticatorResponse, challengeHash, challengeResponse } from './mschapv2';
import { MSCHAP, mschapPacket, resultIn, resultPacket } from './peap-server';
import type { PeerOf, PeerStep } from './peer-step';

/** What a client says inside PEAP version 0: who it is, MS-CHAPv2 (RFC 2759), and that it heard the result. */
export class PeapPeer {
  private proof = '';

  constructor(private readonly of: PeerOf) {}

  /** @param plain what came inside. */
  hear(plain: Uint8Array): PeerStep {
    const result = resultIn(plain);
    // Only a server that has proven that it knows the password may say that all is well.
    if (result !== null) {
      if (result && this.proof !== 'right')
        return {
          ok: false,
          end: 'senseless',
          why: 'Inside PEAP it says yes before it has proven that it knows the password.',
        };
      return { ok: true, data: resultPacket(2, plain[1]!, result) };
    }
    if (plain[0] === EAP_TYPE.identity)
      return { ok: true, data: Uint8Array.of(EAP_TYPE.identity, ...octetsOfText(this.of.name)) };
    if (plain[0] === EAP_TYPE.mschapv2) return this.challenged(plain);
    return { ok: true, data: Uint8Array.of(EAP_TYPE.nak, EAP_TYPE.mschapv2) };
  }

  private challenged(plain: Uint8Array): PeerStep {
    switch (plain[1]) {
      case MSCHAP.challenge: {
        if (plain[5] !== 16 || plain.length < 22)
          return { ok: false, end: 'senseless', why: 'Inside PEAP its challenge is cut.' };
        const [password, peer] = [octetsOfText(this.of.password), this.of.random(16)];
        const hashed = challengeHash(peer, plain.slice(6, 22), this.of.name);
        const response = challengeResponse(hashed, password, this.of.des);
        this.proof = authenticatorResponse(password, response, hashed);
        const value = Uint8Array.of(MSCHAP.valueOctets, ...peer, ...new Uint8Array(8), ...response, 0);
        return {
          ok: true,
          data: mschapPacket(MSCHAP.response, plain[2]!, Uint8Array.of(...value, ...octetsOfText(this.of.name))),
        };
      }
      case MSCHAP.success: {
        const said = textOfOctets(plain.slice(5, 5 + this.proof.length));
        if (this.proof === '' || said !== this.proof)
          return { ok: false, end: 'senseless', why: 'Inside PEAP it does not prove that it knows the password.' };
        this.proof = 'right';
        return { ok: true, data: Uint8Array.of(EAP_TYPE.mschapv2, MSCHAP.success) };
      }
      case undefined:
      default:
        return { ok: true, data: Uint8Array.of(EAP_TYPE.mschapv2, MSCHAP.failure) };
    }
  }
}
