import { formatIp, parsePrefix, sizeOf } from '../../address';
import { reaches } from '../reach';
import type { StaticRoute } from '../route/route';
import type { Segment } from '../segment/segment';
import { uplinkSettings, type UplinkSite } from '../uplink/setting';
import type { SharedRoute } from './shared-route';

/** What of a site tells what shared routes are there. */
export interface RoutedSite extends UplinkSite {
  readonly id: string;
  readonly segments: readonly Segment[];
  readonly routes?: readonly StaticRoute[] | undefined;
}

/** What a shared route is at a site: a route of its gateway, or why it is none, in words. */
export type RouteHere = { readonly route: StaticRoute } | NoRouteHere;
export interface NoRouteHere {
  readonly why: string;
  /** The site says itself where its prefix leads. */
  readonly ownFirst?: true;
}

/**
 * What a shared route is at a site that it reaches and at which it is in force.
 * @param uplinks of the gateway that routes the segments, with their titles.
 */
export function routeHere(
  { id, name, prefix, via, metric, tracks }: SharedRoute,
  { segments, routes = [] }: RoutedSite,
  { deviceId, uplinks }: RoutingGateway,
): RouteHere {
  const own = routes.find((each) => each.deviceId === deviceId && !each.off && each.prefix === prefix);
  if (own) return { why: `“${own.name}” of the site itself is for ${prefix}, and comes first.`, ownFirst: true };
  const made = (way: StaticRoute['via']): RouteHere => {
    // One of the site’s own that is called the same is told apart.
    const isTaken = routes.some((each) => each.deviceId === deviceId && each.name === name);
    const more = { ...(metric ? { metric } : {}), ...(tracks ? { tracks } : {}) };
    return { route: { id, deviceId, name: isTaken ? `${name} (all sites)` : name, prefix, via: way, ...more } };
  };
  if (via.kind === 'nowhere') return made(via);
  if (via.kind === 'uplink') {
    const found = uplinks.find(({ title, port }) => (title ?? port).toLowerCase() === via.title.toLowerCase());
    return found ? made({ kind: 'uplink', port: found.port }) : { why: `It has no uplink “${via.title}”.` };
  }
  const segment = segments.find((each) => each.name.toLowerCase() === via.segment.toLowerCase());
  if (!segment) return { why: `It has no segment “${via.segment}”.` };
  const six = parsePrefix(prefix)?.version === 6;
  const subnet = six ? segment.v6?.prefix : segment.subnet;
  if (subnet === undefined) return { why: `${segment.name} has no IPv6.` };
  const address = nthOf(subnet, via.nth);
  if (address === null) return { why: `${subnet} has no address number ${via.nth}.` };
  if (address === segment.gateway || address === segment.v6?.gateway)
    return { why: `${address} is the gateway itself: the route would lead to it again.` };
  return made({ kind: 'address', address });
}

/** The gateway that routes the segments of a site. */
export interface RoutingGateway {
  readonly deviceId: string;
  readonly uplinks: readonly { readonly port: string; readonly title: string | null }[];
}

/** The nth address of a subnet, from 1; null: it has not so many. */
function nthOf(subnet: string, nth: number): string | null {
  const prefix = parsePrefix(subnet);
  // The last of IPv4 stands for all of them (RFC 919 §7), but in the smallest subnets (RFC 3021 §2.1).
  const spare = prefix?.version === 4 && prefix.length < 31 ? 1n : 0n;
  if (!prefix || BigInt(nth) >= sizeOf(prefix.version, prefix.length) - spare) return null;
  return formatIp({ version: prefix.version, value: prefix.network + BigInt(nth) });
}

/** Shared routes in force that reach a site, by name. */
export const sharedRoutesAt = (routes: readonly SharedRoute[] = [], siteId: string): readonly SharedRoute[] =>
  routes.filter(({ reach, off }) => !off && reaches(reach, siteId));

/** The shared routes that reach a site, with what each is at the gateway that routes its segments. */
export const sharedHere = (
  routes: readonly SharedRoute[] | undefined,
  site: RoutedSite,
  device: Parameters<typeof uplinkSettings>[1],
): readonly { readonly shared: SharedRoute; readonly here: RouteHere }[] => {
  const reaching = sharedRoutesAt(routes, site.id);
  if (reaching.length === 0) return [];
  const gateway = { deviceId: device.id, uplinks: uplinkSettings(site, device) };
  return reaching.map((shared) => ({ shared, here: routeHere(shared, site, gateway) }));
};
