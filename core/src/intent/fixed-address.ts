import { carryAddress, parsePrefix, prefixOf, parseIp } from '../address';
import type { StaticAddress } from './roster';
import type { Segment } from './segment/segment';

/**
 * A device's fixed address in the segment it lives in. When that segment's subnet is another than the one the
 * address was given in, the address goes along: same distance from the start, gateway and name servers of the
 * segment with it. So a subnet is moved by one edit, and moving it back is the same.
 * @returns null when the subnet has no host at that distance.
 */
export function fixedAddressIn(
  fixed: StaticAddress,
  segment: Pick<Segment, 'subnet' | 'gateway'>,
): StaticAddress | null {
  const now = parsePrefix(segment.subnet);
  const own = parseIp(fixed.address);
  if (!now || !own) return null;
  const then = prefixOf(own, fixed.length);
  if (then.version !== now.version) return null;
  if (then.network === now.network && then.length === now.length && fixed.gateway === segment.gateway) return fixed;
  const address = carryAddress(fixed.address, then, now);
  if (address === null || address === segment.gateway) return null;
  const dns = fixed.dns.map((each) =>
    each === fixed.gateway ? segment.gateway : (carryAddress(each, then, now) ?? each),
  );
  return { address, length: now.length, gateway: segment.gateway, dns };
}
