import {
  DERIVED_OPTIONS,
  OPTION_OCTETS,
  contains,
  encodeOption,
  formatIp,
  parseIp,
  parseMac,
  usableHosts,
  formatPrefix,
  type IpAddress,
  type IpRange,
  type Prefix,
} from '../../address';
import { flaw, type Flaw } from '../../base';
import { servedFrom, spansOf, type AddressService, type AddressSpan, type Segment, type ServedFrom } from './segment';

/** Longest and shortest lease we send, in seconds: two minutes to thirty days. */
export const LEASE_SECONDS = { least: 120, most: 30 * 86_400 } as const;

/** A host address must lie in the subnet and be one a host may have. */
export function checkHost(ip: IpAddress, subnet: Prefix, field: string, what: string, code = field): Flaw[] {
  if (!contains(subnet, ip))
    return [flaw(`segment.${code}-outside`, `${what} ${formatIp(ip)} is outside ${formatPrefix(subnet)}.`, field)];
  const hosts = usableHosts(subnet);
  if (ip.value >= hosts.first && ip.value <= hosts.last) return [];
  const text = `${what} ${formatIp(ip)} is the network or broadcast address of ${formatPrefix(subnet)}.`;
  return [flaw(`segment.${code}-reserved`, text, field)];
}

/** Everything that is wrong with what a segment's clients are to be given. */
export function checkService(segment: Segment, service: AddressService, subnet: Prefix): Flaw[] {
  const gateway = parseIp(segment.gateway);
  const { least, most } = LEASE_SECONDS;
  const flaws = checkRanges(service, subnet, gateway);
  if (!Number.isInteger(service.leaseSeconds) || service.leaseSeconds < least || service.leaseSeconds > most)
    flaws.push(flaw('segment.lease', 'A lease lasts from 2 minutes to 30 days.', 'leaseSeconds'));
  flaws.push(...checkReservations(segment, service, subnet));
  flaws.push(...checkServers(service.dns ?? [], 'dns', 'a name server'));
  flaws.push(...checkServers(service.ntp ?? [], 'ntp', 'a time server'));
  if (service.route !== undefined && service.route !== 'none') {
    const route = parseIp(service.route);
    if (!route) flaws.push(flaw('segment.route-malformed', `“${service.route}” is not an address.`, 'route'));
    else flaws.push(...checkHost(route, subnet, 'route', 'The default route'));
  }
  flaws.push(...checkOptions(service));
  flaws.push(...checkFrom(servedFrom(service), service, subnet, gateway));
  return flaws;
}

function checkRanges(service: AddressService, subnet: Prefix, gateway: IpAddress | null): Flaw[] {
  const flaws: Flaw[] = [];
  const ranges: IpRange[] = [];
  for (const [i, span] of spansOf(service).entries()) {
    const [first, last] = i === 0 ? ['first', 'last'] : ['also', 'also'];
    const which = i === 0 ? 'The range’s' : `Range ${i + 1}’s`;
    const ends = [parseIp(span.first), parseIp(span.last)];
    if (ends[0] && ends[1]) {
      flaws.push(...checkHost(ends[0], subnet, first, `${which} first address`));
      flaws.push(...checkHost(ends[1], subnet, last, `${which} last address`));
    }
    const range = readSpan(span, first, last, flaws);
    if (!range) continue;
    const twin = ranges.find((other) => other.first <= range.last && range.first <= other.last);
    if (twin) flaws.push(flaw('segment.ranges-overlap', 'Two of the ranges share addresses.', 'also'));
    ranges.push(range);
  }
  const holes: IpRange[] = [];
  for (const span of service.exclude ?? []) {
    const hole = readSpan(span, 'exclude', 'exclude', flaws);
    if (!hole) continue;
    if (!ranges.some((range) => range.first <= hole.last && hole.first <= range.last)) {
      const text = `${span.first} – ${span.last} is in none of the ranges, so leaving it out changes nothing.`;
      flaws.push(flaw('segment.exclude-outside', text, 'exclude'));
    }
    holes.push(hole);
  }
  const covers = (range: IpRange): boolean =>
    gateway !== null && gateway.value >= range.first && gateway.value <= range.last;
  const at = ranges.findIndex(covers);
  if (gateway && at >= 0 && !holes.some(covers)) {
    const field = at === 0 ? 'first' : 'also';
    flaws.push(flaw('segment.range-gateway', `The range covers the gateway ${formatIp(gateway)}.`, field));
  }
  // Another router that clients are told of has its address for itself as well.
  const route = service.route === undefined || service.route === 'none' ? null : parseIp(service.route);
  const holds = ({ first, last }: IpRange): boolean => route !== null && route.value >= first && route.value <= last;
  if (route && route.value !== gateway?.value && ranges.some(holds) && !holes.some(holds))
    flaws.push(
      flaw('segment.range-route', `The range covers the default route ${formatIp(route)}. Leave it out.`, 'route'),
    );
  return flaws;
}

/** Both ends of a span, or null and what is wrong with them. */
function readSpan(span: AddressSpan, firstField: string, lastField: string, flaws: Flaw[]): IpRange | null {
  const [first, last] = [parseIp(span.first), parseIp(span.last)];
  if (!first || !last) {
    const [field, text] = first ? [lastField, span.last] : [firstField, span.first];
    flaws.push(flaw('segment.range-malformed', `“${text}” is not an address.`, field));
    return null;
  }
  if (first.version !== last.version || last.value < first.value) {
    flaws.push(flaw('segment.range-reversed', 'The range ends before it starts.', lastField));
    return null;
  }
  return { version: first.version, first: first.value, last: last.value };
}

function checkReservations(segment: Segment, service: AddressService, subnet: Prefix): Flaw[] {
  const flaws: Flaw[] = [];
  const [macs, addresses] = [new Set<string>(), new Set<string>()];
  for (const { mac, address } of service.reservations ?? []) {
    if (parseMac(mac) === null)
      flaws.push(flaw('segment.reservation-mac', `“${mac}” is not a MAC address.`, 'reservations'));
    else if (macs.has(mac))
      flaws.push(flaw('segment.reservation-mac-twice', `${mac} has two reservations.`, 'reservations'));
    macs.add(mac);
    const ip = parseIp(address);
    if (!ip) {
      flaws.push(flaw('segment.reservation-malformed', `“${address}” is not an address.`, 'reservations'));
      continue;
    }
    flaws.push(...checkHost(ip, subnet, 'reservations', 'The reservation', 'reservation'));
    if (address === segment.gateway)
      flaws.push(flaw('segment.reservation-gateway', `${address} is the gateway’s own.`, 'reservations'));
    if (addresses.has(address))
      flaws.push(flaw('segment.reservation-twice', `${address} is reserved twice.`, 'reservations'));
    addresses.add(address);
  }
  return flaws;
}

const checkServers = (servers: readonly string[], field: string, what: string): Flaw[] =>
  servers
    .filter((text) => parseIp(text) === null)
    .map((text) => flaw(`segment.${field}-malformed`, `“${text}” is not the address of ${what}.`, field));

function checkOptions(service: AddressService): Flaw[] {
  const seen = new Set<number>();
  return (service.options ?? []).flatMap(({ code, value }): Flaw[] => {
    const twice = seen.has(code);
    seen.add(code);
    if (!Number.isInteger(code) || code < 1 || code > 254)
      return [flaw('segment.option-code', `Options have numbers from 1 to 254; ${code} is none.`, 'options')];
    if (code in DERIVED_OPTIONS)
      return [flaw('segment.option-derived', `Option ${code} is ${DERIVED_OPTIONS[code]}: say it there.`, 'options')];
    if (twice) return [flaw('segment.option-twice', `Option ${code} is there twice.`, 'options')];
    const bytes = encodeOption(value);
    if (bytes === null) {
      const text = `Option ${code}: write addresses, 0x and hex digits in pairs, or plain text; not “${value}”.`;
      return [flaw('segment.option-value', text, 'options')];
    }
    if (bytes.length / 2 > OPTION_OCTETS)
      return [flaw('segment.option-long', `Option ${code} has more than ${OPTION_OCTETS} octets.`, 'options')];
    return [];
  });
}

function checkFrom(from: ServedFrom, service: AddressService, subnet: Prefix, gateway: IpAddress | null): Flaw[] {
  if (from.kind === 'relay') {
    const server = parseIp(from.server);
    if (!server) return [flaw('segment.relay-malformed', `“${from.server}” is not the address of a server.`, 'from')];
    if (contains(subnet, server)) {
      const text = `${from.server} lies in the segment itself: it hears the clients without a relay.`;
      return [flaw('segment.relay-inside', text, 'from')];
    }
    return [];
  }
  if (from.kind === 'switch') {
    const own = parseIp(from.address);
    if (!own) return [flaw('segment.server-malformed', `“${from.address}” is not an address for the switch.`, 'from')];
    if (gateway?.value === own.value)
      return [
        flaw('segment.server-gateway', `${from.address} is the gateway’s own; the switch needs another.`, 'from'),
      ];
    const given = spansOf(service).some(
      ({ first, last }) => own.value >= (parseIp(first)?.value ?? 1n) && own.value <= (parseIp(last)?.value ?? 0n),
    );
    if (given) {
      const text = `${from.address} lies in a range that is given out; somebody could be given the switch’s own.`;
      return [flaw('segment.server-given', text, 'from')];
    }
    return checkHost(own, subnet, 'from', 'The switch’s address', 'server');
  }
  if (from.kind === 'ap' && from.how !== 'each' && from.deviceIds.length === 0)
    return [flaw('segment.server-none', 'Say which AP gives the addresses.', 'from')];
  if (from.kind === 'ap' && from.how === 'one' && from.deviceIds.length > 1)
    return [flaw('segment.server-many', 'One AP for all is one AP. Take “tree” for several.', 'from')];
  return [];
}
