import { contains, isUnanswered, parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { Box, Spot } from './box';

/** Whether an address is one that no provider carries: of private space, or of a provider’s own. */
export const isPrivate = (address: string): boolean => {
  const ip = parseIp(address);
  return ip !== null && isUnanswered(ip);
};
export const isSix = (address: string): boolean => parseIp(address)?.version === 6;

/** The address of IPv6 at which a gateway answers in the VLAN it is reached in. */
export function face6Of({ box: { document }, vlan }: Spot): string | null {
  if (document.kind !== 'gateway') return null;
  return document.interfaces6?.find((each) => each.vlan === vlan)?.address.split('/')[0] ?? null;
}

/** Whether an address of IPv6 is in a segment of a gateway’s own. */
export function isOfInside({ document }: Box, target: string): boolean {
  const ip = parseIp(target);
  if (document.kind !== 'gateway' || ip?.version !== 6) return false;
  return (document.interfaces6 ?? []).some(({ address }) => contains(parsePrefix(address)!, ip));
}

export const noWay = (target: string): string =>
  `The gateway has no uplink${isSix(target) ? ' with IPv6' : ''} that is up.`;
