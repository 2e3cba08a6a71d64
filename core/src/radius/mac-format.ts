import { parseMac } from '../address';

/** Ways in which servers want the MAC address of a client as its name. */
export const MAC_FORMATS = [
  'none_lower',
  'none_upper',
  'colon_lower',
  'hyphen_upper',
  'hyphen_lower',
  'dot4_lower',
] as const;
export type MacFormat = (typeof MAC_FORMATS)[number];

/** A MAC address in one of these ways. @throws RangeError for what is none. */
export function macAs(mac: string, format: MacFormat): string {
  const value = parseMac(mac);
  if (value === null) throw new RangeError(`“${mac}” is no MAC address`);
  const digits = value.toString(16).padStart(12, '0');
  const [parting, letters] = format.split('_') as ['none' | 'colon' | 'hyphen' | 'dot4', 'lower' | 'upper'];
  const [size, mark] = { none: [12, ''], colon: [2, ':'], hyphen: [2, '-'], dot4: [4, '.'] }[parting] as [
    number,
    string,
  ];
  const text = digits.match(new RegExp(`.{${size}}`, 'g'))!.join(mark);
  return letters === 'upper' ? text.toUpperCase() : text;
}

/** A MAC address as a station is named (RFC 3580 §3.20 and 3.21). */
export const stationOf = (mac: string): string => macAs(mac, 'hyphen_upper');
