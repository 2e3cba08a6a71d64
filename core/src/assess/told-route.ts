import { parsePrefix, rangeOf, type IpAddress, type IpRange } from '../address';
import {
  overlayLines,
  pactLines,
  type DeviceDocument,
  type GatewayDocument,
  type OverlayLine,
  type PactLine,
  type RouteDocument,
} from '../document';
import type { ResolvedSite, RosterDevice } from '../intent';
import { compileSite, holderOf } from '../rollout';
import { OpenTable, PREFERENCE, type Route } from '../routing';

type Router = Pick<GatewayDocument, 'routes' | 'interfaces' | 'interfaces6' | 'overlay' | 'pacts'>;

/** Where a gateway sends what is for somebody, where that is neither a link of its own nor as the rest does. */
export type ToldWay =
  | { readonly kind: 'route'; readonly route: RouteDocument }
  | { readonly kind: 'overlay'; readonly line: OverlayLine }
  | { readonly kind: 'pact'; readonly line: PactLine };

/**
 * Tells by which route or tunnel that a gateway was told it sends what is for somebody, while all tunnels are up: the longest prefix, then what is said
 * before tunnels, then the lowest metric; null where that is none of them, as for whoever is on a link of the gateway.
 */
export function toldWays({
  routes = [],
  interfaces,
  interfaces6 = [],
  overlay,
  pacts = [],
}: Router): (to: IpAddress) => ToldWay | null {
  const ways: ToldWay[] = [
    ...routes.map((route) => ({ kind: 'route' as const, route })),
    ...(overlay ? overlayLines(overlay) : []).map((line) => ({ kind: 'overlay' as const, line })),
    ...openLines(pacts).map((line) => ({ kind: 'pact' as const, line })),
  ];
  const line = (text: string, more: Omit<Route, 'prefix'>): Route[] => {
    const prefix = parsePrefix(text);
    return prefix ? [{ prefix, ...more }] : [];
  };
  const table = new OpenTable([
    ...[...interfaces, ...interfaces6].flatMap(({ address }) =>
      line(address, { nextHop: '', preference: PREFERENCE.link, metric: 0 }),
    ),
    ...ways.flatMap((way, at) => {
      const { prefix, metric = 0 }: { prefix: string; metric?: number } = way.kind === 'route' ? way.route : way.line;
      const preference = PREFERENCE[way.kind === 'route' ? 'said' : way.kind];
      return line(prefix, { nextHop: `${at}`, preference, metric });
    }),
  ]);
  return (to) => {
    const found = table.routesTo(to)[0]?.nextHop ?? '';
    return found === '' ? null : ways[Number(found)]!;
  };
}

/** What goes into tunnels to gateways of others, while all are up. */
const openLines = (pacts: NonNullable<Router['pacts']>): PactLine[] => pactLines(pacts).filter(({ drops }) => !drops);

/** What the gateway that routes a site’s segments is told; null where there is none. */
export function routerOf(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: ReadonlyMap<string, DeviceDocument> = compileSite(site, roster),
): GatewayDocument | null {
  const id = holderOf({ site, roster });
  const document = id === null ? undefined : documents.get(id);
  return document?.kind === 'gateway' ? document : null;
}

/** Whether what goes a way goes on. */
export const leadsOn = (way: ToldWay): boolean =>
  way.kind === 'pact' ||
  (way.kind === 'overlay' ? way.line.peer !== null : way.route.to !== undefined || way.route.by !== undefined);

/** Destinations by the way that each goes: between two bounds of prefixes no address goes another way than the next. */
export function waysOf(
  router: Router,
  destinations: readonly IpRange[],
): readonly { readonly range: IpRange; readonly way: ToldWay | null }[] {
  const wayTo = toldWays(router);
  const lines = [...(router.overlay ? overlayLines(router.overlay) : []), ...openLines(router.pacts ?? [])];
  const bounds = [router.routes ?? [], router.interfaces, router.interfaces6 ?? [], lines].flat().flatMap((each) => {
    const prefix = parsePrefix('prefix' in each ? each.prefix : each.address);
    return prefix ? [rangeOf(prefix)] : [];
  });
  return destinations.flatMap(({ version, first, last }) => {
    const cuts = new Set(
      bounds
        .filter((each) => each.version === version)
        .flatMap((each) => [each.first, each.last + 1n])
        .filter((at) => at > first && at <= last),
    );
    const starts = [first, ...[...cuts].sort((a, b) => (a < b ? -1 : 1))];
    return starts.map((value, i) => ({
      range: { version, first: value, last: (starts[i + 1] ?? last + 1n) - 1n },
      way: wayTo({ version, value }),
    }));
  });
}
