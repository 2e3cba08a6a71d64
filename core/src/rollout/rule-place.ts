import { mergeRanges, subtractRanges, type IpRange } from '../address';
import type { SsidLists } from '../document';
import { sheetFor } from '../hardware';
import {
  gatewayAddresses,
  portSetting,
  rangesOfSegment,
  segmentsOfSsid,
  type ResolvedSite,
  type RosterDevice,
  type Ssid,
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

/** What of a site says where its rules can take effect. */
export interface Places {
  readonly names: RuleNames;
  readonly hasSwitch: boolean;
  /** Clients of each segment: its subnets without the gateway's own addresses. */
  readonly clients: ReadonlyMap<string, readonly IpRange[]>;
  /** SSIDs that put clients into each segment, by the segment's id. */
  readonly ssids: ReadonlyMap<string, readonly Ssid[]>;
  /** Ids of segments that some port carries untagged, so that clients may be cabled. Asked seldom, found when it is. */
  readonly cabled: () => ReadonlySet<string>;
  /** Whether it was asked what ports carry. */
  readonly askedPorts: () => boolean;
}

/** Finds what says where rules can take effect. */
export function placesAt(site: ResolvedSite, roster: readonly RosterDevice[], names: RuleNames): Places {
  const own = gatewayAddresses(site);
  const ssids = new Map<string, Ssid[]>();
  for (const ssid of site.ssids) for (const id of segmentsOfSsid(ssid)) ssids.set(id, [...(ssids.get(id) ?? []), ssid]);
  let cabled: ReadonlySet<string> | null = null;
  return {
    names,
    hasSwitch: roster.some((device) => sheetFor(device).kind === 'switch'),
    clients: new Map(site.segments.map((segment) => [segment.id, fewer(mergeRanges(rangesOfSegment(segment)), own)])),
    ssids,
    cabled: () => (cabled ??= cabledSegments(site, roster)),
    askedPorts: () => cabled !== null,
  };
}

const fewer = (ranges: readonly IpRange[], minus: readonly IpRange[]): IpRange[] =>
  ranges.flatMap((range) => subtractRanges(range, minus));

/** Segments of which some port of a device is a plain member. Devices themselves are cabled. */
function cabledSegments(site: ResolvedSite, roster: readonly RosterDevice[]): ReadonlySet<string> {
  const found = new Set<string>([site.managementId]);
  for (const device of roster)
    for (const { name, role } of sheetFor(device).ports) {
      const { untagged } = portSetting(site, device, name);
      if (role !== 'wan' && untagged) found.add(untagged);
    }
  return found;
}

const areSsids = (ends: readonly RuleEnd[]): boolean => ends.length > 0 && ends.every(({ kind }) => kind === 'ssid');

/**
 * The places at which a rule takes effect: the one it names; for what begins and ends in one segment, where its clients
 * are attached, since it does not pass the gateway; for clients of an SSID that share their segment with others, the APs,
 * which alone can tell them apart; else the gateway. None where nothing that is there can do it.
 */
export function placesOf(rule: Rule, packets: PacketRule, places: Places): readonly RulePlace[] {
  if (rule.at) return [rule.at];
  const home = homeOf(packets, places);
  if (home !== null)
    return [
      ...(places.hasSwitch && places.cabled().has(home) ? (['switches'] as const) : []),
      ...((places.ssids.get(home) ?? []).length > 0 ? (['aps'] as const) : []),
    ];
  const shared = [rule.from, rule.to].some((ends) => areSsids(ends) && !aloneIn(ends, places));
  return shared ? ['aps'] : ['gateway'];
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

/** Whether the segments of these SSIDs have no other clients, so that their addresses say as much as the SSIDs do. */
function aloneIn(ends: readonly RuleEnd[], { ssids, cabled }: Places): boolean {
  const named = new Set(ends.flatMap((end) => (end.kind === 'ssid' ? [end.name] : [])));
  return [...ssids].every(
    ([segmentId, there]) =>
      !there.some(({ name }) => named.has(name)) ||
      (there.every(({ name }) => named.has(name)) && !cabled().has(segmentId)),
  );
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

/** What APs judge packets of each SSID's clients by, by the SSID's id; those without a list are left out. */
export function ssidLists(
  site: ResolvedSite,
  rules: readonly PlacedRule[],
  { names, clients }: Places,
  nameOf: (rule: Rule) => string,
): Map<string, SsidLists> {
  const own = rules.filter(({ places }) => places.includes('aps'));
  const lists = new Map<string, SsidLists>();
  if (own.length === 0) return lists;
  for (const ssid of site.ssids) {
    const addresses = segmentsOfSsid(ssid).flatMap((id) => clients.get(id) ?? []);
    const side = (near: 'from' | 'to'): PolicyRule[] => {
      const far = near === 'from' ? 'to' : 'from';
      return own.flatMap(({ rule, packets }) => {
        // Where clients of SSIDs are meant at the other end alone, the APs of those judge.
        if (areSsids(rule[far]) && !areSsids(rule[near])) return [];
        const ends = rule[near].filter((end) => end.kind !== 'ssid' || end.name === ssid.name);
        if (ends.length === 0) return [];
        const mine =
          ends.length === rule[near].length ? packets : resolveRules([{ ...rule, [near]: ends }], names).rules[0];
        const ranges = near === 'from' ? mine?.source : mine?.destination;
        if (!mine || (ranges && !ranges.some((range) => meets(range, addresses)))) return [];
        return [told(rule, mine, nameOf(rule))];
      });
    };
    const [from, to] = [side('from'), side('to')];
    if (from.length + to.length > 0) lists.set(ssid.id, { from: listOf(from), to: listOf(to) });
  }
  return lists;
}

const meets = (range: IpRange, others: readonly IpRange[]): boolean =>
  others.some((each) => each.version === range.version && each.first <= range.last && range.first <= each.last);
