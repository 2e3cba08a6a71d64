import {
  contains,
  cutIn,
  mergeRanges,
  parseIp,
  parsePrefix,
  PRIVATE_PREFIXES,
  rangeOf,
  type IpAddress,
  type IpRange,
  type IpVersion,
  type Prefix,
} from '../address';
import type { DeviceDocument, GatewayDocument } from '../document';
import { segmentsOfRouter, type ResolvedSite, type RosterDevice, type SiteRouter } from '../intent';
import { checkNetwork, DISCARD, LOCAL, OpenTable, type AddressClass, type Route, type RouteFault } from '../routing';
import { routerOf, toldLines, wayIn, type ToldLine, type ToldWay } from './told-route';

/** What a site’s routers are called in its network: the gateway, the provider behind its uplinks, and nobody where a provider would have to be. */
const [GATEWAY, OUTSIDE, NOBODY] = ['gateway', 'outside', 'nobody'] as const;
const keyOf = ({ id }: Pick<SiteRouter, 'id'>): string => `router ${id}`;

/** Packets to some addresses that nobody gets, though the gateway sends them on, or that it drops. */
export interface Lost {
  readonly kind: 'dropped' | 'circle' | 'strange' | 'alone';
  readonly ranges: readonly IpRange[];
  /** The way that the gateway sends them; null: as the rest goes. */
  readonly way: ToldWay | null;
  /** Of a circle: the routers beside the gateway from which they come into it too. */
  readonly from: readonly string[];
  readonly why: string;
}

/** What becomes of what is lost, in a word or two. */
export const LOST_TITLES: Readonly<Record<Lost['kind'], string>> = {
  dropped: 'Dropped',
  circle: 'Goes round in circles',
  strange: 'Ends there',
  alone: 'Gets nowhere',
};

const ALONE =
  'The default route alone is for it: it leaves by an uplink, and no provider carries private addresses (RFC 1918 §3, RFC 4193 §4).';

/** What is known of a site’s network. */
export interface NetworkOf {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  /** What the gateway is told that routes. */
  readonly router: GatewayDocument;
  /** Its uplinks as they are now; absent: none is known. */
  readonly uplinks?: readonly { readonly address: string }[];
}

/**
 * How the routers of a site hand packets to each other, each by its own table: the gateway, switches that route, and boxes of others as they are assumed
 * to be. All tunnels are up, and all uplinks good; behind tunnels, and at neighbours of which nothing is known, everything arrives.
 */
export class SiteNetwork {
  private readonly lines: readonly ToldLine[];
  /** Whether nobody but the gateway routes, by nothing but its links and uplinks: then all private addresses that are on none of its links are lost, or none is. */
  readonly isPlain: boolean;
  private readonly isDark: boolean;

  constructor(private readonly known: NetworkOf) {
    this.lines = toldLines(known.router);
    this.isDark = isDark(known);
    this.isPlain = (known.site.routers ?? []).length === 0 && this.lines.every(({ way }) => way === null);
  }

  /** The way that the gateway sends what is for the first of some addresses; null: on a link, or as the rest goes. */
  wayTo({ version, first }: IpRange): ToldWay | null {
    this.way ??= wayIn(this.lines);
    return this.way({ version, value: first });
  }
  private way: ((to: IpAddress) => ToldWay | null) | undefined;

  /** Of private addresses that are on no link of a plain network’s gateway: whether they are lost. */
  lostOutside(ranges: readonly IpRange[]): readonly Lost[] {
    return this.isDark ? [{ kind: 'alone', ranges, way: null, from: [], why: ALONE }] : [];
  }

  /** Of some destinations those that nobody gets, put together where they end alike. */
  lost(destinations: readonly IpRange[]): readonly Lost[] {
    const meant = this.classesOf(destinations);
    const dropped = this.byWay(meant.filter((each) => isDropped(this.wayTo(each))));
    const faults = checkNetwork((this.tables ??= this.tablesOf()), meant).filter(({ from }) => from.includes(GATEWAY));
    return [
      ...[...dropped].map(([way, ranges]): Lost => ({
        ...{ kind: 'dropped', ranges: mergeRanges(ranges), way, from: [], why: droppedWords(way!) },
      })),
      ...faults.flatMap((fault) => this.lostIn(fault, meant)),
    ];
  }

  /** Each way that leads into a fault, by itself. */
  private lostIn(fault: RouteFault, meant: readonly AddressClass[]): Lost[] {
    const inIt = within(meant, fault.classes);
    const from = (this.known.site.routers ?? [])
      .filter((router) => fault.from.includes(keyOf(router)) && networksOf(this.known.site, router).length > 0)
      .map(({ name }) => name);
    const kind = fault.kind === 'loop' ? 'circle' : fault.at === NOBODY ? 'alone' : 'strange';
    return [...this.byWay(inIt)].map(([way, ranges]) => ({
      ...{ kind, ranges: mergeRanges(ranges), way, from },
      why: this.words(fault, kind, way),
    }));
  }

  private byWay(ranges: readonly IpRange[]): Map<ToldWay | null, IpRange[]> {
    const found = new Map<ToldWay | null, IpRange[]>();
    for (const each of ranges) {
      const way = this.wayTo(each);
      const known = found.get(way);
      if (known) known.push(each);
      else found.set(way, [each]);
    }
    return found;
  }

  private words({ at, cycle }: RouteFault, kind: Lost['kind'], way: ToldWay | null): string {
    if (kind === 'alone' || way?.kind !== 'route') return ALONE;
    const { name, prefix, to } = way.route;
    const { site, roster } = this.known;
    const met = kind === 'circle' ? cycle.find((each) => each !== GATEWAY) : at;
    const router = site.routers?.find((each) => keyOf(each) === met);
    if (router)
      return `Its route “${name}” leads ${prefix} to “${router.name}” (${to}), which has that neither on a link nor behind it, and sends it back.`;
    const device = roster.find(({ id }) => id === met);
    return `Its route “${name}” leads ${prefix} to ${device?.name ?? to} (${to}), which hands nothing on.`;
  }

  /** Destinations cut where any table says something else than beside it. */
  private classesOf(destinations: readonly IpRange[]): AddressClass[] {
    const bounds = (this.bounds ??= this.boundsOf());
    return destinations.flatMap((each) => cutIn(each, bounds[each.version]));
  }
  private bounds: Readonly<Record<IpVersion, readonly bigint[]>> | undefined;

  /** Where what some table says begins or ends, in order. */
  private boundsOf(): Readonly<Record<IpVersion, readonly bigint[]>> {
    const { site } = this.known;
    const all = [
      ...this.lines.map(({ prefix }) => prefix),
      ...PRIVATE_PREFIXES,
      ...(site.routers ?? []).flatMap((router) => networksOf(site, router)),
    ].map(rangeOf);
    const of = (version: IpVersion): bigint[] => {
      const own = all.filter((each) => each.version === version);
      return [...new Set(own.flatMap(({ first, last }) => [first, last + 1n]))].sort((a, b) => (a < b ? -1 : 1));
    };
    return { 4: of(4), 6: of(6) };
  }

  private tablesOf(): ReadonlyMap<string, OpenTable> {
    return new Map([
      [GATEWAY, this.ofGateway()],
      [OUTSIDE, this.outside()],
      ...(this.known.site.routers ?? []).map((router) => [keyOf(router), this.ofRouter(router)] as const),
    ]);
  }
  private tables: ReadonlyMap<string, OpenTable> | undefined;

  private ofGateway(): OpenTable {
    const nextHop = (way: ToldWay | null): string => {
      if (way === null || way.kind === 'pact') return LOCAL;
      if (way.kind === 'overlay') return way.line.peer === null ? DISCARD : LOCAL;
      const { to, by } = way.route;
      if (to !== undefined) return this.whoHas(to) ?? LOCAL;
      return by === undefined ? DISCARD : LOCAL;
    };
    const lines = this.lines.map(({ way, ...line }) => ({ ...line, nextHop: nextHop(way) }));
    return new OpenTable([...lines, ...toAll(OUTSIDE)]);
  }

  private outside(): OpenTable {
    const dark = this.isDark ? PRIVATE_PREFIXES.map((prefix) => routeTo(prefix, NOBODY)) : [];
    return new OpenTable([...dark, ...toAll(LOCAL)]);
  }

  private ofRouter(router: SiteRouter): OpenTable {
    const { site } = this.known;
    const transit = site.segments.find(({ id }) => id === router.meets?.segmentId);
    const met = transit && parsePrefix(transit.subnet);
    const own = [...networksOf(site, router), ...(met ? [met] : [])].map((prefix) => routeTo(prefix, LOCAL));
    const back = transit ? GATEWAY : DISCARD;
    if (!router.ownWayOut) return new OpenTable([...own, ...toAll(back)]);
    return new OpenTable([...own, ...PRIVATE_PREFIXES.map((prefix) => routeTo(prefix, back)), ...toAll(LOCAL)]);
  }

  /** Who of those that are known has an address; null: somebody of whom nothing is. */
  private whoHas(address: string): string | null {
    const { site, roster } = this.known;
    const router = site.routers?.find(({ meets }) => meets?.address === address);
    if (router) return keyOf(router);
    return roster.find((device) => (device.address?.address ?? device.given) === address)?.id ?? null;
  }
}

/** Whether providers carry no private addresses: so it is, unless one gave us such an address and may have more of them, or takes ours as they are. */
function isDark({ router, uplinks = [] }: NetworkOf): boolean {
  const own = [...uplinks, ...router.uplinks.flatMap(({ fixed }) => fixed ?? [])].map(({ address }) => address);
  return (
    !own.some((address) => isPrivate(address.split('/')[0]!)) && router.uplinks.every(({ translate }) => translate)
  );
}

/** How what a site’s gateway sends to an address is lost; null: it is not, as far as is known, or there is no gateway that routes. */
export function lostTo(
  known: Omit<NetworkOf, 'router'> & { readonly documents: ReadonlyMap<string, DeviceDocument> },
  address: string,
): { readonly title: string; readonly why: string } | null {
  const ip = parseIp(address);
  const router = routerOf(known.site, known.roster, known.documents);
  if (!ip || !router) return null;
  const { version, value } = ip;
  const [lost] = new SiteNetwork({ ...known, router }).lost([{ version, first: value, last: value }]);
  return lost ? { title: LOST_TITLES[lost.kind], why: lost.why } : null;
}

/** Whether what goes a way is dropped. */
const isDropped = (way: ToldWay | null): boolean =>
  way?.kind === 'overlay'
    ? way.line.peer === null
    : way?.kind === 'route' && way.route.to === undefined && way.route.by === undefined;

/** Those of some ranges that are in others, of which no two meet. */
function within(ranges: readonly IpRange[], others: readonly IpRange[]): IpRange[] {
  const of = (version: IpVersion): IpRange[] =>
    others.filter((each) => each.version === version).sort((a, b) => (a.first < b.first ? -1 : 1));
  const sorted = { 4: of(4), 6: of(6) };
  return ranges.filter(({ version, first, last }) => {
    const own = sorted[version];
    let [low, high] = [0, own.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (own[middle]!.first > first) high = middle;
      else low = middle + 1;
    }
    return low > 0 && last <= own[low - 1]!.last;
  });
}

const droppedWords = (way: ToldWay): string =>
  way.kind === 'overlay'
    ? `${way.line.prefix} is where networks of joined sites are, and none has it: it never leaves by an uplink.`
    : way.kind === 'route'
      ? `Its route “${way.route.name}” leads ${way.route.prefix} nowhere.`
      : '';

const networksOf = (site: ResolvedSite, { id, behind }: SiteRouter): Prefix[] =>
  [...segmentsOfRouter(site, id).map(({ subnet }) => subnet), ...(behind ?? [])].flatMap(
    (text) => parsePrefix(text) ?? [],
  );

const isPrivate = (address: string): boolean => {
  const ip = parseIp(address);
  return ip !== null && PRIVATE_PREFIXES.some((each) => contains(each, ip));
};

const routeTo = (prefix: Prefix, nextHop: string): Route => ({ prefix, nextHop, preference: 0, metric: 0 });
const ALL = ['0.0.0.0/0', '::/0'].map((text) => parsePrefix(text)!);
const toAll = (nextHop: string): Route[] => ALL.map((prefix) => ({ ...routeTo(prefix, nextHop), preference: 255 }));
