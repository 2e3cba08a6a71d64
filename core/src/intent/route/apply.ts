import { contains, formatIp, formatPrefix, parseIp, parsePrefix, type Prefix } from '../../address';
import { flaw, type Flaw } from '../../base';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import { gatewayAddresses, rangesOfSegment, segmentWith } from '../policy-names';
import type { Segment } from '../segment/segment';
import { uplinkSettings } from '../uplink/setting';
import type { RouteOperation } from './operations';
import { normalTracks, plainRouteFlaws } from './plain-route';
import { MOST_ROUTES, type RouteVia, type StaticRoute } from './route';

/** Applies an edit of a route. */
export const applyRoute = editsOfList<RouteOperation, StaticRoute, 'site'>({
  noun: 'route',
  where: 'site',
  list: 'routes',
  normal: normalised,
  check: (_intent, site, route, { roster }) => check(site, route, roster),
});

function check(site: SitePart, route: StaticRoute, roster: RosterLookup): Flaw[] {
  const { id, deviceId, name, via, metric, off } = route;
  const device = roster(deviceId);
  if (!device || device.siteId !== site.id)
    return [flaw('route.device-unknown', 'This gateway is no longer at the site.')];
  const flaws: Flaw[] = [];
  const others = (site.routes ?? []).filter((each) => each.id !== id && each.deviceId === deviceId);
  if (others.length >= MOST_ROUTES) flaws.push(flaw('route.many', `A gateway has ${MOST_ROUTES} routes at most.`));
  if (name === '') flaws.push(flaw('route.name-empty', 'Give the route a name.', 'name'));
  const namesake = others.find((each) => each.name.toLowerCase() === name.toLowerCase());
  if (namesake) flaws.push(flaw('route.name-taken', `${device.name} has a route “${namesake.name}” already.`, 'name'));
  const plain = plainRouteFlaws('route', route);
  flaws.push(...plain.flaws);
  const { prefix } = plain;
  if (!prefix) return flaws;
  // What is not in force waits for what it is about.
  if (off) return flaws;
  const part = site.segments.find((segment) => isWithin(prefix, segment));
  if (part)
    flaws.push(
      flaw('route.within', `${route.prefix} is in ${part.name}, whose clients the gateway reaches there.`, 'prefix'),
    );
  const twin = others.find((each) => !each.off && each.prefix === route.prefix && (each.metric ?? 0) === (metric ?? 0));
  if (twin)
    flaws.push(
      flaw('route.twice', `“${twin.name}” is for ${route.prefix} as well: give one of them another metric.`, 'metric'),
    );
  const uplinks = uplinkSettings(site, device).map(({ port }) => port);
  return [...flaws, ...checkVia(site, via, prefix, { uplinks, gateway: device.name })];
}

const isWithin = (prefix: Prefix, { subnet, v6 }: Segment): boolean =>
  [subnet, ...(v6 ? [v6.prefix] : [])].some((text) => {
    const own = parsePrefix(text);
    return own !== null && contains(own, prefix);
  });

/** Whether its next hop is one: an uplink that is there, or an address on a link of the gateway, and not the gateway’s own. */
function checkVia(
  site: SitePart,
  via: RouteVia,
  prefix: Prefix,
  { uplinks, gateway }: { readonly uplinks: readonly string[]; readonly gateway: string },
): Flaw[] {
  if (via.kind === 'nowhere') return [];
  if (via.kind === 'uplink') {
    if (uplinks.includes(via.port)) return [];
    return [
      flaw('route.port', via.port === '' ? 'Say by which uplink.' : `${via.port} of ${gateway} is no uplink.`, 'via'),
    ];
  }
  const { address } = via;
  const ip = parseIp(address);
  if (!ip) {
    const said = address === '' ? 'Say who hands it on' : `“${address}” is no address`;
    return [flaw('route.address', `${said}: an address of a segment, such as 10.20.5.1.`, 'via')];
  }
  if (ip.version !== prefix.version)
    return [
      flaw('route.versions', `${address} hands on no IPv${prefix.version}: one end is IPv4 and the other IPv6.`, 'via'),
    ];
  if (gatewayAddresses(site).some(({ version, first }) => version === ip.version && first === ip.value))
    return [flaw('route.itself', `${address} is the gateway itself: the route would lead to it again.`, 'via')];
  const segment = segmentWith(site.segments, address);
  if (!segment) {
    const through = contains(prefix, ip) ? ' It would be reached through the route itself.' : '';
    return [flaw('route.off-link', `${address} is in no segment of ${site.name}.${through}`, 'via')];
  }
  const [subnet] = rangesOfSegment(segment).filter(({ version }) => version === ip.version);
  const isNobody = ip.version === 4 && (ip.value === subnet!.first || ip.value === subnet!.last);
  return isNobody
    ? [flaw('route.no-host', `${address} is nobody’s: it stands for all of ${segment.name}.`, 'via')]
    : [];
}

function normalised({ metric, off, via, tracks, ...route }: StaticRoute): StaticRoute {
  const prefix = parsePrefix(route.prefix.trim());
  const ip = via.kind === 'address' ? parseIp(via.address.trim()) : null;
  return {
    ...route,
    name: route.name.trim(),
    prefix: prefix ? formatPrefix(prefix) : route.prefix.trim(),
    via: via.kind === 'address' ? { kind: 'address', address: ip ? formatIp(ip) : via.address.trim() } : via,
    ...(metric ? { metric } : {}),
    ...normalTracks(tracks),
    ...(off ? { off } : {}),
  };
}
