import { cutAt, parsePrefix, rangeOf, type IpAddress, type IpRange, type Prefix } from '../address';
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
import { OpenTable, PREFERENCE } from '../routing';

type Router = Pick<GatewayDocument, 'routes' | 'interfaces' | 'interfaces6' | 'overlay' | 'pacts'>;

/** Where a gateway sends what is for somebody, where that is neither a link of its own nor as the rest does. */
export type ToldWay =
  | { readonly kind: 'route'; readonly route: RouteDocument }
  | { readonly kind: 'overlay'; readonly line: OverlayLine }
  | { readonly kind: 'pact'; readonly line: PactLine };

/** A line of a gateway’s table, but for uplinks. */
export interface ToldLine {
  readonly prefix: Prefix;
  readonly preference: number;
  readonly metric: number;
  /** Null: it is on a link. */
  readonly way: ToldWay | null;
}

/** The lines of a gateway’s table but for uplinks, while all tunnels are up; those that cannot be read are left out. */
export function toldLines({ routes = [], interfaces, interfaces6 = [], overlay, pacts = [] }: Router): ToldLine[] {
  const line = (text: string, preference: number, way: ToldWay | null, metric = 0): ToldLine[] => {
    const prefix = parsePrefix(text);
    return prefix ? [{ prefix, preference, metric, way }] : [];
  };
  return [
    ...[...interfaces, ...interfaces6].flatMap(({ address }) => line(address, PREFERENCE.link, null)),
    ...routes.flatMap((route) => line(route.prefix, PREFERENCE.said, { kind: 'route', route }, route.metric)),
    ...(overlay ? overlayLines(overlay) : []).flatMap(toldOverlay),
    ...pactLines(pacts)
      .filter(({ drops }) => !drops)
      .flatMap((each) => line(each.prefix, PREFERENCE.pact, { kind: 'pact', line: each })),
  ];
}

/** A line of the overlay, read once: of thousands most stay the same from one edit to the next. */
function toldOverlay(line: OverlayLine): readonly ToldLine[] {
  let told = overlayKnown.get(line);
  if (!told) {
    const prefix = parsePrefix(line.prefix);
    const { metric } = line;
    told = prefix ? [{ prefix, preference: PREFERENCE.overlay, metric, way: { kind: 'overlay', line } }] : [];
    overlayKnown.set(line, told);
  }
  return told;
}
const overlayKnown = new WeakMap<OverlayLine, readonly ToldLine[]>();

/**
 * Tells by which route or tunnel that a gateway was told it sends what is for somebody, while all tunnels are up: the longest prefix, then what is said
 * before tunnels, then the lowest metric; null where that is none of them, as for whoever is on a link of the gateway.
 */
export const toldWays = (router: Router): ((to: IpAddress) => ToldWay | null) => wayIn(toldLines(router));

/** The same of lines. */
export function wayIn(lines: readonly ToldLine[]): (to: IpAddress) => ToldWay | null {
  const table = new OpenTable(
    lines.map(({ prefix, preference, metric, way }, at) => ({
      ...{ prefix, preference, metric },
      nextHop: way === null ? '' : `${at}`,
    })),
  );
  return (to) => {
    const found = table.routesTo(to)[0]?.nextHop ?? '';
    return found === '' ? null : lines[Number(found)]!.way;
  };
}

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

/** Some destinations that go one way; null: on a link, or as the rest does. */
export interface WayOfRange {
  readonly range: IpRange;
  readonly way: ToldWay | null;
}

/** Destinations by the way that each goes: between two bounds of prefixes no address goes another way than the next. */
export function waysOf(router: Router): (destinations: readonly IpRange[]) => readonly WayOfRange[] {
  const lines = toldLines(router);
  const wayTo = wayIn(lines);
  const bounds = lines.map(({ prefix }) => rangeOf(prefix));
  return (destinations) =>
    destinations
      .flatMap((each) => cutAt(each, bounds))
      .map((range) => ({ range, way: wayTo({ version: range.version, value: range.first }) }));
}
