import { concatBytes } from '@noble/hashes/utils.js';

/** Attributes inside EAP-TTLS (RFC 5281 §10.1): a code, marks, a length, perhaps a vendor, the data; padded to four octets. */
export interface Avp {
  readonly code: number;
  readonly vendor: number;
  readonly data: Uint8Array;
}

const [VENDOR, MUST] = [0x80, 0x40];
/** Attributes of one message. */
const MOST = 100;

const number = (value: number, octets: number): number[] =>
  Array.from({ length: octets }, (_, i) => (value >>> (8 * (octets - 1 - i))) & 255);

/** Writes attributes that the other end must understand. */
export const writeAvps = (avps: readonly Avp[]): Uint8Array =>
  concatBytes(
    ...avps.map(({ code, vendor, data }) => {
      const head = vendor === 0 ? 8 : 12;
      const size = head + data.length;
      const bytes = new Uint8Array(Math.ceil(size / 4) * 4);
      bytes.set([...number(code, 4), vendor === 0 ? MUST : MUST | VENDOR, ...number(size, 3)]);
      if (vendor !== 0) bytes.set(number(vendor, 4), 8);
      bytes.set(data, head);
      return bytes;
    }),
  );

/** Reads them; null where they are cut, or too many. */
export function readAvps(bytes: Uint8Array): Avp[] | null {
  const avps: Avp[] = [];
  const value = (at: number, octets: number): number =>
    bytes.subarray(at, at + octets).reduce((sum, octet) => sum * 256 + octet, 0);
  for (let at = 0; at < bytes.length;) {
    if (bytes.length - at < 8 || avps.length === MOST) return null;
    const marks = bytes[at + 4]!;
    const [size, head] = [value(at + 5, 3), marks & VENDOR ? 12 : 8];
    if (size < head || size > bytes.length - at) return null;
    const vendor = marks & VENDOR ? value(at + 8, 4) : 0;
    avps.push({ code: value(at, 4), vendor, data: bytes.slice(at + head, at + size) });
    at += Math.ceil(size / 4) * 4;
  }
  return avps;
}
