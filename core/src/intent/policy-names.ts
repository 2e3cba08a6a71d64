import { inRange, mergeRanges, parseIp, parsePrefix, rangeOf, type IpRange } from '../address';
import { readAddresses, type RuleNames } from '../rules';
import type { EstatePart, SitePart } from './part';
import { segmentsOfSsid, type ResolvedSite } from './resolve';
import type { RosterDevice } from './roster';
import type { Segment } from './segment/segment';

/** The subnets of a segment, IPv4 and IPv6. */
export function rangesOfSegment(segment: Segment): readonly IpRange[] {
  let known = ranges.get(segment);
  if (!known) ranges.set(segment, (known = readRanges(segment)));
  return known;
}
/** Of segments, which are never changed once they are there: they are asked for again and again. */
const ranges = new WeakMap<Segment, readonly IpRange[]>();

const readRanges = (segment: Segment): IpRange[] =>
  [segment.subnet, ...(segment.v6 ? [segment.v6.prefix] : [])].flatMap((text) => {
    const prefix = parsePrefix(text);
    return prefix ? [rangeOf(prefix)] : [];
  });

/** The segment that has an address in one of its subnets; undefined: none has, or it is no address. */
export function segmentWith(segments: readonly Segment[], address: string): Segment | undefined {
  const ip = parseIp(address);
  return ip ? segments.find((segment) => rangesOfSegment(segment).some((range) => inRange(range, ip))) : undefined;
}

/** The addresses that the gateway has itself in a site's segments. */
export function gatewayAddresses({ segments }: Pick<SitePart, 'segments'>): readonly IpRange[] {
  let known = gateways.get(segments);
  if (!known) gateways.set(segments, (known = readGateways(segments)));
  return known;
}
const gateways = new WeakMap<readonly Segment[], readonly IpRange[]>();

function readGateways(segments: readonly Segment[]): IpRange[] {
  // What another router has is none of the gateway's.
  const own = segments.flatMap(({ gateway, v6, routed }) => (routed ? [] : [gateway, ...(v6 ? [v6.gateway] : [])]));
  return mergeRanges(
    own.flatMap((text) => {
      const ip = parseIp(text);
      return ip ? [{ version: ip.version, first: ip.value, last: ip.value }] : [];
    }),
  );
}

/** What the names in a site's rules stand for. @param roster its devices; absent where names of devices are not looked up. */
export function namesAt(
  estate: Pick<EstatePart, 'sets' | 'controller'>,
  site: Pick<ResolvedSite, 'segments' | 'off' | 'ssids' | 'accessClasses' | 'sets' | 'managementId'>,
  roster: readonly Pick<RosterDevice, 'name' | 'address' | 'mac'>[] = [],
): RuleNames {
  const segments = new Map(site.segments.map((segment) => [segment.id, segment]));
  const { accessClasses } = site;
  // A device whose address is reserved is given no other.
  const home = site.segments.find(({ id }) => id === site.managementId);
  const reserved = new Map(home?.addresses?.reservations?.map(({ mac, address }) => [mac, address]));
  const ssids = site.ssids.map((ssid): [string, IpRange[]] => {
    const joins = segmentsOfSsid(ssid).flatMap((id) => segments.get(id) ?? []);
    return [ssid.name, mergeRanges(joins.flatMap(rangesOfSegment))];
  });
  return {
    segments: new Map([
      ...site.off.map(({ name }): [string, IpRange[]] => [name, []]),
      ...site.segments.map((segment): [string, readonly IpRange[]] => [segment.name, rangesOfSegment(segment)]),
    ]),
    ssids: new Map(ssids),
    classes: new Map(
      accessClasses.map(({ name, segmentId }) => {
        const joins = segmentId === null ? undefined : segments.get(segmentId);
        return [name, joins ? rangesOfSegment(joins) : []];
      }),
    ),
    sets: new Map([...(estate.sets ?? []), ...(site.sets ?? [])].map((set) => [set.name, set])),
    devices: new Map(
      roster.map(({ name, address, mac }): [string, IpRange[]] => {
        const own = parseIp(address?.address ?? reserved.get(mac ?? '') ?? '');
        return [name, own ? [{ version: own.version, first: own.value, last: own.value }] : []];
      }),
    ),
    gateway: gatewayAddresses(site),
    controller: (estate.controller ?? []).flatMap((text) => readAddresses(text) ?? []),
  };
}
