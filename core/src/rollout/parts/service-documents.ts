import { encodeOption, parsePrefix } from '../../address';
import type { AddressServiceDocument, Interface6Document } from '../../document';
import { servedFrom, type Segment } from '../../intent';

/**
 * The DHCP service of a segment, as the device that runs it is told.
 * @param names who answers names where nothing is said; absent: whoever has the gateway’s address. @throws RangeError when nobody gives addresses.
 */
export function serviceOf(segment: Segment, names = segment.gateway): AddressServiceDocument {
  const { vlan, subnet, gateway, addresses, domain } = segment;
  if (!addresses) throw new RangeError(`nobody gives addresses in VLAN ${vlan}`);
  const { first, last, leaseSeconds, also, exclude, reservations, dns, route, ntp, options } = addresses;
  const from = servedFrom(addresses);
  return {
    vlan,
    subnet,
    first,
    last,
    ...(from.kind === 'switch' ? { own: from.address } : {}),
    ...(also ? { also } : {}),
    ...(exclude ? { exclude } : {}),
    ...(reservations ? { reservations } : {}),
    gateway: route === 'none' ? null : (route ?? gateway),
    dns: dns ?? [names],
    ...(domain ? { domain } : {}),
    ...(ntp ? { ntp } : {}),
    ...(options ? { options: options.map(({ code, value }) => ({ code, hex: encodeOption(value) ?? '' })) } : {}),
    leaseSeconds,
  };
}

/** IPv6 of a segment at its router; none where it has no prefix. */
export function interface6Of({ vlan, v6 }: Segment): Interface6Document[] {
  const prefix = v6 && parsePrefix(v6.prefix);
  if (!v6 || !prefix) return [];
  const flags = { slaac: 'none', stateless: 'other', stateful: 'managed' } as const;
  const range = v6.first !== undefined && v6.last !== undefined ? { first: v6.first, last: v6.last } : {};
  return [{ vlan, address: `${v6.gateway}/${prefix.length}`, flags: flags[v6.mode], ...range }];
}
