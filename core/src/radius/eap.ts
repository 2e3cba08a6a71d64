import { EAP_MESSAGE } from './dictionary';
import { MOST_VALUE, type Attribute } from './packet';

/** Kinds of EAP packets (RFC 3748 §4), and types of what they ask and answer. */
export const EAP = { request: 1, response: 2, success: 3, failure: 4 } as const;
export const EAP_TYPE = {
  identity: 1,
  notification: 2,
  nak: 3,
  md5: 4,
  tls: 13,
  ttls: 21,
  peap: 25,
  mschapv2: 26,
} as const;

/** An EAP packet, taken apart. */
export interface EapPacket {
  readonly code: number;
  readonly id: number;
  /** Absent of success and failure. */
  readonly type?: number;
  /** What follows the type. */
  readonly data: Uint8Array;
}

/** Takes an EAP packet apart (RFC 3748 §4); null for what is none. */
export function readEap(bytes: Uint8Array): EapPacket | null {
  if (bytes.length < 4) return null;
  const [code, id] = [bytes[0]!, bytes[1]!];
  const length = (bytes[2]! << 8) | bytes[3]!;
  if (length < 4 || length > bytes.length || code < EAP.request || code > EAP.failure) return null;
  if (code === EAP.success || code === EAP.failure) return { code, id, data: new Uint8Array() };
  if (length < 5) return null;
  return { code, id, type: bytes[4]!, data: bytes.slice(5, length) };
}

/** Puts one together. */
export function writeEap({ code, id, type, data }: EapPacket): Uint8Array {
  const length = 4 + (type === undefined ? 0 : 1) + data.length;
  const bytes = new Uint8Array(length);
  bytes.set([code, id & 255, length >> 8, length & 255, ...(type === undefined ? [] : [type])]);
  bytes.set(data, length - data.length);
  return bytes;
}

/** An EAP packet as attributes: parted where it has more octets than one holds (RFC 3579 §3.1). */
export function eapAttributes(bytes: Uint8Array): Attribute[] {
  const out: Attribute[] = [];
  for (let at = 0; at < bytes.length; at += MOST_VALUE)
    out.push({ type: EAP_MESSAGE, value: bytes.slice(at, at + MOST_VALUE) });
  return out;
}

/** What the EAP-Message attributes of a packet come to together; null where there is none. */
export function joinedEap(attributes: readonly Attribute[]): Uint8Array | null {
  const parts = attributes.filter(({ type }) => type === EAP_MESSAGE);
  if (parts.length === 0) return null;
  const bytes = new Uint8Array(parts.reduce((sum, { value }) => sum + value.length, 0));
  let at = 0;
  for (const { value } of parts) {
    bytes.set(value, at);
    at += value.length;
  }
  return bytes;
}
