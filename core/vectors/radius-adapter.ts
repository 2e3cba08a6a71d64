import {
  chapResponse,
  hidePassword,
  macAs,
  octetsOfText,
  sealAccess,
  sealRequest,
  sealResponse,
  vlanOf,
  type Attribute,
  type Code,
  type MacFormat,
  type Sealed,
} from '../src/radius';

const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;

type Attributes = readonly (readonly [type: number, hex: string])[];
interface Sealing {
  readonly code: Code;
  readonly id: number;
  readonly attrs: Attributes;
  readonly request_authenticator: string;
  readonly secret?: string;
  readonly secret_hex?: string;
}

const octets = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16));
const hex = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex');
const attributesOf = (attrs: Attributes): Attribute[] => attrs.map(([type, value]) => ({ type, value: octets(value) }));
const secretOf = ({ secret, secret_hex }: Pick<Sealing, 'secret' | 'secret_hex'>): Uint8Array =>
  secret_hex === undefined ? octetsOfText(secret ?? '') : octets(secret_hex);
const unsealed = ({ code, id, attrs }: Sealing) => ({ code, id, attributes: attributesOf(attrs) });
const said = ({ bytes, messageAuthenticator }: Sealed) => ({
  message_authenticator: messageAuthenticator && hex(messageAuthenticator),
  packet: hex(bytes),
});

/** Functions of RADIUS, by the names of their vectors. */
export const RADIUS_ADAPTER = {
  'radius.user_password': on(
    (i: { password: string; secret?: string; secret_hex?: string; request_authenticator: string }) => ({
      hex: hex(hidePassword(octetsOfText(i.password), secretOf(i), octets(i.request_authenticator))),
    }),
  ),
  'radius.chap': on((i: { chap_id: number; password: string; challenge: string }) => ({
    response: hex(chapResponse(i.chap_id, octetsOfText(i.password), octets(i.challenge))),
  })),
  'radius.response': on((i: Sealing) => {
    const sealed = sealResponse(unsealed(i), octets(i.request_authenticator), secretOf(i));
    return { response_authenticator: hex(sealed.authenticator), ...said(sealed) };
  }),
  'radius.request_signed': on((i: Sealing) => {
    const sealed = sealRequest(unsealed(i), secretOf(i));
    return { authenticator: hex(sealed.authenticator), ...said(sealed) };
  }),
  'radius.access_request': on((i: Omit<Sealing, 'code'>) =>
    said(sealAccess(unsealed({ ...i, code: 1 }), octets(i.request_authenticator), secretOf(i))),
  ),
  'radius.vlan_from_attrs': on((i: { attrs: Attributes }) => {
    const vlan = vlanOf(attributesOf(i.attrs));
    if (vlan.kind === 'id') return { vid: vlan.vlan };
    return vlan.kind === 'name' ? { name: vlan.name } : vlan.kind === 'none' ? { none: true } : { error: true };
  }),
  'radius.mac_format': on((i: { mac: string; format: MacFormat }) => ({ text: macAs(i.mac, i.format) })),
};
