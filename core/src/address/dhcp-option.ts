import { parseIp } from './ip';

/** Options that follow from what a segment says of itself, and what they say (RFC 2132). */
export const DERIVED_OPTIONS: Readonly<Record<number, string>> = {
  1: 'the subnet mask',
  3: 'the default route',
  6: 'the name servers',
  15: 'the domain name',
  42: 'the time servers',
  50: 'the address asked for',
  51: 'the lease time',
  53: 'the message type',
  54: 'the server itself',
  58: 'the renewal time',
  59: 'the rebinding time',
};

/** Longest value of one option, in octets (RFC 2132 §2). */
export const OPTION_OCTETS = 255;

/**
 * Encodes an option's value: IPv4 addresses parted by commas or blanks as four octets each, `0x…` as those octets,
 * anything else as ASCII text (RFC 2132 §2).
 * @returns lower-case hex digits without a mark, or null for an empty value, odd hex digits, or characters beyond ASCII.
 */
export function encodeOption(text: string): string | null {
  const value = text.trim();
  if (value === '') return null;
  if (/^0x/i.test(value)) return /^0x([0-9a-f]{2})+$/i.test(value) ? value.slice(2).toLowerCase() : null;
  const addresses = value.split(/[\s,]+/).map(parseIp);
  if (addresses.every((ip) => ip?.version === 4))
    return addresses.map((ip) => ip!.value.toString(16).padStart(8, '0')).join('');
  if (!/^[\x20-\x7e]+$/.test(value)) return null;
  return [...value].map((char) => char.charCodeAt(0).toString(16).padStart(2, '0')).join('');
}
