import { mergeRanges, subtractRanges, type IpRange } from '../address';
import type { SsidLists } from '../document';
import { sheetFor } from '../hardware';
import {
  gatewayAddresses,
  plainSegmentsOfSsid,
  portSetting,
  rangesOfSegment,
  type ResolvedSite,
  type RosterDevice,
  type SiteClass,
  type SiteSsid,
} from '../intent';
import {
  policyRule,
  resolveRules,
  type PacketRule,
  type PolicyDocument,
  type PolicyRule,
  type Rule,
  type RuleEnd,
  type RuleNames,
  type RulePlace,
} from '../rules';

/** A way in which clients of a segment are attached: on an SSID or on cables, with a class or without. */
export interface Attached {
  /** What it is known by: this way alone first, then the SSID or `ports`, then the class. */
  readonly keys: readonly string[];
  readonly name: string;
  /** Absent on cables. */
  readonly ssid?: SiteSsid;
  /** Absent where clients have none. */
  readonly accessClass?: SiteClass;
}

/** Names the way in which somebody is attached, on an SSID or on cables, with a class or without. */
export const attachedKey = (ssidId: string | null, classId: string | null): string =>
  `${ssidId === null ? 'ports' : ssidKey(ssidId)} ${classId === null ? 'alone' : classKey(classId)}`;
export const ssidKey = (id: string): string => `ssid ${id}`;
export const classKey = (id: string): string => `class ${id}`;

const attached = (ssid: SiteSsid | null, accessClass: SiteClass | null): Attached => ({
  keys: [
    attachedKey(ssid?.id ?? null, accessClass?.id ?? null),
    ssid ? ssidKey(ssid.id) : 'ports',
    ...(accessClass ? [classKey(accessClass.id)] : []),
  ],
  name: [ssid?.name ?? 'ports', ...(accessClass ? [accessClass.name] : [])].join(', '),
  ...(ssid ? { ssid } : {}),
  ...(accessClass ? { accessClass } : {}),
});

/** What of a site says where its rules can take effect. */
export interface Places {
  readonly names: RuleNames;
  readonly hasSwitch: boolean;
  /** Clients of each segment: its subnets without the gateway's own addresses. */
  readonly clients: ReadonlyMap<string, readonly IpRange[]>;
  /** Segment of each class by the class's name; those without one are left out. */
  readonly classes: ReadonlyMap<string, string>;
  /** How SSIDs put clients into each segment, by the segment's id; segments without any are left out. */
  readonly aired: ReadonlyMap<string, readonly Attached[]>;
  /** How clients may be cabled into each segment, by its id. Asked seldom, found when it is. */
  readonly cabled: () => ReadonlyMap<string, readonly Attached[]>;
  /** Whether it was asked what ports carry. */
  readonly askedPorts: () => boolean;
}

/** Finds what says where rules can take effect. */
export function placesAt(site: ResolvedSite, roster: readonly RosterDevice[], names: RuleNames): Places {
  const own = gatewayAddresses(site);
  const aired = new Map<string, Attached[]>();
  for (const ssid of site.ssids) {
    for (const id of plainSegmentsOfSsid(ssid)) put(aired, id, attached(ssid, null));
    for (const each of ssid.classes ?? []) if (each.segmentId) put(aired, each.segmentId, attached(ssid, each));
  }
  let cabled: ReadonlyMap<string, readonly Attached[]> | null = null;
  return {
    names,
    hasSwitch: roster.some((device) => sheetFor(device).kind === 'switch'),
    clients: new Map(site.segments.map((segment) => [segment.id, fewer(mergeRanges(rangesOfSegment(segment)), own)])),
    classes: new Map(site.accessClasses.flatMap(({ name, segmentId }) => (segmentId ? [[name, segmentId]] : []))),
    aired,
    cabled: () => (cabled ??= cabledSegments(site, roster)),
    askedPorts: () => cabled !== null,
  };
}

function put<T>(lists: Map<string, T[]>, key: string, value: T): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

const fewer = (ranges: readonly IpRange[], minus: readonly IpRange[]): IpRange[] =>
  ranges.flatMap((range) => subtractRanges(range, minus));

/** Segments of which some port of a device is a plain member, or in which a port puts clients of a class. Devices themselves are cabled. */
function cabledSegments(site: ResolvedSite, roster: readonly RosterDevice[]): ReadonlyMap<string, readonly Attached[]> {
  const found = new Set<string>([site.managementId]);
  let asks = false;
  for (const device of roster)
    for (const { name, role } of sheetFor(device).ports) {
      const { untagged, auth } = portSetting(site, device, name);
      if (role === 'wan') continue;
      if (auth === 'mac') asks = true;
      else if (untagged) found.add(untagged);
    }
  const ways = new Map<string, Attached[]>([...found].map((id) => [id, [attached(null, null)]]));
  if (asks) for (const each of site.accessClasses) if (each.segmentId) put(ways, each.segmentId, attached(null, each));
  return ways;
}

/** Whether ends are told by how clients are attached, and not by their addresses. */
export const areAttached = (ends: readonly RuleEnd[]): boolean =>
  ends.length > 0 && ends.every(({ kind }) => kind === 'ssid' || kind === 'class');

/** Whether an end means clients that are attached in one way; those of other kinds mean all that have the addresses. */
function means(end: RuleEnd, { ssid, accessClass }: Attached): boolean {
  if (end.kind === 'ssid') return end.name === ssid?.name;
  return end.kind !== 'class' || end.name === accessClass?.name;
}

/**
 * The places at which a rule takes effect: the one it names; for clients that share their segment with others, and are
 * told from them by SSID or class, the APs, which alone can do that; for what begins and ends in one segment, where its
 * clients are attached, since it does not pass the gateway; else the gateway. None where nothing that is there can do it.
 */
export function placesOf(rule: Rule, packets: PacketRule, places: Places): readonly RulePlace[] {
  if (rule.at) return [rule.at];
  if (sharedEnds(rule, places).length > 0) return ['aps'];
  const home = homeOf(packets, places);
  if (home === null) return ['gateway'];
  return [
    ...(places.hasSwitch && places.cabled().has(home) ? (['switches'] as const) : []),
    ...(places.aired.has(home) ? (['aps'] as const) : []),
  ];
}

/** The sides of a rule whose clients share addresses with others that it does not mean. */
export function sharedEnds(rule: Rule, places: Places): readonly ('from' | 'to')[] {
  return (['from', 'to'] as const).filter((side) => areAttached(rule[side]) && !aloneIn(rule[side], places));
}

/** The segment that a rule begins and ends in, by id; null where it also means others. */
export function homeOf({ source, destination }: PacketRule, { clients, names }: Places): string | null {
  if (!source || !destination) return null;
  const own = names.gateway ?? [];
  const within = (ranges: readonly IpRange[], home: readonly IpRange[]): boolean =>
    fewer(ranges, own).length > 0 && ranges.every((range) => subtractRanges(range, [...home, ...own]).length === 0);
  // Few segments have any of it: only those are looked at closely.
  const touched = (ranges: readonly IpRange[], home: readonly IpRange[]): boolean =>
    ranges.some((range) => meets(range, home));
  for (const [id, home] of clients)
    if (touched(source, home) && touched(destination, home) && within(source, home) && within(destination, home))
      return id;
  return null;
}

/** Every way in which clients of a segment may be attached. */
export const waysInto = ({ aired, cabled }: Places, segmentId: string): readonly Attached[] => [
  ...(cabled().get(segmentId) ?? []),
  ...(aired.get(segmentId) ?? []),
];

/** Whether the segments of these ends have no other clients, so that their addresses say as much as the ends do. */
function aloneIn(ends: readonly RuleEnd[], places: Places): boolean {
  const meant = (each: Attached): boolean => ends.some((end) => means(end, each));
  const joined = new Set(ends.flatMap((end) => (end.kind === 'class' ? (places.classes.get(end.name) ?? []) : [])));
  return [...places.clients.keys()].every((id) => {
    // Ports are looked at only where somebody is meant.
    const concerned = joined.has(id) || (places.aired.get(id) ?? []).some(meant);
    return !concerned || waysInto(places, id).every(meant);
  });
}

/** A rule and what it comes to. */
export interface PlacedRule {
  readonly rule: Rule;
  readonly packets: PacketRule;
  readonly places: readonly RulePlace[];
}

const listOf = (rules: readonly PolicyRule[]): PolicyDocument => ({ otherwise: 'allow', rules });
const told = (rule: Rule, packets: PacketRule, name: string): PolicyRule =>
  policyRule(packets, { name, times: rule.times, log: rule.log });

/** What switches judge each packet by; undefined where they have nothing to judge by. */
export function switchList(rules: readonly PlacedRule[], nameOf: (rule: Rule) => string): PolicyDocument | undefined {
  const own = rules.filter(({ places }) => places.includes('switches'));
  return own.length > 0 ? listOf(own.map(({ rule, packets }) => told(rule, packets, nameOf(rule)))) : undefined;
}

/** What APs judge packets of an SSID's clients by: of those without a class, and of those of each. */
export interface AiredLists {
  readonly lists?: SsidLists;
  /** By the class's id. */
  readonly classLists?: Readonly<Record<string, SsidLists>>;
}

/** What APs judge packets of each SSID's clients by, by the SSID's id; those without a list are left out. */
export function ssidLists(
  rules: readonly PlacedRule[],
  { names, clients, aired }: Places,
  nameOf: (rule: Rule) => string,
): Record<string, AiredLists> {
  const own = rules.filter(({ places }) => places.includes('aps'));
  if (own.length === 0) return {};
  const segments = new Map<string, string[]>();
  const ways = new Map<string, Attached>();
  for (const [segmentId, there] of aired)
    for (const way of there) {
      put(segments, way.keys[0]!, segmentId);
      ways.set(way.keys[0]!, way);
    }
  const side = (way: Attached, near: 'from' | 'to'): PolicyRule[] => {
    const far = near === 'from' ? 'to' : 'from';
    const addresses = segments.get(way.keys[0]!)!.flatMap((id) => clients.get(id) ?? []);
    return own.flatMap(({ rule, packets }) => {
      // Where clients that are attached in some way are meant at the other end alone, the APs of those judge.
      if (areAttached(rule[far]) && !areAttached(rule[near])) return [];
      const ends = rule[near].filter((end) => means(end, way));
      if (ends.length === 0) return [];
      const mine =
        ends.length === rule[near].length ? packets : resolveRules([{ ...rule, [near]: ends }], names).rules[0];
      const ranges = near === 'from' ? mine?.source : mine?.destination;
      if (!mine || (ranges && !ranges.some((range) => meets(range, addresses)))) return [];
      return [told(rule, mine, nameOf(rule))];
    });
  };
  const lists: Record<string, { lists?: SsidLists; classLists?: Record<string, SsidLists> }> = {};
  for (const way of ways.values()) {
    const [from, to] = [side(way, 'from'), side(way, 'to')];
    if (from.length + to.length === 0) continue;
    const made = { from: listOf(from), to: listOf(to) };
    const all = (lists[way.ssid!.id] ??= {});
    if (way.accessClass) (all.classLists ??= {})[way.accessClass.id] = made;
    else all.lists = made;
  }
  return lists;
}

const meets = (range: IpRange, others: readonly IpRange[]): boolean =>
  others.some((each) => each.version === range.version && each.first <= range.last && range.first <= each.last);
