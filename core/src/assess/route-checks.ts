import { contains, parsePrefix, type IpRange } from '../address';
import type { DeviceDocument, GatewayDocument } from '../document';
import {
  isRoutedByGateway,
  routesOf,
  segmentWith,
  sharedHere,
  sharedViaWords,
  viaWords,
  type RosterDevice,
  type RouteHere,
  type Segment,
  type SharedRoute,
  type StaticRoute,
} from '../intent';
import type { Documents } from '../lattice';
import { holderOf } from '../rollout';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend, Severity } from './finding';
import { isGivenAway, leaveOut } from './given-away';
import type { LockOut } from './lock-out';
import { toldWays } from './told-route';

/** Faults of ways that are said by hand: their next hop is nowhere, or they take from a segment. */
export const routeFindings: Check = (context) => {
  const { site, roster } = context;
  const holder = holderOf({ site, roster });
  return roster.flatMap((device) => {
    const shared = device.id === holder ? sharedHere(site.estate.routes, site, device) : [];
    return [
      ...routesAt(context, device).flatMap((route) => [
        ...takesFrom(context, route),
        ...(route.via.kind === 'address' ? handedOn(context, route, route.via.address, device.id === holder) : []),
      ]),
      ...shared.flatMap(({ shared: each, here: is }) => missing(context, each, is)),
    ];
  });
};

/** The routes that are said of a gateway, and are not kept for later: its own, and of the one that routes the segments those that are said of many sites. */
export function routesAt({ site, roster }: CheckContext, device: RosterDevice): readonly StaticRoute[] {
  const isHolder = device.id === holderOf({ site, roster });
  const shared = isHolder ? sharedHere(site.estate.routes, site, device) : [];
  return [
    ...routesOf(site, device.id).filter(({ off }) => !off),
    ...shared.flatMap(({ here }) => ('route' in here ? [here.route] : [])),
  ];
}

/** A route of many sites that is none at this one, since it has not what the route names. */
function missing(context: CheckContext, { id, name, via, prefix }: SharedRoute, here: RouteHere): Finding[] {
  if ('route' in here || here.ownFirst) return [];
  return [
    routeFound(context, { id }, 'route-missing', 'warning', {
      message: `“${name}” of all sites is not here`,
      reason: `${here.why} What is for ${prefix} goes as the rest does, and not by ${sharedViaWords(via)}.`,
    }),
  ];
}

export function routeFound(
  { site }: CheckContext,
  { id }: Pick<StaticRoute, 'id'>,
  code: string,
  severity: Severity,
  { message, reason, mend = null }: { message: string; reason: string; mend?: Mend | null },
): Finding {
  const place = { siteId: site.id, kind: 'route' as const, id };
  return { key: `paths.${code} ${id}`, code: `paths.${code}`, severity, message, reason, place, mend };
}

/** One of many sites is not put off by a press at one of them. */
export const switchOff = ({ site }: CheckContext, { id, off }: StaticRoute): Mend | null =>
  site.routes?.some((each) => each.id === id)
    ? {
        label: 'go by it no more',
        operations: [
          { type: 'route.set', siteId: site.id, routeId: id, from: { off: off ?? null }, to: { off: true } },
        ],
      }
    : null;

/** A segment came to be where the route leads elsewhere: all of it is on a link, and comes first, or some of its clients are cut off. */
function takesFrom(context: CheckContext, route: StaticRoute): Finding[] {
  const prefix = parsePrefix(route.prefix);
  if (!prefix) return [];
  return context.site.segments.flatMap((segment): Finding[] => {
    const own = [segment.subnet, ...(segment.v6 ? [segment.v6.prefix] : [])].flatMap((text) => parsePrefix(text) ?? []);
    const met = own.find((each) => contains(each, prefix));
    if (!met) return [];
    const whole = met.length === prefix.length;
    return [
      routeFound(context, route, whole ? 'route-beaten' : 'route-within', whole ? 'info' : 'error', {
        message: whole ? `“${route.name}” is never gone by` : `“${route.name}” takes clients of ${segment.name} away`,
        reason: whole
          ? `${route.prefix} is ${segment.name}, which is on a link of the gateway and comes first.`
          : `${route.prefix} is a part of ${segment.name}: whatever is for clients there goes to ${viaWords(route.via)} instead.`,
        mend: switchOff(context, route),
      }),
    ];
  });
}

/** Whoever is to hand packets on is on no link of the gateway, or may be somebody else tomorrow. */
function handedOn(context: CheckContext, route: StaticRoute, address: string, holds: boolean): Finding[] {
  const { site } = context;
  const nowhere = (reason: string): Finding[] => [
    routeFound(context, route, 'route-off-link', 'error', {
      message: `“${route.name}” leads to nobody`,
      reason: `${reason} What is for ${route.prefix} leaves as the rest does.`,
      mend: switchOff(context, route),
    }),
  ];
  if (!holds)
    return nowhere(`${nameIn(context, route.deviceId)} routes no segment here, and has ${address} on no link.`);
  const segment: Segment | undefined = segmentWith(site.segments, address);
  if (!segment || !isRoutedByGateway(segment)) return nowhere(`${address} is on no link of the gateway.`);
  if (!isGivenAway(segment, address)) return [];
  return [
    routeFound(context, route, 'route-given', 'warning', {
      message: `“${route.name}” leads to whoever is given ${address}`,
      reason: `${segment.name} gives that address to its clients. Reserve it for the box that hands packets on, or leave it out and set it there by hand.`,
      mend: leaveOut(site.id, segment, address),
    }),
  ];
}

/** Gateways whose routes would lead what is for the controller elsewhere than before, and all that are behind them. */
export function routeLockOuts(
  told: Readonly<Record<string, DeviceDocument>>,
  documents: Documents,
  roster: readonly RosterDevice[],
  controller: readonly IpRange[],
): LockOut[] {
  return roster.flatMap(({ id }): LockOut[] => {
    const [before, after] = [told[id], documents.get(id)];
    if (before?.kind !== 'gateway' || after?.kind !== 'gateway') return [];
    const had = controller.map((range) => astray(before, range));
    const why = controller.map((range) => astray(after, range)).find((each, i) => each !== null && each !== had[i]);
    if (!why) return [];
    return roster.flatMap((device): LockOut[] =>
      told[device.id]
        ? [{ deviceId: device.id, name: device.name, packet: 'Whatever it sends to the controller', why }]
        : [],
    );
  });
}

/** How what is for some addresses goes to a neighbour, into a tunnel or nowhere, in words; null: it leaves by an uplink. */
function astray(gateway: GatewayDocument, { version, first }: IpRange): string | null {
  const way = toldWays(gateway)({ version, value: first });
  if (!way || (way.kind === 'route' && way.route.by !== undefined)) return null;
  const { name } = gateway.device;
  if (way.kind === 'overlay') {
    const { prefix, peer } = way.line;
    return peer === null
      ? `${name} drops what is for ${prefix}, which no joined site has, and the controller is in it.`
      : `${name} leads ${prefix} into the tunnel to ${peer}, and the controller is in it.`;
  }
  if (way.kind === 'pact')
    return `${name} leads ${way.line.prefix} into the tunnel “${way.line.name}”, and the controller is in it.`;
  const { name: said, prefix, to } = way.route;
  const leads = to === undefined ? 'nowhere' : `to ${to}`;
  return `The route “${said}” of ${name} leads ${prefix} ${leads}, and the controller is in it.`;
}
