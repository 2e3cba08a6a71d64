import {
  CALLED_STATION,
  CALLING_STATION,
  CHAP_CHALLENGE,
  CHAP_PASSWORD,
  NAS_IDENTIFIER,
  NAS_PORT_ID,
  NAS_PORT_TYPE,
  SERVICE_TYPE,
  STATE,
  USER_NAME,
  USER_PASSWORD,
} from './dictionary';
import { EAP, EAP_TYPE, eapAttributes, joinedEap, readEap, writeEap } from './eap';
import { METHOD_WORDS, type AskedFor } from './exchange';
import { macAs, stationOf, type MacFormat } from './mac-format';
import { nakFor, type TlsPeer } from './method';
import { attributeOf, type Attribute, type Packet } from './packet';
import { chapResponse, hidePassword } from './passwords';
import { octetsOfText } from './text';
import { nasAddress, numberAttribute, textAttribute } from './values';

/** Who asks, for somebody: what its requests say of it. */
export interface Asker {
  readonly name: string;
  readonly address: string | null;
  /** MAC address of the radio, or of the box. */
  readonly mac: string;
  readonly wireless: boolean;
}

const [FRAMED, CALL_CHECK] = [2, 10];
const [ETHERNET, WIRELESS] = [15, 19];

/** What every request for somebody says of who asks and where (RFC 3580 §3). */
export function callAttributes(by: Asker, asked: AskedFor): Attribute[] {
  const called = stationOf(by.mac) + (by.wireless && asked.at !== undefined ? `:${asked.at}` : '');
  return [
    textAttribute(NAS_IDENTIFIER, by.name),
    ...(by.address === null ? [] : nasAddress(by.address)),
    textAttribute(CALLED_STATION, called),
    textAttribute(CALLING_STATION, stationOf(asked.mac ?? by.mac)),
    numberAttribute(NAS_PORT_TYPE, by.wireless ? WIRELESS : ETHERNET),
    ...(by.wireless || asked.at === undefined ? [] : [textAttribute(NAS_PORT_ID, asked.at)]),
    numberAttribute(SERVICE_TYPE, asked.method === 'mac' ? CALL_CHECK : FRAMED),
  ];
}

/**
 * What proves who it is, in the first request: a password behind the secret (RFC 2865 §5.2), a challenge and what answers it (§5.3), the
 * identity alone (RFC 3579 §2.1), or the MAC address as name and password.
 * @param random of a challenge: 16 octets. @throws RangeError for a name or password of more octets than fit.
 */
export function firstProof(
  asked: AskedFor,
  macs: MacFormat,
  secret: Uint8Array,
  authenticator: Uint8Array,
  random: Uint8Array,
): Attribute[] {
  const name = asked.method === 'mac' ? macAs(asked.user, macs) : asked.user;
  const user = textAttribute(USER_NAME, name);
  const password = octetsOfText(asked.method === 'mac' ? name : asked.password);
  switch (asked.method) {
    case 'pap':
    case 'mac':
      return [user, { type: USER_PASSWORD, value: hidePassword(password, secret, authenticator) }];
    case 'chap': {
      const id = random[0]!;
      const value = Uint8Array.of(id, ...chapResponse(id, password, random));
      return [user, { type: CHAP_PASSWORD, value }, { type: CHAP_CHALLENGE, value: random }];
    }
    case 'eap-md5':
    case 'eap-ttls':
    case 'eap-tls':
    case 'peap':
      return [
        user,
        ...eapAttributes(
          writeEap({ code: EAP.response, id: random[0]!, type: EAP_TYPE.identity, data: octetsOfText(name) }),
        ),
      ];
  }
}

/** What follows a challenge: what answers it, or what is wrong with it. */
export type NextProof =
  | { readonly ok: true; readonly attributes: readonly Attribute[] }
  | { readonly ok: false; readonly end: 'senseless' | 'other-method' | 'untrusted'; readonly why: string };

const no = (end: 'senseless' | 'other-method', why: string): NextProof => ({ ok: false, end, why });

/**
 * Answers Access-Challenges in EAP (RFC 3579 §2.2): State comes back as it was given. What is asked for by another method than the one
 * that is wanted is turned down once, by the name of that one (RFC 3748 §5.3.1).
 */
export class EapAsker {
  private turnedDown = false;

  /** @param tls of methods that begin with TLS. */
  constructor(
    private readonly asked: AskedFor,
    private readonly tls: TlsPeer | null,
  ) {}

  async next(challenge: Packet): Promise<NextProof> {
    const bytes = joinedEap(challenge.attributes);
    if (!this.asked.method.startsWith('eap-') && this.asked.method !== 'peap')
      return no('other-method', 'It asks something back; only EAP can answer that.');
    if (!bytes) return no('senseless', 'Its challenge holds no EAP.');
    const eap = readEap(bytes);
    if (eap?.code !== EAP.request || eap.type === undefined)
      return no('senseless', 'Its challenge holds no EAP request.');
    const answer = await this.answer(eap.type, eap.id, eap.data);
    if (!answer.ok) return answer;
    const state = attributeOf(challenge, STATE);
    return {
      ok: true,
      attributes: [
        textAttribute(USER_NAME, this.asked.user),
        ...eapAttributes(writeEap({ code: EAP.response, id: eap.id, type: answer.type, data: answer.data })),
        ...(state ? [{ type: STATE, value: state }] : []),
      ],
    };
  }

  private async answer(
    type: number,
    id: number,
    data: Uint8Array,
  ): Promise<{ ok: true; type: number; data: Uint8Array } | Extract<NextProof, { ok: false }>> {
    const wanted = this.tls?.type ?? EAP_TYPE.md5;
    if (type === EAP_TYPE.identity) return { ok: true, type, data: octetsOfText(this.asked.user) };
    if (type === EAP_TYPE.notification) return { ok: true, type, data: new Uint8Array() };
    if (type !== wanted) {
      const name = Object.entries(EAP_TYPE).find(([, each]) => each === type)?.[0];
      const why = `It wants EAP ${name ? name.toUpperCase() : `type ${type}`} rather than ${METHOD_WORDS[this.asked.method]}.`;
      if (this.turnedDown) return { ok: false, end: 'other-method', why };
      this.turnedDown = true;
      return { ok: true, ...nakFor(wanted) };
    }
    if (this.tls) {
      const step = await this.tls.hear(data);
      return step.ok ? { ok: true, type, data: step.data } : step;
    }
    const size = data[0] ?? 0;
    if (size === 0 || size + 1 > data.length) return { ok: false, end: 'senseless', why: 'Its challenge is cut.' };
    const value = chapResponse(id, octetsOfText(this.asked.password), data.slice(1, 1 + size));
    return { ok: true, type, data: Uint8Array.of(16, ...value) };
  }
}
