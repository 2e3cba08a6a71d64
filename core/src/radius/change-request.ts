import { PROOF, readAnswer, sealRequest } from './authenticators';
import {
  CALLING_STATION,
  ERROR_CAUSE,
  EVENT_TIMESTAMP,
  FILTER_ID,
  NAS_IDENTIFIER,
  REPLY_MESSAGE,
  USER_NAME,
} from './dictionary';
import { stationOf } from './mac-format';
import { attributeOf, CODES, type Attribute } from './packet';
import { textOfOctets } from './text';
import { numberAttribute, saidAttributes, textAttribute } from './values';
import type { SaidPacket } from './exchange';

/** What is wanted of a session at a device. */
export interface WantedChange {
  /** Name of the device. */
  readonly device: string;
  readonly mac: string;
  /** Name by which it was let in; null: its MAC address was enough. */
  readonly user: string | null;
  /** The class that it is to have; null: it is to end. */
  readonly className: string | null;
}

/** A request as it goes out. */
export interface ChangeRequest {
  readonly bytes: Uint8Array;
  readonly packet: SaidPacket;
  readonly id: number;
  readonly authenticator: Uint8Array;
  readonly code: 40 | 43;
}

/** Makes a Disconnect-Request, or a CoA-Request that names a class (RFC 5176 §3). @param now seconds since 1970. */
export function changeRequest(
  { device, mac, user, className }: WantedChange,
  id: number,
  secret: Uint8Array,
  now: number,
): ChangeRequest {
  const attributes: Attribute[] = [
    PROOF,
    textAttribute(NAS_IDENTIFIER, device),
    ...(user === null ? [] : [textAttribute(USER_NAME, user)]),
    textAttribute(CALLING_STATION, stationOf(mac)),
    ...(className === null ? [] : [textAttribute(FILTER_ID, className)]),
    numberAttribute(EVENT_TIMESTAMP, Math.floor(now)),
  ];
  const code = className === null ? 40 : 43;
  const sealed = sealRequest({ code, id, attributes }, secret);
  const packet = { from: 'us' as const, name: CODES[code], at: 0, attributes: saidAttributes(attributes.slice(1)) };
  return { bytes: sealed.bytes, authenticator: sealed.authenticator, id, code, packet };
}

/** What a device answered to it: done, or not, and why. @param ms after which it came. */
export function changeAnswer(
  bytes: Uint8Array,
  request: ChangeRequest,
  secret: Uint8Array,
  ms: number,
): { readonly ok: boolean; readonly words: string; readonly packet: SaidPacket | null } {
  const read = readAnswer(bytes, request, secret, true);
  if (!read.ok) return { ok: false, words: `What came is no answer: ${read.why}.`, packet: null };
  const { packet } = read;
  const told = {
    from: 'server' as const,
    name: CODES[packet.code],
    at: ms,
    attributes: saidAttributes(packet.attributes),
  };
  if (packet.code === 41 || packet.code === 44) return { ok: true, words: '', packet: told };
  const [cause, words] = [attributeOf(packet, ERROR_CAUSE), attributeOf(packet, REPLY_MESSAGE)];
  const [known] = cause ? saidAttributes([{ type: ERROR_CAUSE, value: cause }]) : [];
  return {
    ok: false,
    words: [words && textOfOctets(words), known && `(${known.value})`].filter(Boolean).join(' ') || 'It says no.',
    packet: told,
  };
}
