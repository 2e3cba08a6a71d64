import { contains, formatIp, parseIp, parsePrefix, usableHosts } from '../address';
import { flaw, type Flaw } from '../base';
import { spansOf, type AddressService, type AddressSpan, type Segment, type StaticAddress } from '../intent';

/** What a person typed for a device's own address. */
export interface AddressWish {
  readonly address: string;
  /** Bits of the network, as typed. */
  readonly length: string;
  readonly gateway: string;
  /** Name servers, parted by commas or blanks. */
  readonly dns: string;
}

/** An address in use, and by whom, in words. */
export interface TakenAddress {
  readonly address: string;
  readonly by: string;
}

/**
 * Checks a fixed address against the segment the device lives in. Whatever would leave the device without a way to
 * the controller is refused here, before the device hears of it.
 * @param taken addresses in use in the segment: leases, other fixed addresses.
 * @param holdsGateway whether the device itself answers at the segment's gateway address.
 * @returns the address in canonical text, or every fault.
 */
export function checkStaticAddress(
  segment: Segment,
  wish: AddressWish,
  taken: readonly TakenAddress[],
  holdsGateway: boolean,
): { readonly ok: true; readonly address: StaticAddress } | { readonly ok: false; readonly flaws: readonly Flaw[] } {
  if (holdsGateway)
    return refusal(
      flaw(
        'address.gateway-itself',
        `This gateway answers at ${segment.gateway} here. Change the segment instead.`,
        'address',
      ),
    );
  const subnet = parsePrefix(segment.subnet)!;
  const flaws: Flaw[] = [];
  const address = parseIp(wish.address.trim());
  if (!address) flaws.push(flaw('address.malformed', `“${wish.address}” is not an address.`, 'address'));
  else if (!contains(subnet, address))
    flaws.push(
      flaw(
        'address.outside',
        `${formatIp(address)} is outside ${segment.subnet}, where this site’s devices live.`,
        'address',
      ),
    );
  else {
    const hosts = usableHosts(subnet);
    const text = formatIp(address);
    if (address.value < hosts.first || address.value > hosts.last)
      flaws.push(
        flaw('address.reserved', `${text} is the network or broadcast address of ${segment.subnet}.`, 'address'),
      );
    else if (text === segment.gateway)
      flaws.push(flaw('address.taken', `${text} is the gateway’s address.`, 'address'));
    else {
      const holder = taken.find((each) => each.address === text);
      if (holder) flaws.push(flaw('address.taken', `${text} is taken by ${holder.by}.`, 'address'));
      else if (segment.addresses && isGiven(address.value, segment.addresses))
        flaws.push(
          flaw(
            'address.in-range',
            `${text} lies in the range ${segment.addresses.first} to ${segment.addresses.last} that is given out; somebody could be given it.`,
            'address',
          ),
        );
    }
  }
  const length = wish.length.trim();
  if (length !== String(subnet.length))
    flaws.push(
      flaw(
        'address.length',
        `The segment’s prefix has ${subnet.length} bits; with another length the device misjudges who is near.`,
        'length',
      ),
    );
  const gateway = parseIp(wish.gateway.trim());
  if (!gateway) flaws.push(flaw('address.gateway-malformed', `“${wish.gateway}” is not an address.`, 'gateway'));
  else if (formatIp(gateway) !== segment.gateway)
    flaws.push(
      flaw(
        'address.cut-off',
        `Nothing routes at ${formatIp(gateway)}: it would cut the device off. The gateway here is ${segment.gateway}.`,
        'gateway',
      ),
    );
  const dns: string[] = [];
  for (const text of wish.dns.split(/[\s,;]+/).filter((each) => each !== '')) {
    const ip = parseIp(text);
    if (ip) dns.push(formatIp(ip));
    else flaws.push(flaw('address.dns', `“${text}” is not the address of a name server.`, 'dns'));
  }
  if (dns.length === 0 && !flaws.some((each) => each.field === 'dns'))
    flaws.push(flaw('address.dns-none', 'Give at least one name server, or the device cannot find names.', 'dns'));
  if (flaws.length > 0) return { ok: false, flaws };
  return {
    ok: true,
    address: { address: formatIp(address!), length: subnet.length, gateway: formatIp(gateway!), dns },
  };
}

const refusal = (...flaws: Flaw[]) => ({ ok: false, flaws }) as const;

/** Whether a service may give an address to anybody. */
function isGiven(value: bigint, service: AddressService): boolean {
  const within = ({ first, last }: AddressSpan): boolean =>
    value >= parseIp(first)!.value && value <= parseIp(last)!.value;
  const reserved = service.reservations?.some((each) => parseIp(each.address)?.value === value) ?? false;
  return reserved || (spansOf(service).some(within) && !(service.exclude?.some(within) ?? false));
}

/**
 * The lowest address of a segment that nobody has and that is not given out, for a form to begin with.
 * @returns null when there is none.
 */
export function proposeStaticAddress(segment: Segment, taken: Iterable<string>): StaticAddress | null {
  const subnet = parsePrefix(segment.subnet)!;
  const used = new Set([...taken, segment.gateway]);
  const hosts = usableHosts(subnet);
  for (let value = hosts.first, tries = 0; value <= hosts.last && tries < 4096; value++, tries++) {
    const address = formatIp({ version: subnet.version, value });
    if (used.has(address) || (segment.addresses && isGiven(value, segment.addresses))) continue;
    return { address, length: subnet.length, gateway: segment.gateway, dns: [segment.gateway] };
  }
  return null;
}
