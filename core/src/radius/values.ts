import { bytesToHex } from '@noble/hashes/utils.js';
import { formatIp, parseIp } from '../address';
import { DICTIONARY, type Known } from './dictionary';
import { EAP_TYPE } from './eap';
import { MOST_VALUE, type Attribute } from './packet';
import { octetsOfText, textOfOctets } from './text';

/** An attribute as one reads it. */
export interface SaidAttribute {
  readonly name: string;
  readonly value: string;
}

const numberOf = (value: Uint8Array): number => value.reduce((sum, octet) => sum * 256 + octet, 0);

/** Attributes as one reads them; passwords and keys are never said. */
export const saidAttributes = (attributes: readonly Attribute[]): SaidAttribute[] =>
  attributes.map(({ type, value }) => {
    const known = DICTIONARY[type];
    return { name: known?.name ?? `attribute ${type}`, value: valueInWords(known, value) };
  });

function valueInWords(known: Known | undefined, value: Uint8Array): string {
  switch (known?.kind) {
    case 'text':
      return textOfOctets(value);
    case 'number':
      return value.length === 4 ? numbered(known, numberOf(value)) : hex(value);
    case 'time':
      return value.length === 4 ? new Date(numberOf(value) * 1000).toISOString() : hex(value);
    case 'address':
      return value.length === 4 ? [...value].join('.') : hex(value);
    case 'address6':
      return value.length === 16 ? formatIp({ version: 6, value: BigInt(`0x${bytesToHex(value)}`) }) : hex(value);
    case 'tagged number':
      return value.length === 4 ? `${tagged(value[0]!)}${numbered(known, numberOf(value.slice(1)))}` : hex(value);
    case 'tagged text': {
      const [tag, text] = taggedText(value);
      return `${tagged(tag)}${textOfOctets(text)}`;
    }
    case 'secret':
      return '(not shown)';
    case 'vendor':
      return value.length > 4 ? `of vendor ${numberOf(value.slice(0, 4))}, ${value.length - 4} octets` : hex(value);
    case 'eap':
      return eapInWords(value);
    case 'octets':
    case undefined:
      return hex(value);
  }
}

const EAP_CODES = ['', 'request', 'response', 'success', 'failure'];

/** An EAP packet as one reads it, or how much of one goes on where it was parted. */
function eapInWords(value: Uint8Array): string {
  const [code, id, high, low] = value;
  const size = value.length < 4 ? 0 : (high! << 8) | low!;
  // The first of several parts says how long all of them are.
  const isFirst = code !== undefined && code > 0 && code < EAP_CODES.length && size >= value.length;
  if (!isFirst) return `goes on, ${value.length} octets`;
  const kind = `${EAP_CODES[code]} ${id}`;
  const type = value[4];
  if (type === undefined) return kind;
  const name = Object.entries(EAP_TYPE).find(([, each]) => each === type)?.[0];
  const words = name === undefined ? `type ${type}` : type === EAP_TYPE.identity ? name : name.toUpperCase();
  if (type === EAP_TYPE.identity && size === value.length && size > 5)
    return `${kind}, ${words} ${textOfOctets(value.slice(5))}`;
  return `${kind}, ${words}, ${size} octets`;
}

const hex = (value: Uint8Array): string => (value.length === 0 ? '(empty)' : bytesToHex(value));
const numbered = ({ values }: Known, number: number): string =>
  values && Object.hasOwn(values, number) ? values[number]! : String(number);
const tagged = (tag: number): string => (tag === 0 ? '' : `(${tag}) `);

/** Parts a text from the tag before it (RFC 2868 §3.6): a first octet above 0x1F is text. */
export const taggedText = (value: Uint8Array): readonly [tag: number, text: Uint8Array] =>
  value.length > 0 && value[0]! <= 0x1f ? [value[0]!, value.slice(1)] : [0, value];

/** Attributes of a text. @throws RangeError beyond 253 octets. */
export function textAttribute(type: number, text: string): Attribute {
  const value = octetsOfText(text);
  if (value.length > MOST_VALUE)
    throw new RangeError(`${DICTIONARY[type]?.name ?? type} has ${value.length} octets; ${MOST_VALUE} fit`);
  return { type, value };
}

/** An attribute of a whole number of 32 bits. */
export const numberAttribute = (type: number, number: number): Attribute => ({
  type,
  value: Uint8Array.of(number >>> 24, (number >>> 16) & 255, (number >>> 8) & 255, number & 255),
});

/** NAS-IP-Address or NAS-IPv6-Address of an address; none where it is no address. */
export function nasAddress(text: string): Attribute[] {
  const ip = parseIp(text);
  if (!ip) return [];
  const size = ip.version === 4 ? 4 : 16;
  const value = Uint8Array.from({ length: size }, (_, i) => Number((ip.value >> BigInt(8 * (size - 1 - i))) & 255n));
  return [{ type: ip.version === 4 ? 4 : 95, value }];
}

/** The three attributes that name a VLAN (RFC 3580 §3.31). @param tag 1 to 31 where several are named (RFC 2868 §3); 0: it is the only one. */
export const vlanAttributes = (vlan: string, tag = 0): Attribute[] => [
  numberAttribute(64, tag * 2 ** 24 + 13),
  numberAttribute(65, tag * 2 ** 24 + 6),
  tag === 0
    ? textAttribute(81, vlan)
    : { type: 81, value: Uint8Array.of(tag, ...textAttribute(81, vlan).value.slice(0, MOST_VALUE - 1)) },
];
