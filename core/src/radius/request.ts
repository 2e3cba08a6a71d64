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
import type { AskedFor } from './exchange';
import { macAs, stationOf, type MacFormat } from './mac-format';
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
  | { readonly ok: false; readonly end: 'senseless' | 'other-method'; readonly why: string };

/** Answers an Access-Challenge with EAP-MD5 (RFC 3748 §5.4, RFC 1994 §4.1): State comes back as it was given. */
export function nextProof(asked: AskedFor, challenge: Packet): NextProof {
  const no = (end: 'senseless' | 'other-method', why: string): NextProof => ({ ok: false, end, why });
  const bytes = joinedEap(challenge.attributes);
  if (asked.method !== 'eap-md5' || !bytes)
    return no('other-method', 'It asks something back; only EAP can answer that.');
  const eap = readEap(bytes);
  if (eap?.code !== EAP.request) return no('senseless', 'Its challenge holds no EAP request.');
  if (eap.type !== EAP_TYPE.md5) {
    const name = Object.entries(EAP_TYPE).find(([, type]) => type === eap.type)?.[0];
    return no('other-method', `It wants EAP ${name ? name.toUpperCase() : `type ${eap.type}`} rather than EAP-MD5.`);
  }
  const size = eap.data[0] ?? 0;
  if (size === 0 || size + 1 > eap.data.length) return no('senseless', 'Its challenge is cut.');
  const value = chapResponse(eap.id, octetsOfText(asked.password), eap.data.slice(1, 1 + size));
  const answer = writeEap({ code: EAP.response, id: eap.id, type: EAP_TYPE.md5, data: Uint8Array.of(16, ...value) });
  const state = attributeOf(challenge, STATE);
  return {
    ok: true,
    attributes: [
      textAttribute(USER_NAME, asked.user),
      ...eapAttributes(answer),
      ...(state ? [{ type: STATE, value: state }] : []),
    ],
  };
}
