import { formatIp, meetsAny, parseIp, type IpRange } from '../../address';
import { flaw, type Flaw } from '../../base';
import { readAddresses, readPorts, type PortSpan } from '../../rules';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import type { Intent, SitePart } from '../part';
import { rangesOfSegment, segmentWith } from '../policy-names';
import { check as checkRules } from '../rule/apply';
import { uplinkSettings } from '../uplink/setting';
import type { PublicationOperation } from './operations';
import { MOST_MOVED_PORTS, MOST_PUBLICATIONS, protocolsOf, type Publication } from './publication';

/** Applies an edit of what is published. */
export const applyPublication = editsOfList<PublicationOperation, Publication, 'site'>({
  noun: 'publication',
  title: 'published port',
  where: 'site',
  list: 'publications',
  normal: normalised,
  check: (intent, site, publication, { roster }) => check(intent, site, publication, roster),
});

function check(intent: Intent, site: SitePart, publication: Publication, roster: RosterLookup): Flaw[] {
  const { id, deviceId, name, ports, from, hours } = publication;
  const device = roster(deviceId);
  if (!device || device.siteId !== site.id)
    return [flaw('publication.device-unknown', 'This gateway is no longer at the site.')];
  const flaws: Flaw[] = [];
  const others = (site.publications ?? []).filter((each) => each.id !== id && each.deviceId === deviceId);
  if (others.length >= MOST_PUBLICATIONS)
    flaws.push(flaw('publication.many', `A gateway publishes ${MOST_PUBLICATIONS} at most.`));
  if (name === '') flaws.push(flaw('publication.name-empty', 'Give what is published a name.', 'name'));
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('publication.name-taken', `${device.name} publishes “${name}” already.`, 'name'));
  const uplinks = uplinkSettings(site, device).map(({ port }) => port);
  const unknown = ports.find((port) => !uplinks.includes(port));
  if (unknown !== undefined && !publication.off)
    flaws.push(flaw('publication.port', `${unknown} of ${device.name} is no uplink.`, 'ports'));
  // What is not in force waits for whom it leads to.
  if (!publication.off) flaws.push(...checkWhereto(site, publication));
  flaws.push(...checkOutside(publication, others));
  const stranger = from.find(({ kind }) => !OUTSIDE.has(kind));
  if (from.length === 0 || stranger)
    flaws.push(
      flaw('publication.from', 'Say who may, outside: the internet, addresses, or a set of addresses.', 'from'),
    );
  else {
    const rule = { id, verdict: 'allow' as const, from, to: [{ kind: 'any' as const }], services: ANYTHING };
    for (const { code, message } of checkRules(intent, { siteId: site.id }, [rule]))
      flaws.push(flaw(code, message, 'from'));
  }
  if (hours && !intent.estate.hours?.some((each) => each.id === hours))
    flaws.push(flaw('publication.hours', 'These hours are no longer there.', 'hours'));
  return flaws;
}

/** Kinds of ends that people outside are named by. */
const OUTSIDE: ReadonlySet<string> = new Set(['any', 'internet', 'addresses', 'set']);
const ANYTHING = [{ protocol: 'any' as const }];

/** Whether it leads to somebody who may be there. */
function checkWhereto(site: SitePart, { address }: Publication): readonly Flaw[] {
  const ip = parseIp(address);
  if (ip?.version !== 4) {
    const why = address === '' ? 'Say whom it leads to' : `“${address}” is no IPv4 address`;
    return [flaw('publication.address', `${why}: an address of a segment, such as 10.20.5.7.`, 'address')];
  }
  const segment = segmentWith(site.segments, address);
  if (!segment) return [flaw('publication.nowhere', `${address} is in no segment of ${site.name}.`, 'address')];
  const [subnet] = rangesOfSegment(segment);
  if (ip.value === subnet!.first || ip.value === subnet!.last)
    return [flaw('publication.no-host', `${address} is nobody’s: it stands for all of ${segment.name}.`, 'address')];
  return address === segment.gateway
    ? [flaw('publication.gateway', `${address} is the gateway itself.`, 'address')]
    : [];
}

/** Whether its ports are ports, and nobody else’s. */
function checkOutside(publication: Publication, others: readonly Publication[]): readonly Flaw[] {
  const { outside, inside } = publication;
  const span = portsOutside(publication);
  if (!span) {
    const why = outside === '' ? 'Say at which port it is asked for' : `“${outside}” is no port, nor a range of them`;
    return [flaw('publication.outside', `${why}: from 1 to 65535, such as 443 or 8000-8010.`, 'outside')];
  }
  const flaws: Flaw[] = [];
  const twice = others.find((each) => !each.off && !publication.off && clash(publication, each));
  if (twice)
    flaws.push(
      flaw('publication.twice', `“${twice.name}” is published at the same port already (${twice.outside}).`, 'outside'),
    );
  if (inside === undefined || inside === null) return flaws;
  const count = span.last - span.first + 1;
  if (!(Number.isInteger(inside) && inside >= 1 && inside + count - 1 <= 65_535))
    return [
      ...flaws,
      flaw('publication.inside', 'Its first port inside is one from 1 on that all of them fit behind.', 'inside'),
    ];
  if (count > MOST_MOVED_PORTS)
    flaws.push(
      flaw('publication.moved', `${MOST_MOVED_PORTS} ports at most can lead to other ports inside.`, 'outside'),
    );
  return flaws;
}

/** Whether something that comes in might be meant for either. */
function clash(one: Publication, other: Publication): boolean {
  const [a, b] = [portsOutside(one), portsOutside(other)];
  if (!a || !b || a.first > b.last || b.first > a.last) return false;
  if (!protocolsOf(one).some((protocol) => protocolsOf(other).includes(protocol))) return false;
  const meet =
    one.ports.length === 0 || other.ports.length === 0 || one.ports.some((port) => other.ports.includes(port));
  return meet && !arePartedByWhom(one, other);
}

/** Two may share a port where each is for addresses of its own, none of which is of both. */
function arePartedByWhom(one: Publication, other: Publication): boolean {
  const [a, b] = [one, other].map(({ from }) =>
    from.map((end) => (end.kind === 'addresses' ? readAddresses(end.text) : null)),
  ) as [(IpRange | null)[], (IpRange | null)[]];
  const theirs = b.filter((range) => range !== null);
  return theirs.length === b.length && a.every((range) => range !== null && !meetsAny(range, theirs));
}

/** The ports that it is asked for at; null where they cannot be read. */
export function portsOutside({ outside }: Pick<Publication, 'outside'>): PortSpan | null {
  const span = readPorts(outside);
  return span && span.first >= 1 ? span : null;
}

function normalised({ inside, hours, within, log, off, ...publication }: Publication): Publication {
  const ip = parseIp(publication.address.trim());
  const span = portsOutside(publication);
  const outside = span
    ? span.first === span.last
      ? `${span.first}`
      : `${span.first}-${span.last}`
    : publication.outside.trim();
  return {
    ...publication,
    name: publication.name.trim(),
    address: ip ? formatIp(ip) : publication.address.trim(),
    outside,
    ports: [...new Set(publication.ports)].sort(),
    ...(inside && inside !== span?.first ? { inside } : {}),
    ...(hours ? { hours } : {}),
    ...(within ? { within } : {}),
    ...(log ? { log } : {}),
    ...(off ? { off } : {}),
  };
}
