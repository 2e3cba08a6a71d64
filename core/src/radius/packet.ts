/** Kinds of packets (RFC 2865 §3, RFC 2866 §3, RFC 5176 §2.3, RFC 5997 §2.1), by their codes. */
export const CODES = {
  1: 'Access-Request',
  2: 'Access-Accept',
  3: 'Access-Reject',
  4: 'Accounting-Request',
  5: 'Accounting-Response',
  11: 'Access-Challenge',
  12: 'Status-Server',
  40: 'Disconnect-Request',
  41: 'Disconnect-ACK',
  42: 'Disconnect-NAK',
  43: 'CoA-Request',
  44: 'CoA-ACK',
  45: 'CoA-NAK',
} as const;
export type Code = keyof typeof CODES;

/** Octets before the attributes, most octets of a packet, most of an attribute’s value (RFC 2865 §3, §5). */
export const HEAD = 20;
export const MOST_OCTETS = 4096;
export const MOST_VALUE = 253;

/** One attribute as it stands in a packet: its type and its octets. */
export interface Attribute {
  readonly type: number;
  readonly value: Uint8Array;
}

/** A packet, taken apart. */
export interface Packet {
  readonly code: Code;
  /** 0 to 255. */
  readonly id: number;
  /** 16 octets. */
  readonly authenticator: Uint8Array;
  readonly attributes: readonly Attribute[];
}

/** What octets are, or why they are no packet. */
export type ReadPacket = { readonly ok: true; readonly packet: Packet } | { readonly ok: false; readonly why: string };

const bad = (why: string): ReadPacket => ({ ok: false, why });

/**
 * Takes a packet apart (RFC 2865 §3): octets beyond its length are padding; what is shorter than it says, or has an attribute that does
 * not end within it, is none. Looks at no octet that is not there.
 */
export function readPacket(bytes: Uint8Array): ReadPacket {
  if (bytes.length < HEAD) return bad(`${bytes.length} octets are fewer than the ${HEAD} of an empty packet`);
  const length = (bytes[2]! << 8) | bytes[3]!;
  if (length < HEAD || length > MOST_OCTETS) return bad(`its length says ${length}, not ${HEAD} to ${MOST_OCTETS}`);
  if (length > bytes.length) return bad(`its length says ${length}, but ${bytes.length} octets came`);
  const code = bytes[0]!;
  if (!Object.hasOwn(CODES, code)) return bad(`there is no packet of code ${code}`);
  const attributes: Attribute[] = [];
  for (let at = HEAD; at < length;) {
    const size = at + 1 < length ? bytes[at + 1]! : 0;
    if (size < 2) return bad(`the attribute at octet ${at} says it has ${size} octets; the least is 2`);
    if (at + size > length) return bad(`the attribute at octet ${at} does not end within the packet`);
    attributes.push({ type: bytes[at]!, value: bytes.slice(at + 2, at + size) });
    at += size;
  }
  return { ok: true, packet: { code: code as Code, id: bytes[1]!, authenticator: bytes.slice(4, HEAD), attributes } };
}

/** Puts a packet together. @throws RangeError where a value, or all together, has more octets than fit. */
export function writePacket({ code, id, authenticator, attributes }: Packet): Uint8Array {
  if (id < 0 || id > 255) throw new RangeError(`an identifier is 0 to 255, not ${id}`);
  if (authenticator.length !== 16) throw new RangeError('an authenticator has 16 octets');
  const length = attributes.reduce((sum, { value }) => sum + 2 + value.length, HEAD);
  if (length > MOST_OCTETS) throw new RangeError(`a packet has ${MOST_OCTETS} octets at most, not ${length}`);
  const bytes = new Uint8Array(length);
  bytes.set([code, id, length >> 8, length & 255]);
  bytes.set(authenticator, 4);
  let at = HEAD;
  for (const { type, value } of attributes) {
    if (value.length > MOST_VALUE)
      throw new RangeError(`the value of attribute ${type} has ${value.length} octets; ${MOST_VALUE} fit`);
    bytes.set([type, value.length + 2], at);
    bytes.set(value, at + 2);
    at += value.length + 2;
  }
  return bytes;
}

/** The first attribute of a type; absent: undefined. */
export const attributeOf = ({ attributes }: Packet, type: number): Uint8Array | undefined =>
  attributes.find((each) => each.type === type)?.value;
