import {
  formatPrefix,
  isVlanId,
  overlaps,
  parseIp,
  parsePrefix,
  usableHosts,
  type IpAddress,
  type Prefix,
} from '../../address';
import { flaw, type Flaw } from '../../base';
import { capFlaws } from '../../traffic';
import type { SitePart } from '../part';
import { servedFrom, type Segment, type Segment6 } from './segment';
import { isOfOthers, NOWHERE_ROUTED } from '../router/router';
import { spotAt, spotOf, spotsMeet } from './spot';
import { checkHost, checkService } from './service-check';

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
  flaws.push(...checkWords(segment));
  flaws.push(...capFlaws(segment.caps ?? {}, 'take the addresses away, or the segment off its ports'));
  if (segment.v6) flaws.push(...checkV6(segment.v6));
  const own6 = segment.v6 ? parsePrefix(segment.v6.prefix) : null;
  const own = subnet && spotAt(subnet);
  for (const site of sites) {
    const sameSite = site.id === siteId;
    if (sameSite) flaws.push(...checkRouted(segment, site));
    for (const other of site.segments) {
      if (other.id === segment.id) continue;
      if (sameSite) flaws.push(...compareHere(segment, other));
      const spot = own && spotOf(other);
      const met = spot !== null && spotsMeet(own!, spot);
      if (met || own6) flaws.push(...compare(met ? subnet : null, own6, other, sameSite ? '' : ` at ${site.name}`));
    }
  }
  return flaws;
}

/** Beside another segment of the same site. */
function compareHere(segment: Segment, other: Segment): Flaw[] {
  const flaws: Flaw[] = [];
  if (other.name.toLowerCase() === segment.name.trim().toLowerCase())
    flaws.push(flaw('segment.name-taken', `This site already has a segment “${other.name}”.`, 'name'));
  if (other.vlan === segment.vlan)
    flaws.push(flaw('segment.vlan-taken', `VLAN ID ${segment.vlan} is already used by “${other.name}”.`, 'vlan'));
  return flaws;
}

/** @param subnet that meets the other’s; null: it does not. */
function compare(subnet: Prefix | null, own6: Prefix | null, other: Segment, where: string): Flaw[] {
  const flaws: Flaw[] = [];
  if (subnet) {
    const text = `${formatPrefix(subnet)} overlaps ${other.subnet} of “${other.name}”${where}.`;
    flaws.push(flaw('segment.subnet-overlap', text, 'subnet'));
  }
  const other6 = own6 && other.v6 ? parsePrefix(other.v6.prefix) : null;
  if (own6 && other6 && overlaps(own6, other6)) {
    const text = `${formatPrefix(own6)} overlaps ${other.v6!.prefix} of “${other.name}”${where}.`;
    flaws.push(flaw('segment.subnet-overlap', text, 'v6'));
  }
  return flaws;
}

function checkAddresses(segment: Segment, subnet: Prefix): Flaw[] {
  const text = formatPrefix(subnet);
  if (subnet.version !== 4)
    return [flaw('segment.subnet-v6', 'Give the IPv4 subnet here; the IPv6 prefix has its own field.', 'subnet')];
  if (usableHosts(subnet).count < 2n)
    return [flaw('segment.subnet-small', `${text} has no room for a gateway and a client.`, 'subnet')];
  const gateway = parseIp(segment.gateway);
  const flaws = gateway
    ? checkHost(gateway, subnet, 'gateway', 'The gateway')
    : [flaw('segment.gateway-malformed', `“${segment.gateway}” is not an address.`, 'gateway')];
  return segment.addresses ? [...flaws, ...checkService(segment, segment.addresses, subnet)] : flaws;
}

/** Whether who is to route it can, and what is given in it can be then. */
function checkRouted(segment: Segment, { routers = [], managementId }: SitePart): Flaw[] {
  const { id, name, routed, addresses, v6, isolation } = segment;
  if (!routed) return [];
  const wrong = (code: string, text: string): Flaw => flaw(`segment.${code}`, text, 'routed');
  const router = routers.find((each) => each.id === routed);
  if (routed !== NOWHERE_ROUTED && !router)
    return [wrong('router-gone', 'The router that is to route it is no longer at the site.')];
  const flaws: Flaw[] = [];
  const from = addresses && !addresses.off ? servedFrom(addresses).kind : null;
  if (from === 'ap')
    flaws.push(wrong('routed-ap', 'Its addresses are given by APs, which route it then: let somebody else give them.'));
  if (from === 'relay')
    flaws.push(
      wrong(
        'routed-relay',
        'An outside server is asked by the gateway, which does not route it: let somebody else give its addresses.',
      ),
    );
  if (!router) {
    if (id === managementId)
      flaws.push(
        wrong('routed-management', `Devices live in “${name}”: routed by nobody they would reach no controller.`),
      );
    if (from === 'gateway')
      flaws.push(wrong('routed-nobody', 'Where nobody routes, a switch gives addresses, or nobody.'));
    if (v6)
      flaws.push(wrong('routed-six', 'IPv6 is told of by whoever routes, and nobody does: take its prefix away.'));
    return flaws;
  }
  if (router.meets?.segmentId === id)
    flaws.push(wrong('routed-meets', `“${router.name}” meets the gateway there: the gateway has to route it.`));
  if (!isOfOthers(router)) {
    if (id === managementId)
      flaws.push(wrong('routed-management', `Devices live in “${name}”: the gateway has to route it.`));
    if (v6) flaws.push(wrong('routed-six', 'A switch routes IPv4 alone: take its IPv6 prefix away.'));
    if (from === 'switch' && addresses?.from?.kind === 'switch' && addresses.from.deviceId === router.deviceId)
      flaws.push(
        wrong('routed-twice', 'The switch that routes it gives its addresses as the gateway of it would: choose that.'),
      );
    if (isolation?.gateway)
      flaws.push(wrong('routed-gateway', 'Only a gateway keeps clients from what it offers itself.'));
  }
  return flaws;
}

/** A domain name of letters, digits and dashes (RFC 1123 §2.1, RFC 1035 §2.3.4). */
const DOMAIN = /^(?=.{1,253}$)([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)*[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/;

/** Whether a text is one, or the name of a host. */
export const isDomain = (text: string): boolean => DOMAIN.test(text);

function checkWords({ domain, purpose }: Segment): Flaw[] {
  const flaws: Flaw[] = [];
  if (domain && !isDomain(domain))
    flaws.push(flaw('segment.domain', `“${domain}” is not a domain name, such as crew.skerrow.example.`, 'domain'));
  if (purpose && purpose.length > 200)
    flaws.push(flaw('segment.purpose-long', 'Say what it is for in 200 characters at most.', 'purpose'));
  return flaws;
}

function checkV6(v6: Segment6): Flaw[] {
  const prefix = parsePrefix(v6.prefix);
  if (prefix?.version !== 6)
    return [flaw('segment.v6-malformed', `“${v6.prefix}” is not an IPv6 prefix, such as 2001:db8:10::/64.`, 'v6')];
  const flaws: Flaw[] = [];
  if (v6.mode !== 'stateful' && prefix.length !== 64) {
    const text = `Clients make their own addresses in a /64 only (RFC 4862 §5.5.3); this is a /${prefix.length}.`;
    flaws.push(flaw('segment.v6-length', text, 'v6'));
  }
  const host = (text: string | undefined, field: string, what: string): IpAddress | null => {
    const ip = text === undefined ? null : parseIp(text);
    if (!ip) flaws.push(flaw(`segment.${field}-malformed`, `“${text ?? ''}” is not an address.`, field));
    else flaws.push(...checkHost(ip, prefix, field, what));
    return ip;
  };
  host(v6.gateway, 'v6gateway', 'The gateway');
  if (v6.mode !== 'stateful') return flaws;
  const first = host(v6.first, 'v6first', 'The range’s first address');
  const last = host(v6.last, 'v6last', 'The range’s last address');
  if (first && last && last.value < first.value)
    flaws.push(flaw('segment.range-reversed', 'The range ends before it starts.', 'v6last'));
  return flaws;
}
