import { carryAddress, formatIp, formatPrefix, parseIp, parsePrefix, usableHosts, type Prefix } from '../address';
import { fixedAddressIn, type AddressService, type AddressSpan, type RosterDevice, type Segment } from '../intent';
import { proposeAddresses } from './segment-proposal';

/** One address that a move of a subnet carries, or cannot. */
export interface SegmentMove {
  /** What it is, e.g. `gateway`, `range`, `reservation Till printer`, `ap-01`. */
  readonly what: string;
  readonly from: string;
  /** Null: it has no place in the new subnet and is left out. */
  readonly to: string | null;
}

/** A segment in another subnet, and what went along. */
export interface MovedSegment {
  readonly segment: Segment;
  readonly moves: readonly SegmentMove[];
}

/**
 * Puts a segment into another subnet. Gateway, ranges, exclusions, reservations, and servers inside the segment keep
 * their distance from the start; of a range that no longer fits, a fresh one takes the place; a reservation that has
 * no place is left out and said.
 * @param roster devices that live in the segment; their fixed addresses go along by themselves, which is said too.
 * @returns null when the text is no IPv4 subnet with room for a gateway and a client.
 */
export function moveSegment(
  segment: Segment,
  subnetText: string,
  roster: readonly RosterDevice[] = [],
): MovedSegment | null {
  const [from, to] = [parsePrefix(segment.subnet), parsePrefix(subnetText.trim())];
  if (!from || to?.version !== 4 || usableHosts(to).count < 2n) return null;
  const moves: SegmentMove[] = [];
  const carry = (what: string, text: string): string | null => {
    const result = carryAddress(text, from, to);
    moves.push({ what, from: text, to: result });
    return result;
  };
  const first = { version: to.version, value: usableHosts(to).first };
  const carried = carryAddress(segment.gateway, from, to) ?? formatIp(first);
  moves.push({ what: 'gateway', from: segment.gateway, to: carried });
  const moved: Segment = { ...segment, subnet: formatPrefix(to), gateway: carried };
  const addresses = segment.addresses && moveService(segment.addresses, from, to, carried, carry);
  if (segment.addresses && addresses) {
    const text = ({ first, last }: AddressSpan): string => `${first} – ${last}`;
    moves.splice(1, 0, { what: 'range', from: text(segment.addresses), to: text(addresses) });
  }
  const next: Segment = { ...moved, addresses };
  for (const { name, address } of roster) {
    if (!address) continue;
    moves.push({ what: name, from: address.address, to: fixedAddressIn(address, next)?.address ?? null });
  }
  return { segment: next, moves };
}

function moveService(
  service: AddressService,
  from: Prefix,
  to: Prefix,
  gateway: string,
  carry: (what: string, text: string) => string | null,
): AddressService | null {
  const span = ({ first, last }: AddressSpan): AddressSpan[] => {
    const [a, b] = [carryAddress(first, from, to), carryAddress(last, from, to)];
    return a && b ? [{ first: a, last: b }] : [];
  };
  const { also, exclude, reservations, dns, route, ntp, from: place, ...rest } = service;
  const own = place?.kind === 'switch' ? carryAddress(place.address, from, to) : null;
  const others = own === null ? [] : [parseIp(own)!];
  const fresh = proposeAddresses(to, parseIp(gateway)!, others);
  const main = span(service)[0] ?? fresh;
  if (!main) return null;
  // A subnet that grew or shrank gets a range of its own size, when there was one range and it was as derived.
  const derived = proposeAddresses(from, { version: 4, value: from.network + 1n });
  const whole = derived?.first === service.first && derived.last === service.last && from.length !== to.length;
  const inside = (texts: readonly string[]): string[] => texts.map((text) => carryAddress(text, from, to) ?? text);
  return {
    ...rest,
    first: (whole ? fresh : main)!.first,
    last: (whole ? fresh : main)!.last,
    ...(also && !whole ? { also: also.flatMap(span) } : {}),
    ...(exclude ? { exclude: exclude.flatMap(span) } : {}),
    ...(reservations
      ? {
          reservations: reservations.flatMap((each) => {
            const address = carry(`reservation ${each.name || each.mac}`, each.address);
            return address ? [{ ...each, address }] : [];
          }),
        }
      : {}),
    ...(dns ? { dns: inside(dns) } : {}),
    ...(ntp ? { ntp: inside(ntp) } : {}),
    ...(route === undefined ? {} : { route: route === 'none' ? route : (carryAddress(route, from, to) ?? gateway) }),
    ...(place?.kind === 'switch'
      ? { from: { ...place, address: carryAddress(place.address, from, to) ?? place.address } }
      : {}),
    ...(place && place.kind !== 'switch' ? { from: place } : {}),
  };
}
