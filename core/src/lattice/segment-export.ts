import { encodeOption, formatIp, leaseTimers, parseIp, parsePrefix, subtractRanges, type IpRange } from '../address';
import { writeIetfInterfaces, writeKeaDhcp4, type KeaSubnet } from '../formats';
import { servedFrom, spansOf, type AddressService, type AddressSpan, type Segment } from '../intent';

/** A site's segments as RFC 7951 JSON of `ietf-interfaces` and `ietf-ip`. */
export function segmentsAsIetf(segments: readonly Segment[]): string {
  const of = (address: string, prefix: string) => [{ ip: address, prefixLength: parsePrefix(prefix)!.length }];
  return writeIetfInterfaces(
    segments.map(({ vlan, name, purpose, gateway, subnet, v6 }) => ({
      vlan,
      description: purpose ? `${name}: ${purpose}` : name,
      ipv4: of(gateway, subnet),
      ipv6: v6 ? of(v6.gateway, v6.prefix) : [],
    })),
  );
}

/** What our devices serve of a site's segments as a Kea DHCPv4 configuration; segments served outside are left out. */
export function segmentsAsKea(segments: readonly Segment[]): string {
  return writeKeaDhcp4(
    segments.flatMap(({ vlan, name, subnet, gateway, domain, addresses }): KeaSubnet[] => {
      if (!addresses || servedFrom(addresses).kind === 'relay') return [];
      const { leaseSeconds, dns, route, ntp, options, reservations } = addresses;
      const { t1, t2 } = leaseTimers(leaseSeconds);
      return [
        {
          vlan,
          name,
          subnet,
          pools: poolsOf(addresses),
          reservations: reservations ?? [],
          leaseSeconds,
          t1: Math.floor(t1),
          t2: Math.floor(t2),
          router: route === 'none' ? null : (route ?? gateway),
          dns: dns ?? [gateway],
          domain: domain ?? null,
          ntp: ntp ?? [],
          options: (options ?? []).map(({ code, value }) => ({ code, hex: encodeOption(value) ?? '' })),
        },
      ];
    }),
  );
}

/** The ranges of a service less what is excluded. */
export function poolsOf(service: AddressService): AddressSpan[] {
  const range = ({ first, last }: AddressSpan): IpRange => ({
    version: 4,
    first: parseIp(first)!.value,
    last: parseIp(last)!.value,
  });
  const text = (value: bigint): string => formatIp({ version: 4, value });
  return spansOf(service)
    .flatMap((span) => subtractRanges(range(span), (service.exclude ?? []).map(range)))
    .map(({ first, last }) => ({ first: text(first), last: text(last) }));
}
