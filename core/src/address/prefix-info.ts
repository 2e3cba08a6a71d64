import { formatIp, widthOf, type IpVersion } from './ip';
import { lastOf, sizeOf, type Prefix } from './prefix';

/** The addresses of a subnet that hosts may have, inclusive. */
export interface UsableHosts {
  readonly first: bigint;
  readonly last: bigint;
  readonly count: bigint;
}

/**
 * The addresses hosts may have. IPv4 loses network and broadcast but for /31 (RFC 3021) and /32; IPv6 loses the
 * subnet-router anycast (RFC 4291 §2.6.1) but for /127 (RFC 6164) and /128.
 */
export function usableHosts(prefix: Prefix): UsableHosts {
  const ends = widthOf(prefix.version) - prefix.length > 1;
  const first = prefix.network + (ends ? 1n : 0n);
  const last = lastOf(prefix) - (ends && prefix.version === 4 ? 1n : 0n);
  return { first, last, count: last - first + 1n };
}

/** What a calculator shows of a prefix, as text; `usable` is a decimal string since it may pass 2^53. */
export interface PrefixInfo {
  readonly version: IpVersion;
  readonly network: string;
  readonly length: number;
  readonly first_host: string;
  readonly last_host: string;
  readonly usable: string;
  /** IPv4 only. */
  readonly mask?: string;
  /** IPv4 only; null for /31 and /32, which have none. */
  readonly broadcast?: string | null;
}

/** Describes a prefix for people. */
export function prefixInfo(prefix: Prefix): PrefixInfo {
  const { version, network, length } = prefix;
  const text = (value: bigint): string => formatIp({ version, value });
  const hosts = usableHosts(prefix);
  const common = {
    version,
    network: text(network),
    length,
    first_host: text(hosts.first),
    last_host: text(hosts.last),
    usable: hosts.count.toString(),
  };
  if (version === 6) return common;
  const mask = text((1n << 32n) - sizeOf(4, length));
  return { ...common, mask, broadcast: length < 31 ? text(lastOf(prefix)) : null };
}
