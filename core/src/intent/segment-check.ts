import { flaw, type Flaw } from '../base';
import {
  contains,
  formatIp,
  formatPrefix,
  isVlanId,
  overlaps,
  parseIp,
  parsePrefix,
  usableHosts,
  type IpAddress,
  type Prefix,
} from '../address';
import type { AddressService, Segment, SitePart } from './nouns';

/** Longest and shortest lease we send, in seconds: two minutes to thirty days. */
export const LEASE_SECONDS = { least: 120, most: 30 * 86_400 } as const;

/**
 * Checks a segment alone and against every segment of the estate. Every fault is reported, not only the first.
 * @param sites all sites of the estate; the segment of the same id is left out of the comparison.
 */
export function checkSegment(segment: Segment, siteId: string, sites: Iterable<SitePart>): Flaw[] {
  const flaws: Flaw[] = [];
  const name = segment.name.trim();
  if (name === '') flaws.push(flaw('segment.name-empty', 'Give the segment a name.', 'name'));
  else if (name.length > 40) flaws.push(flaw('segment.name-long', 'A segment name has 40 characters at most.', 'name'));
  if (!isVlanId(segment.vlan))
    flaws.push(flaw('segment.vlan-range', 'A VLAN ID is a whole number from 1 to 4094.', 'vlan'));
  const subnet = parsePrefix(segment.subnet);
  if (!subnet) {
    const text = `“${segment.subnet}” is not a subnet. Write it like 10.20.40.0/24.`;
    flaws.push(flaw('segment.subnet-malformed', text, 'subnet'));
  } else flaws.push(...checkAddresses(segment, subnet));
  for (const site of sites) {
    for (const other of site.segments) {
      if (other.id !== segment.id) flaws.push(...compare(segment, subnet, other, site, site.id === siteId));
    }
  }
  return flaws;
}

function compare(segment: Segment, subnet: Prefix | null, other: Segment, site: SitePart, sameSite: boolean): Flaw[] {
  const flaws: Flaw[] = [];
  const where = sameSite ? '' : ` at ${site.name}`;
  if (sameSite && other.name.toLowerCase() === segment.name.trim().toLowerCase())
    flaws.push(flaw('segment.name-taken', `This site already has a segment “${other.name}”.`, 'name'));
  if (sameSite && other.vlan === segment.vlan)
    flaws.push(flaw('segment.vlan-taken', `VLAN ID ${segment.vlan} is already used by “${other.name}”.`, 'vlan'));
  const otherSubnet = parsePrefix(other.subnet);
  if (subnet && otherSubnet && overlaps(subnet, otherSubnet)) {
    const text = `${formatPrefix(subnet)} overlaps ${other.subnet} of “${other.name}”${where}.`;
    flaws.push(flaw('segment.subnet-overlap', text, 'subnet'));
  }
  return flaws;
}

function checkAddresses(segment: Segment, subnet: Prefix): Flaw[] {
  const text = formatPrefix(subnet);
  if (usableHosts(subnet).count < 2n)
    return [flaw('segment.subnet-small', `${text} has no room for a gateway and a client.`, 'subnet')];
  const gateway = parseIp(segment.gateway);
  const flaws = gateway
    ? checkHost(gateway, subnet, 'gateway', 'The gateway')
    : [flaw('segment.gateway-malformed', `“${segment.gateway}” is not an address.`, 'gateway')];
  return segment.addresses ? [...flaws, ...checkService(segment.addresses, subnet, gateway)] : flaws;
}

/** A host address must lie in the subnet and be one a host may have. */
function checkHost(ip: IpAddress, subnet: Prefix, field: string, what: string): Flaw[] {
  if (!contains(subnet, ip))
    return [flaw(`segment.${field}-outside`, `${what} ${formatIp(ip)} is outside ${formatPrefix(subnet)}.`, field)];
  const hosts = usableHosts(subnet);
  if (ip.value >= hosts.first && ip.value <= hosts.last) return [];
  const text = `${what} ${formatIp(ip)} is the network or broadcast address of ${formatPrefix(subnet)}.`;
  return [flaw(`segment.${field}-reserved`, text, field)];
}

function checkService(service: AddressService, subnet: Prefix, gateway: IpAddress | null): Flaw[] {
  const first = parseIp(service.first);
  const last = parseIp(service.last);
  const flaws: Flaw[] = [];
  if (!first || !last) {
    const [field, text] = first ? ['last', service.last] : ['first', service.first];
    return [flaw('segment.range-malformed', `“${text}” is not an address.`, field)];
  }
  flaws.push(...checkHost(first, subnet, 'first', 'The range’s first address'));
  flaws.push(...checkHost(last, subnet, 'last', 'The range’s last address'));
  if (first.version === last.version && last.value < first.value)
    flaws.push(flaw('segment.range-reversed', 'The range ends before it starts.', 'last'));
  else if (gateway && gateway.value >= first.value && gateway.value <= last.value)
    flaws.push(flaw('segment.range-gateway', `The range covers the gateway ${formatIp(gateway)}.`, 'first'));
  const { least, most } = LEASE_SECONDS;
  if (!Number.isInteger(service.leaseSeconds) || service.leaseSeconds < least || service.leaseSeconds > most)
    flaws.push(flaw('segment.lease', 'A lease lasts from 2 minutes to 30 days.', 'leaseSeconds'));
  return flaws;
}

/** The same segment in canonical text: trimmed name, network address, lower-case IPv6. Malformed text is kept. */
export function normaliseSegment(segment: Segment): Segment {
  const subnet = parsePrefix(segment.subnet.trim());
  const address = (text: string): string => {
    const ip = parseIp(text.trim());
    return ip ? formatIp(ip) : text.trim();
  };
  return {
    ...segment,
    name: segment.name.trim(),
    subnet: subnet ? formatPrefix(subnet) : segment.subnet.trim(),
    gateway: address(segment.gateway),
    addresses: segment.addresses && {
      ...segment.addresses,
      first: address(segment.addresses.first),
      last: address(segment.addresses.last),
    },
  };
}
