import { contains, formatIp, parsePrefix, rangeOf, type IpAddress, type IpRange, type Prefix } from '../address';
import { pactLines, type GatewayDocument } from '../document';
import {
  joinSpans,
  meeting,
  memberAt,
  routerRoutes,
  segmentWith,
  spansOfJoin,
  viaWords,
  type StaticRoute,
} from '../intent';
import { holderOf } from '../rollout';
import { rangeAsText } from '../rules';
import type { Check, CheckContext } from './check';
import { listed } from './listed';
import type { Finding } from './finding';
import { isGivenAway } from './given-away';
import { clientsOf } from './policy-view';
import { routeFound, routesAt, switchOff } from './route-checks';
import type { Lost, SiteNetwork } from './site-network';
import { routerOf, type ToldWay } from './told-route';

/** Faults of ways that are said by hand, as packets take them from router to router: they go round, end at somebody who hands nothing on, or take what others have. */
export const networkFindings: Check = (context) => {
  const { site, roster, documents } = context;
  const holder = context.devices.get(holderOf({ site, roster }) ?? '');
  const router = routerOf(site, roster, documents);
  if (!holder || !router?.routes) return [];
  const said = routesAt(context, holder);
  const network = said.length > 0 ? context.network() : null;
  if (!network) return [];
  return said.flatMap((route) => {
    const prefix = parsePrefix(route.prefix);
    if (!prefix) return [];
    const lost = network.lost([rangeOf(prefix)]).filter(({ way }) => isOf(way, route));
    return [
      ...lost.flatMap((each) => endsBadly(context, route, each)),
      ...takenFrom(context, route, { prefix, router, network }),
      ...(lost.length === 0 ? amongClients(context, route) : []),
    ];
  });
};

const isOf = (way: ToldWay | null, { name, prefix, via }: StaticRoute): boolean =>
  way?.kind === 'route' &&
  way.route.name === name &&
  way.route.prefix === prefix &&
  way.route.to === (via.kind === 'address' ? via.address : undefined);

/** A packet of somebody at a site to one of some addresses, in words. */
function packetTo({ site }: CheckContext, range: IpRange): string {
  const to = formatIp(oneOf(range));
  for (const segment of site.segments) {
    const clients = segment.routed ? [] : (clientsOf(site).get(segment.id) ?? []);
    const own = clients.find((each) => each.version === range.version && each.last > each.first);
    if (own) return `${formatIp(oneOf(own))} in ${segment.name} → ${to}`;
  }
  return `What is for ${to}`;
}

/** An address of a range that is somebody’s: the first of a network stands for all of it. */
const oneOf = ({ version, first, last }: IpRange): IpAddress => ({ version, value: first < last ? first + 1n : first });

function endsBadly(context: CheckContext, route: StaticRoute, { kind, ranges, from, why }: Lost): Finding[] {
  if (kind !== 'circle' && kind !== 'strange') return [];
  const packet = packetTo(context, ranges[0]!);
  const whole = ranges.length === 1 && rangeAsText(ranges[0]!) === route.prefix;
  const what = whole ? '' : ` That is so of ${listed(ranges.map(rangeAsText))}.`;
  const round =
    from.length > 0 ? ` What is sent from behind ${listed(from.map((name) => `“${name}”`))} goes round too.` : '';
  return [
    routeFound(context, route, kind === 'circle' ? 'route-circle' : 'route-dead-end', 'error', {
      message:
        kind === 'circle'
          ? `“${route.name}” goes round in circles`
          : `“${route.name}” leads to somebody who hands nothing on`,
      reason: `${packet}: ${why}${what}${kind === 'circle' ? round : ''}`,
      mend: switchOff(context, route),
    }),
  ];
}

/** Networks that somebody is known to have, and that a route leads elsewhere. */
function takenFrom(
  context: CheckContext,
  route: StaticRoute,
  at: { readonly prefix: Prefix; readonly router: GatewayDocument; readonly network: SiteNetwork },
): Finding[] {
  const to = route.via.kind === 'address' ? route.via.address : undefined;
  const taken = [...havers(context, route, at.router)].flatMap(
    ({ text, whose, by }): { readonly range: IpRange; readonly whose: string }[] => {
      const other = parsePrefix(text);
      // Of two prefixes that have something in common it is the longer one.
      const common = other && (contains(at.prefix, other) ? other : contains(other, at.prefix) ? at.prefix : null);
      if (!common || (by !== undefined && by === to)) return [];
      return isOf(at.network.wayTo(rangeOf(common)), route) ? [{ range: rangeOf(common), whose }] : [];
    },
  );
  const [first] = taken;
  if (!first) return [];
  const packet = packetTo(context, first.range);
  const each = taken.map(({ range, whose }) => `${rangeAsText(range)} of ${whose}`);
  return [
    routeFound(context, route, 'route-over', 'warning', {
      message: `“${route.name}” takes ${each[0]}${each.length > 1 ? ` and ${each.length - 1} more` : ''} elsewhere`,
      reason: `${packet}: it goes ${wordsOf(route)}, and not to ${first.whose}. What is said by hand comes before tunnels, and a longer prefix before a shorter one.`,
      mend: switchOff(context, route),
    }),
  ];
}

const wordsOf = ({ via }: StaticRoute): string =>
  via.kind === 'nowhere' ? 'nowhere' : via.kind === 'uplink' ? `out by ${via.port}` : `to ${viaWords(via)}`;

/** Who has networks that a site’s gateway knows a way to: joined sites, gateways of others, and routers beside it. */
function* havers(
  { site }: CheckContext,
  { prefix }: StaticRoute,
  { overlay, pacts = [] }: GatewayDocument,
): Generator<{ readonly text: string; readonly whose: string; readonly by?: string }> {
  const { joins = {} } = site.estate;
  const own = memberAt(site.estate, site.id);
  const spans = joinSpans([prefix]);
  if (overlay && own)
    for (const [id, join] of Object.entries(joins)) {
      if (id === own.id || !meeting(spans, spansOfJoin(join))) continue;
      for (const text of join.carries) yield { text, whose: join.name };
    }
  for (const { prefix: text, name, drops } of pactLines(pacts))
    if (!drops) yield { text, whose: `the tunnel “${name}”` };
  for (const each of routerRoutes(site)) yield { text: each.prefix, whose: `the router at ${each.to}`, by: each.to };
}

/** Whoever hands packets on stands among clients: what begins behind it comes to them without the gateway, which gets the answers. */
function amongClients(context: CheckContext, route: StaticRoute): Finding[] {
  const { site } = context;
  if (route.via.kind !== 'address') return [];
  const { address } = route.via;
  const segment = segmentWith(site.segments, address);
  if (
    !segment?.addresses ||
    isGivenAway(segment, address) ||
    (site.routers ?? []).some(({ meets }) => meets?.address === address)
  )
    return [];
  return [
    routeFound(context, route, 'route-among', 'info', {
      message: `“${route.name}” hands on to a neighbour among clients of ${segment.name}`,
      reason: `What begins behind ${address} and is for somebody in ${segment.name} never passes the gateway, and the answer, which does, is dropped. Have the neighbour in a segment of its own.`,
    }),
  ];
}
