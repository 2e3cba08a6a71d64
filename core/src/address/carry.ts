import { formatIp, parseIp } from './ip';
import { contains, type Prefix } from './prefix';
import { usableHosts } from './prefix-info';

/**
 * The address at the same distance from the start of another subnet.
 * @returns null when the text is no address of `from`, or its distance has no host address in `to`.
 */
export function carryAddress(text: string, from: Prefix, to: Prefix): string | null {
  const ip = parseIp(text);
  if (!ip || from.version !== to.version || !contains(from, ip)) return null;
  const value = ip.value - from.network + to.network;
  const hosts = usableHosts(to);
  return value >= hosts.first && value <= hosts.last ? formatIp({ version: to.version, value }) : null;
}
