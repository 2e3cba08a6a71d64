import { formatIp, parseIp, widthOf, type IpAddress, type IpVersion } from './ip';

/** A CIDR prefix (RFC 4632 §3.1); `network` has no host bits set. */
export interface Prefix {
  readonly version: IpVersion;
  readonly network: bigint;
  /** Bits of the network, 0 to 32 or 128. */
  readonly length: number;
}

/**
 * Reads `address/length`. Host bits are accepted and cleared.
 * @returns null when either half is malformed or the length is beyond the version's width.
 */
export function parsePrefix(text: string): Prefix | null {
  const [addressText, lengthText, more] = text.split('/');
  if (addressText === undefined || lengthText === undefined || more !== undefined) return null;
  if (!/^(0|[1-9]\d{0,2})$/.test(lengthText)) return null;
  const ip = parseIp(addressText);
  if (ip === null || Number(lengthText) > widthOf(ip.version)) return null;
  return prefixOf(ip, Number(lengthText));
}

/** Writes a prefix in canonical text. */
export const formatPrefix = (prefix: Prefix): string =>
  `${formatIp({ version: prefix.version, value: prefix.network })}/${prefix.length}`;

/** The prefix of a length that an address lies in. */
export function prefixOf(ip: IpAddress, length: number): Prefix {
  const size = sizeOf(ip.version, length);
  return { version: ip.version, network: ip.value - (ip.value % size), length };
}

/** How many addresses a prefix of a length holds: 2^(W-L). */
export const sizeOf = (version: IpVersion, length: number): bigint => 1n << BigInt(widthOf(version) - length);

/** The highest address of a prefix. */
export const lastOf = (prefix: Prefix): bigint => prefix.network + sizeOf(prefix.version, prefix.length) - 1n;

/** Whether an address or every address of another prefix lies in `outer`; versions never mix. */
export function contains(outer: Prefix, inner: Prefix | IpAddress): boolean {
  if (outer.version !== inner.version) return false;
  if ('value' in inner) return inner.value >= outer.network && inner.value <= lastOf(outer);
  return outer.length <= inner.length && inner.network >= outer.network && inner.network <= lastOf(outer);
}

/** Whether two prefixes share an address; prefixes never cross, so one then contains the other. */
export const overlaps = (a: Prefix, b: Prefix): boolean => contains(a, b) || contains(b, a);

export type PrefixRelation = 'equal' | 'contains' | 'within' | 'disjoint';

/** How `a` stands to `b`. */
export function relationOf(a: Prefix, b: Prefix): PrefixRelation {
  if (contains(a, b)) return a.length === b.length ? 'equal' : 'contains';
  return contains(b, a) ? 'within' : 'disjoint';
}
