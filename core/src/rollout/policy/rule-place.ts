import { meetsAny, mergeRanges, subtractRanges, type IpRange } from '../../address';
import { sheetFor } from '../../hardware';
import {
  gatewayAddresses,
  isOfOthers,
  plainSegmentsOfSsid,
  rangesOfSegment,
  segmentsOfRouter,
  type ResolvedSite,
  type RosterDevice,
} from '../../intent';
import type { PacketRule, Rule, RuleEnd, RuleNames, RulePlace } from '../../rules';
import type { Cabled } from '../facts';
import { attached, type Attached } from './attached';

/** What of a site says where its rules can take effect. */
export interface RulePlaces {
  readonly names: RuleNames;
  readonly hasSwitch: boolean;
  /** Routers beside the gateway with all that they route: what begins and ends there does not pass the gateway. */
  readonly beside: readonly RoutedBeside[];
  /** Clients of each segment: its subnets without the gateway's own addresses. */
  readonly clients: ReadonlyMap<string, readonly IpRange[]>;
  /** Segment of each class by the class's name; those without one are left out. */
  readonly classes: ReadonlyMap<string, string>;
  /** How SSIDs put clients into each segment, by the segment's id; segments without any are left out. */
  readonly aired: ReadonlyMap<string, readonly Attached[]>;
  /** How clients may be cabled into each segment, by its id. */
  readonly cabled: ReadonlyMap<string, readonly Attached[]>;
}

/** A router beside the gateway. */
export interface RoutedBeside {
  readonly name: string;
  /** Whether it is a box of others, which nobody can tell what to let pass. */
  readonly ofOthers: boolean;
  readonly addresses: readonly IpRange[];
}

/** What is read of a site to find where its rules can take effect. */
export type PlacedSite = Pick<ResolvedSite, 'segments' | 'ssids' | 'accessClasses' | 'routers'>;

/** Finds what says where rules can take effect. */
export function placesAt(
  site: PlacedSite,
  devices: readonly Pick<RosterDevice, 'model' | 'sheet'>[],
  cabled: Cabled,
  names: RuleNames,
): RulePlaces {
  const own = gatewayAddresses(site);
  const aired = new Map<string, Attached[]>();
  for (const ssid of site.ssids) {
    for (const id of plainSegmentsOfSsid(ssid)) put(aired, id, attached(ssid, null));
    for (const each of ssid.classes ?? []) if (each.segmentId) put(aired, each.segmentId, attached(ssid, each));
  }
  return {
    names,
    beside: (site.routers ?? []).map((router) => ({
      name: router.name,
      ofOthers: isOfOthers(router),
      addresses: mergeRanges(segmentsOfRouter(site, router.id).flatMap(rangesOfSegment)),
    })),
    hasSwitch: devices.some((device) => sheetFor(device).kind === 'switch'),
    clients: new Map(site.segments.map((segment) => [segment.id, fewer(mergeRanges(rangesOfSegment(segment)), own)])),
    classes: new Map(site.accessClasses.flatMap(({ name, segmentId }) => (segmentId ? [[name, segmentId]] : []))),
    aired,
    cabled: waysByCable(site, cabled),
  };
}

/** Adds to the list of a key. */
export function put<T>(lists: Map<string, T[]>, key: string, value: T): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

const fewer = (ranges: readonly IpRange[], minus: readonly IpRange[]): IpRange[] =>
  ranges.flatMap((range) => subtractRanges(range, minus));

function waysByCable(
  { accessClasses }: PlacedSite,
  { segmentIds, asks }: Cabled,
): ReadonlyMap<string, readonly Attached[]> {
  const ways = new Map<string, Attached[]>(segmentIds.map((id) => [id, [attached(null, null)]]));
  if (asks) for (const each of accessClasses) if (each.segmentId) put(ways, each.segmentId, attached(null, each));
  return ways;
}

/** Whether ends are told by how clients are attached, and not by their addresses. */
export const areAttached = (ends: readonly RuleEnd[]): boolean =>
  ends.length > 0 && ends.every(({ kind }) => kind === 'ssid' || kind === 'class');

/** Whether an end means clients that are attached in one way; those of other kinds mean all that have the addresses. */
export function means(end: RuleEnd, { ssid, accessClass }: Attached): boolean {
  if (end.kind === 'ssid') return end.name === ssid?.name;
  return end.kind !== 'class' || end.name === accessClass?.name;
}

/**
 * The places at which a rule takes effect: the one it names; for clients that share their segment with others, and are
 * told from them by SSID or class, the APs, which alone can do that; for what begins and ends in one segment, where its
 * clients are attached, since it does not pass the gateway; else the gateway. None where nothing that is there can do it.
 */
export function placesOf(rule: Rule, packets: PacketRule, places: RulePlaces): readonly RulePlace[] {
  if (rule.at) return [rule.at];
  if (sharedEnds(rule, places).length > 0) return ['aps'];
  const home = homeOf(packets, places);
  if (home === null) {
    const beside = besideOf(packets, places);
    if (!beside) return ['gateway'];
    return beside.ofOthers || !places.hasSwitch ? [] : ['switches'];
  }
  return [
    ...(places.hasSwitch && places.cabled.has(home) ? (['switches'] as const) : []),
    ...(places.aired.has(home) ? (['aps'] as const) : []),
  ];
}

/** The sides of a rule whose clients share addresses with others that it does not mean. */
export function sharedEnds(rule: Rule, places: RulePlaces): readonly ('from' | 'to')[] {
  return (['from', 'to'] as const).filter((side) => areAttached(rule[side]) && !aloneIn(rule[side], places));
}

/** The router beside the gateway that has all that a rule begins and ends at; undefined where none has. */
export function besideOf(
  { source, destination }: PacketRule,
  { beside, names }: Pick<RulePlaces, 'beside' | 'names'>,
): RoutedBeside | undefined {
  if (!source || !destination || beside.length === 0) return undefined;
  const within = (ranges: readonly IpRange[], home: readonly IpRange[]): boolean =>
    ranges.length > 0 && fewer(ranges, names.gateway ?? []).every((range) => fewer([range], home).length === 0);
  return beside.find(({ addresses }) => within(source, addresses) && within(destination, addresses));
}

/** Where rules begin and end, by what it is found from: it is asked several times of each. */
const homes = new WeakMap<RulePlaces, Map<PacketRule, string | null>>();

/** The segment that a rule begins and ends in, by id; null where it also means others. */
export function homeOf(rule: PacketRule, places: RulePlaces): string | null {
  let known = homes.get(places);
  if (!known) homes.set(places, (known = new Map<PacketRule, string | null>()));
  let home = known.get(rule);
  if (home === undefined) known.set(rule, (home = findHome(rule, places)));
  return home;
}

function findHome({ source, destination }: PacketRule, { clients, names }: RulePlaces): string | null {
  if (!source || !destination) return null;
  const own = names.gateway ?? [];
  // Without the gateway's addresses.
  const within = (ranges: readonly IpRange[], home: readonly IpRange[]): boolean => {
    const rest = fewer(ranges, own);
    return rest.length > 0 && rest.every((range) => subtractRanges(range, home).length === 0);
  };
  // Few segments have any of it: only those are looked at closely.
  const touched = (ranges: readonly IpRange[], home: readonly IpRange[]): boolean =>
    ranges.some((range) => meetsAny(range, home));
  for (const [id, home] of clients)
    if (touched(source, home) && touched(destination, home) && within(source, home) && within(destination, home))
      return id;
  return null;
}

/** Every way in which clients of a segment may be attached. */
const waysInto = ({ aired, cabled }: RulePlaces, segmentId: string): readonly Attached[] => [
  ...(cabled.get(segmentId) ?? []),
  ...(aired.get(segmentId) ?? []),
];

/** Whether the segments of these ends have no other clients, so that their addresses say as much as the ends do. */
function aloneIn(ends: readonly RuleEnd[], places: RulePlaces): boolean {
  const meant = (each: Attached): boolean => ends.some((end) => means(end, each));
  const joined = new Set(ends.flatMap((end) => (end.kind === 'class' ? (places.classes.get(end.name) ?? []) : [])));
  return [...places.clients.keys()].every((id) => {
    // Ports are looked at only where somebody is meant.
    const concerned = joined.has(id) || (places.aired.get(id) ?? []).some(meant);
    return !concerned || waysInto(places, id).every(meant);
  });
}
