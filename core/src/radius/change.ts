import { formatMac, parseMac } from '../address';
import { isAuthentic, proofOf, PROOF, sealResponse } from './authenticators';
import {
  ACCT_SESSION_ID,
  CALLING_STATION,
  ERROR_CAUSE,
  EVENT_TIMESTAMP,
  FILTER_ID,
  FRAMED_IP_ADDRESS,
  MESSAGE_AUTHENTICATOR,
  NAS_IDENTIFIER,
  NAS_IP_ADDRESS,
  NAS_PORT_ID,
  PROXY_STATE,
  REPLY_MESSAGE,
  TUNNEL_GROUP,
  TUNNEL_MEDIUM,
  TUNNEL_TYPE,
  USER_NAME,
} from './dictionary';
import { attributeOf, readPacket, type Attribute, type Packet } from './packet';
import { textOfOctets } from './text';
import { numberAttribute, textAttribute } from './values';
import { vlanOf, type SaidVlan } from './vlan-of';

/** Why a session is not ended or changed (RFC 5176 §3.5). */
export const NAK_CAUSES = {
  unsupported: 401,
  missing: 402,
  elsewhere: 403,
  value: 407,
  prohibited: 501,
  'no-session': 503,
  several: 508,
} as const;
export type NakCause = keyof typeof NAK_CAUSES;

/** A server that may end and change sessions at a device, and whether what it sends may lack a Message-Authenticator. */
export interface ChangingServer {
  readonly name: string;
  readonly secret: Uint8Array;
  readonly unsigned?: true;
}

/** Which session is meant: all of it that is said has to be so. */
export interface SessionSelector {
  readonly id?: string;
  readonly user?: string;
  readonly mac?: string;
  readonly address?: string;
  readonly port?: string;
}

/** What a server wants of a session. */
export interface SessionChange {
  readonly packet: Packet;
  readonly server: ChangingServer;
  readonly wants: 'end' | 'class';
  readonly session: SessionSelector;
  readonly filterIds: readonly string[];
  readonly vlan: SaidVlan;
  /** Why it cannot be done, whatever sessions there are. */
  readonly nak?: { readonly cause: NakCause; readonly words: string };
}

/** What came, or why nothing is answered to it. */
export type ReadChange =
  { readonly ok: true; readonly change: SessionChange } | { readonly ok: false; readonly why: string };

/** By how many seconds a clock may differ whose request is believed (RFC 5176 §6.3). */
const SKEW = 300;

/** What is looked at, and nothing else: what is not must not seem to have been. */
const WHO = [NAS_IDENTIFIER, NAS_IP_ADDRESS] as const;
const WHICH = [USER_NAME, CALLING_STATION, ACCT_SESSION_ID, FRAMED_IP_ADDRESS, NAS_PORT_ID] as const;
const AROUND = [EVENT_TIMESTAMP, MESSAGE_AUTHENTICATOR, PROXY_STATE] as const;
const CHANGES = [FILTER_ID, TUNNEL_TYPE, TUNNEL_MEDIUM, TUNNEL_GROUP, REPLY_MESSAGE] as const;
const OF_END: ReadonlySet<number> = new Set([...WHO, ...WHICH, ...AROUND]);
const OF_CHANGE: ReadonlySet<number> = new Set([...OF_END, ...CHANGES]);

/**
 * Reads a Disconnect-Request or CoA-Request (RFC 5176 §3): what is no packet, of nobody whose secret is known, without the proof that is
 * demanded, or of another time, is not answered.
 * @param device what it is called, and its addresses. @param now seconds since 1970.
 */
export function readChange(
  bytes: Uint8Array,
  servers: readonly ChangingServer[],
  device: { readonly name: string; readonly addresses: readonly string[] },
  now: number,
): ReadChange {
  const no = (why: string): ReadChange => ({ ok: false, why });
  const read = readPacket(bytes);
  if (!read.ok) return no(`no packet: ${read.why}`);
  const { packet } = read;
  if (packet.code !== 40 && packet.code !== 43) return no(`a packet of code ${packet.code} changes no session`);
  const nothing = new Uint8Array(16);
  const server = servers.find(({ secret }) => isAuthentic(packet, nothing, secret));
  if (!server) return no('its authenticator was made with none of our secrets');
  const proof = proofOf(packet, nothing, server.secret);
  if (proof === 'wrong') return no('its Message-Authenticator is wrong');
  if (proof === 'missing' && !server.unsigned) return no('it has no Message-Authenticator, which is demanded');
  const stamp = attributeOf(packet, EVENT_TIMESTAMP);
  if (stamp && (stamp.length !== 4 || Math.abs(numberOf(stamp) - now) > SKEW))
    return no('it is of another time: it may be sent a second time by somebody else');
  const wants = packet.code === 40 ? 'end' : 'class';
  const text = (type: number): string | undefined => {
    const value = attributeOf(packet, type);
    return value && textOfOctets(value);
  };
  const [station, framed] = [text(CALLING_STATION), attributeOf(packet, FRAMED_IP_ADDRESS)];
  const value = station === undefined ? null : parseMac(station);
  const session: SessionSelector = {
    ...said('id', text(ACCT_SESSION_ID)),
    ...said('user', text(USER_NAME)),
    ...said('mac', station === undefined ? undefined : value === null ? station : formatMac(value)),
    ...said('address', framed?.length === 4 ? [...framed].join('.') : undefined),
    ...said('port', text(NAS_PORT_ID)),
  };
  const filterIds = packet.attributes.flatMap((each) => (each.type === FILTER_ID ? [textOfOctets(each.value)] : []));
  const vlan = vlanOf(packet.attributes);
  const nak = nakOf(packet, wants, device, session, { filterIds, vlan });
  return { ok: true, change: { packet, server, wants, session, filterIds, vlan, ...(nak ? { nak } : {}) } };
}

const numberOf = (value: Uint8Array): number => value.reduce((sum, octet) => sum * 256 + octet, 0);
const said = (field: keyof SessionSelector, value: string | undefined): SessionSelector =>
  value === undefined ? {} : { [field]: value };

/** Why a request cannot be carried out, by what it says alone. */
function nakOf(
  packet: Packet,
  wants: SessionChange['wants'],
  device: { readonly name: string; readonly addresses: readonly string[] },
  session: SessionSelector,
  { filterIds, vlan }: Pick<SessionChange, 'filterIds' | 'vlan'>,
): SessionChange['nak'] {
  const nak = (cause: NakCause, words: string) => ({ cause, words });
  const known = wants === 'end' ? OF_END : OF_CHANGE;
  const other = packet.attributes.find(({ type }) => !known.has(type));
  if (other) return nak('unsupported', `Attribute ${other.type} says nothing here.`);
  const name = attributeOf(packet, NAS_IDENTIFIER);
  if (name && textOfOctets(name) !== device.name) return nak('elsewhere', `This is ${device.name}.`);
  const address = attributeOf(packet, NAS_IP_ADDRESS);
  if (address && !device.addresses.includes([...address].join('.')))
    return nak('elsewhere', 'This device has another address.');
  if (Object.keys(session).length === 0) return nak('missing', 'It does not say which session is meant.');
  if (wants === 'end') return undefined;
  if (vlan.kind === 'wrong') return nak('value', `“${vlan.text}” is no VLAN.`);
  if (filterIds.length === 0 && vlan.kind === 'none') return nak('missing', 'It names neither a class nor a VLAN.');
  return undefined;
}

/** What answers a request: that it was done, or why not (RFC 5176 §3.5), with what whoever passed it on wants back. */
export function answerChange(
  { packet, server, wants }: Pick<SessionChange, 'packet' | 'server' | 'wants'>,
  nak?: { readonly cause: NakCause; readonly words: string },
): Uint8Array {
  const code = wants === 'end' ? (nak ? 42 : 41) : nak ? 45 : 44;
  const attributes: Attribute[] = [
    PROOF,
    ...(nak ? [numberAttribute(ERROR_CAUSE, NAK_CAUSES[nak.cause]), textAttribute(REPLY_MESSAGE, nak.words)] : []),
    ...packet.attributes.filter(({ type }) => type === PROXY_STATE),
  ];
  return sealResponse({ code, id: packet.id, attributes }, packet.authenticator, server.secret).bytes;
}

/** Whether a session is the one that is meant. */
export const isSelected = (
  { id, user, mac, address, port }: SessionSelector,
  session: {
    readonly id: string;
    readonly users: readonly string[];
    readonly mac: string;
    readonly address: string | null;
    readonly at: string;
  },
): boolean =>
  (id === undefined || id === session.id) &&
  (user === undefined || session.users.includes(user)) &&
  (mac === undefined || mac === session.mac) &&
  (address === undefined || address === session.address) &&
  (port === undefined || port === session.at);
