import {
  formatIp,
  formatPrefix,
  formatRange,
  mergeRanges,
  nextFreePrefix,
  parsePrefix,
  rangeOf,
  usableHosts,
  type IpRange,
  type Prefix,
} from '../address';
import { flaw, type Flaw } from '../base';
import {
  apply,
  type Intent,
  type KeptGuarantee,
  type KeptSet,
  type Operation,
  type Recipe,
  type Segment,
  type SitePart,
} from '../intent';
import type { RuleService } from '../rules';
import { blockOf } from './recipe-stamp';
import { POOLS, proposeAddresses } from './segment-proposal';

/** Segments that keys of a ring are to lead to. */
export interface RingSegmentsAsked {
  readonly ssidId: string;
  /** Each once; one that the site has stays as it is. */
  readonly rows: readonly { readonly name: string; readonly vlan: number }[];
  /** How new ones are: their length, lease, domain and purpose; null: /24, eight hours. */
  readonly recipe: Recipe | null;
  /** Bits of each subnet, where no recipe says it. */
  readonly length: number;
}

export interface RingSegmentRow {
  readonly name: string;
  readonly vlan: number;
  readonly does: 'there' | 'add' | 'refused';
  readonly subnet: string;
  readonly flaws: readonly Flaw[];
}

/** What it comes to: each row, and the edits that it takes, those that keep new segments from each other included. */
export interface RingSegments {
  readonly rows: readonly RingSegmentRow[];
  readonly operations: readonly Operation[];
  /** What is done beside the segments, in sentences. */
  readonly beside: readonly string[];
}

/** What a gateway gives: names and addresses (DNS, DHCP, DHCPv6). */
const GIVEN: RuleService[] = [
  { protocol: 'udp', ports: ['53', '67', '547'] },
  { protocol: 'tcp', ports: ['53'] },
];
const LEASE_SECONDS = 8 * 3600;

/**
 * Works out the segments that keys of a ring lead to at a site: each with a subnet of the address plan, named by the SSID, and those that
 * are new kept from each other, with a guarantee that says so.
 * @param idFor makes an id for whatever is new.
 */
export function segmentsForKeys(
  intent: Intent,
  siteId: string,
  { ssidId, rows, recipe, length }: RingSegmentsAsked,
  idFor: () => string,
): RingSegments | null {
  const site = intent.sites.get(siteId);
  const ssid = intent.estate.ssids.find(({ id }) => id === ssidId);
  if (!site || !ssid) return null;
  const there = new Map(site.segments.map((segment) => [segment.name.toLowerCase(), segment]));
  const vlans = new Map(site.segments.map(({ vlan, name }) => [vlan, name]));
  const used = [...intent.sites.values()].flatMap((each) => each.segments.map(({ subnet }) => parsePrefix(subnet)!));
  const bits = recipe?.length ?? length;
  // Where the site's own block is full, private space goes on.
  const parents = recipe?.parent ? [parsePrefix(recipe.parent)!] : [blockOf(site) ?? [], POOLS].flat();
  const added: Segment[] = [];
  const seen = rows.map(({ name, vlan }): RingSegmentRow => {
    const base = { name, vlan };
    const known = there.get(name.toLowerCase());
    if (known) {
      const other = flaw('ring.segment-vlan', `${known.name} is VLAN ${known.vlan} here; its keys lead there.`);
      return { ...base, does: 'there', subnet: known.subnet, flaws: known.vlan === vlan ? [] : [other] };
    }
    const refused = (code: string, words: string): RingSegmentRow => ({
      ...{ ...base, does: 'refused', subnet: '', flaws: [flaw(code, words)] },
    });
    if (!Number.isInteger(vlan) || vlan < 1 || vlan > 4094)
      return refused('ring.segment-range', `A VLAN ID lies between 1 and 4094; ${vlan} does not.`);
    const taken = vlans.get(vlan);
    if (taken !== undefined) return refused('ring.segment-taken', `VLAN ${vlan} is ${taken} here.`);
    const subnet = freeIn(parents, used, bits, vlan);
    if (!subnet)
      return refused('ring.segment-space', `No /${bits} is free in ${parents.map(formatPrefix).join(', ')}.`);
    used.push(subnet);
    vlans.set(vlan, name);
    const segment = segmentOf(idFor(), name, vlan, subnet, recipe);
    there.set(name.toLowerCase(), segment);
    added.push(segment);
    return { ...base, does: 'add', subnet: segment.subnet, flaws: [] };
  });
  const refused = refusedOf(intent, siteId, added);
  const kept = added.filter(({ name }) => !refused.has(name));
  const told = seen.map((row) => {
    const flaws = row.does === 'add' ? refused.get(row.name) : undefined;
    return flaws ? { ...row, does: 'refused' as const, flaws } : row;
  });
  const { operations, beside } = keptApart(intent, site, ssid.name, kept, idFor);
  const adding = kept.map((segment) => addOf(siteId, segment));
  return { rows: told, operations: [...adding, ...namedBy(ssid, told), ...operations], beside };
}

const addOf = (siteId: string, segment: Segment): Operation => ({ type: 'segment.add', siteId, segment });

function segmentOf(id: string, name: string, vlan: number, subnet: Prefix, recipe: Recipe | null): Segment {
  const gateway = { version: subnet.version, value: usableHosts(subnet).first };
  const lease = recipe ? recipe.leaseSeconds : LEASE_SECONDS;
  const range = lease === null ? null : proposeAddresses(subnet, gateway);
  return {
    ...{ id, name, vlan, subnet: formatPrefix(subnet), gateway: formatIp(gateway) },
    addresses: range && { ...range, leaseSeconds: lease! },
    ...(recipe?.domain ? { domain: recipe.domain } : {}),
    ...(recipe?.purpose ? { purpose: recipe.purpose } : {}),
  };
}

/** With the VLAN ID as third octet where that is free, else the next that is. */
function freeIn(parents: readonly Prefix[], used: readonly Prefix[], bits: number, vlan: number): Prefix | null {
  const [parent] = parents;
  if (bits === 24 && vlan <= 255 && parent?.version === 4 && parent.length <= 16) {
    const wanted = { version: 4 as const, network: parent.network + (BigInt(vlan) << 8n), length: 24 };
    const [first, last] = [wanted.network, wanted.network + 255n];
    const meets = used.some((each) => {
      const { first: from, last: to } = rangeOf(each);
      return each.version === 4 && from <= last && to >= first;
    });
    if (!meets) return wanted;
  }
  for (const each of parents) {
    const free = nextFreePrefix(each, used, bits);
    if (free) return free;
  }
  return null;
}

/** New segments that the site does not take, by name, with why. */
function refusedOf(intent: Intent, siteId: string, added: readonly Segment[]): ReadonlyMap<string, readonly Flaw[]> {
  let now = intent;
  const refused = new Map<string, readonly Flaw[]>();
  for (const segment of added) {
    const result = apply(now, addOf(siteId, segment), () => undefined);
    if (result.ok) now = result.intent;
    else refused.set(segment.name, result.flaws);
  }
  return refused;
}

/** The edit that names the segments among those that keys of the ring lead to. */
function namedBy(ssid: Intent['estate']['ssids'][number], rows: readonly RingSegmentRow[]): Operation[] {
  const named = new Set((ssid.ring ?? []).map((name) => name.toLowerCase()));
  const more = rows.filter(({ name, does }) => does !== 'refused' && !named.has(name.toLowerCase()));
  if (more.length === 0) return [];
  const ring = [...(ssid.ring ?? []), ...more.map(({ name }) => name)];
  return [{ type: 'ssid.set', ssidId: ssid.id, from: { ring: ssid.ring ?? null }, to: { ring } }];
}

/** What keeps new segments from each other: a set of their addresses, a rule and a guarantee; a set that there is grows. */
function keptApart(
  { estate }: Intent,
  site: SitePart,
  ssidName: string,
  added: readonly Segment[],
  idFor: () => string,
): Omit<RingSegments, 'rows'> {
  if (added.length === 0) return { operations: [], beside: [] };
  const siteId = site.id;
  const name = `${ssidName} segments`;
  const old = [...(site.sets ?? []), ...(estate.sets ?? [])].find((set) => set.name === name);
  const ranges = added.map(({ subnet }) => rangeOf(parsePrefix(subnet)!));
  if (old?.addresses && site.sets?.includes(old)) {
    const from = old.addresses;
    const to = [...from, ...texts(ranges)];
    return {
      operations: [{ type: 'set.set', setId: old.id, siteId, from: { addresses: from }, to: { addresses: to } }],
      beside: [`They join “${name}”, which is kept apart already.`],
    };
  }
  const set: KeptSet = { id: idFor(), name, addresses: texts(ranges) };
  const end = [{ kind: 'set' as const, name }];
  const any = [{ protocol: 'any' as const }];
  const gateway = [{ kind: 'gateway' as const }];
  const rules = [
    // The gateway's own addresses lie among those of the segments.
    {
      ...{ id: idFor(), verdict: 'allow' as const, from: end, to: gateway, services: GIVEN },
      comment: `${name} are given addresses and names`,
    },
    {
      ...{ id: idFor(), verdict: 'deny' as const, from: end, to: end, services: any },
      comment: `${name} are kept from each other`,
    },
  ];
  const guarantee: KeptGuarantee = {
    ...{ id: idFor(), kind: 'never', from: end, to: end, services: any, besides: gateway, apart: true },
  };
  return {
    operations: [
      { type: 'set.add', siteId, set },
      { type: 'rule.add', siteId, rules, behind: null },
      { type: 'guarantee.add', siteId, guarantee },
    ],
    beside: [
      `A set “${name}” has their addresses.`,
      `Two rules, the first of ${site.name}: they are given addresses and names, and none of them reaches another.`,
      'A guarantee says so, and is proven with every edit from now on.',
    ],
  };
}

const texts = (ranges: readonly IpRange[]): string[] => mergeRanges([...ranges]).map(formatRange);
