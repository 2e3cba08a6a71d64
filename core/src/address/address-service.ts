import type { IpAddress } from './ip';
import type { Prefix } from './prefix';
import { usableHosts } from './prefix-info';
import { rangeSize, subtractRanges, type IpRange } from './range';

/** What an address service of a subnet can give out. */
export interface GivableAddresses {
  readonly ranges: readonly IpRange[];
  /** Sum of the ranges' sizes. */
  readonly capacity: bigint;
  /** The longest range, the lowest of equals; null when there is none. */
  readonly defaultRange: IpRange | null;
}

/**
 * Usable hosts less the gateway and what is reserved. A gateway outside the subnet takes nothing away; reserved
 * ranges that reach outside are clipped.
 */
export function givableAddresses(
  subnet: Prefix,
  gateway: IpAddress | null,
  reserved: readonly IpRange[] = [],
): GivableAddresses {
  const { first, last } = usableHosts(subnet);
  const taken = gateway
    ? [...reserved, { version: gateway.version, first: gateway.value, last: gateway.value }]
    : reserved;
  const ranges = subtractRanges({ version: subnet.version, first, last }, taken);
  let defaultRange: IpRange | null = null;
  for (const range of ranges) if (!defaultRange || rangeSize(range) > rangeSize(defaultRange)) defaultRange = range;
  return { ranges, capacity: ranges.reduce((sum, range) => sum + rangeSize(range), 0n), defaultRange };
}

/** When a client renews (T1) and rebinds (T2), in seconds after the lease began (RFC 2131 §4.4.5). */
export const leaseTimers = (leaseSeconds: number): { t1: number; t2: number } => ({
  t1: leaseSeconds * 0.5,
  t2: leaseSeconds * 0.875,
});

/**
 * How many addresses a pool needs. Clients that leave silently hold their lease for a remaining time uniform in
 * [lease/2, lease], so the mean is arrivals × (stay + 0.75 lease) (Little's law); the size adds three standard
 * deviations of a Poisson number. An over-estimate when the stay is below half the lease. Times in hours.
 */
export function poolDemand(arrivalsPerHour: number, stay: number, lease: number): { mean: number; size: number } {
  const mean = arrivalsPerHour * (stay + 0.75 * lease);
  return { mean, size: Math.ceil(mean + 3 * Math.sqrt(mean)) };
}
