import {
  classOf,
  fnv1a32,
  formatPrefix,
  formatRange,
  givableAddresses,
  isVlanId,
  leaseTimers,
  mix32,
  murmur3,
  nextFreePrefix,
  overlaps,
  parseIp,
  parseMac,
  parsePrefix,
  parseRange,
  parseVlanList,
  pickFromPool,
  poolDemand,
  prefixInfo,
  rankPool,
  rangeOf,
  rangeToPrefixes,
  relationOf,
  subtractPrefixes,
  summarize,
  type FreePolicy,
  type IpAddress,
  type IpRange,
  type Prefix,
} from '../src/address';
import { lookUp, walkRoutes, type Route } from '../src/routing';
import {
  Decider,
  PORTED_END,
  addressSpans,
  deadRules,
  flowWorks,
  idleRules,
  readPorts,
  relationsOf,
  type PacketRule,
  type Service,
  type Verdict,
} from '../src/rules';
import { RADIO_ADAPTER } from './radio-adapter';
import { GUESTS_ADAPTER } from './guests-adapter';
import { PATHS_ADAPTER } from './paths-adapter';
import { RADIUS_ADAPTER } from './radius-adapter';
import { ROUTING_ADAPTER } from './routing-adapter';
import { TRAFFIC_ADAPTER } from './traffic-adapter';

const prefix = (text: string): Prefix => must(parsePrefix(text), text);
const ip = (text: string): IpAddress => must(parseIp(text), text);
const range = (text: string): IpRange => must(parseRange(text), text);
const bytes = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16));
const hex8 = (word: number): string => word.toString(16).padStart(8, '0');

function must<T>(value: T | null, text: string): T {
  if (value === null) throw new Error(`cannot read ${text}`);
  return value;
}

/** MACs from a first one on, `stride` apart. */
function* macs(first: string, count: number, stride: number): Generator<bigint> {
  const start = must(parseMac(first), first);
  for (let i = 0; i < count; i++) yield start + BigInt(i) * BigInt(stride);
}

function histogram(input: { first_mac: string; count: number; stride: number; pool: number[] }) {
  const counts = new Map(input.pool.map((id) => [id, 0]));
  for (const mac of macs(input.first_mac, input.count, input.stride)) {
    const id = pickFromPool(mac, input.pool)!;
    counts.set(id, counts.get(id)! + 1);
  }
  const expected = input.count / counts.size;
  const chi2 = [...counts.values()].reduce((sum, count) => sum + (count - expected) ** 2 / expected, 0);
  return { counts: [...counts.values()], chi2 };
}

function moved(input: { first_mac: string; count: number; stride: number; old: number[]; new: number[] }) {
  const result = { moved: 0, moved_between_kept: 0 };
  for (const mac of macs(input.first_mac, input.count, input.stride)) {
    const [before, after] = [pickFromPool(mac, input.old)!, pickFromPool(mac, input.new)!];
    if (before === after) continue;
    result.moved++;
    if (input.new.includes(before) && input.old.includes(after)) result.moved_between_kept++;
  }
  return result;
}

function givable(input: { subnet: string; gateway: string | null; reserved: string[] }) {
  const { ranges, capacity, defaultRange } = givableAddresses(
    prefix(input.subnet),
    input.gateway === null ? null : ip(input.gateway),
    input.reserved.map(range),
  );
  const text = defaultRange && formatRange(defaultRange);
  return { ranges: ranges.map(formatRange), capacity: Number(capacity), default_range: text };
}

function vlanList(text: string) {
  const list = parseVlanList(text);
  return list.ok ? { ok: true, count: list.ids.length, canonical: list.canonical } : list;
}

function poolPick(input: { mac: string; pool: number[] }) {
  const rank = rankPool(must(parseMac(input.mac), input.mac), input.pool);
  return { vid: rank[0]!.id, rank: rank.map(({ id }) => id), score_top: hex8(rank[0]!.score) };
}

interface AclRule {
  readonly action: Verdict;
  readonly src: string;
  readonly dst: string;
  readonly proto: 'any' | 'tcp' | 'udp' | 'icmp';
  readonly dport: string;
}

/** Rules of the vectors' universe: IPv4, with TCP, UDP and ICMP alone. */
function packetRules(list: readonly AclRule[]): PacketRule[] {
  const ends = (text: string) => [rangeOf(prefix(text === 'any' ? '0.0.0.0/0' : text))];
  return list.map(({ action, src, dst, proto, dport }, i) => {
    const ports = dport === 'any' ? null : dport.split(',').map((text) => must(readPorts(text), text));
    const protocols = proto !== 'any' ? [proto] : ports ? (['tcp', 'udp'] as const) : (['tcp', 'udp', 'icmp'] as const);
    const services = protocols.map((protocol): Service => ({ protocol, ...(ports ? { ports } : {}) }));
    return { id: String(i + 1), verdict: action, source: ends(src), destination: ends(dst), services };
  });
}

function countAllowed(input: { src_subnet: string; dst_subnet: string; default: Verdict; rules: AclRule[] }) {
  const rules = packetRules(input.rules);
  const decider = new Decider(rules);
  const space = decider.space(4);
  const spans = (text: string) => addressSpans(4, [rangeOf(prefix(text))]);
  // ICMP is one packet of each pair of addresses there.
  const services = [{ first: 0, end: PORTED_END + 1 }];
  const universe = space.box([spans(input.src_subnet), spans(input.dst_subnet), services, null]);
  const count = (set: number) => space.count(space.intersect(set, universe), (value) => value > 0, false);
  const decidedBy = (number: number) => count(space.map(decider.decisions(4), (value) => (value === number ? 1 : 0)));
  return {
    allowed: String(count(decider.allowed(4, input.default))),
    universe: String(space.count(universe, (value) => value > 0, false)),
    hits_per_rule: rules.map((rule) => String(decidedBy(decider.numberOf(rule)))),
    default_hits: String(decidedBy(0)),
  };
}

function anomalies(input: { rules: AclRule[]; default: Verdict }) {
  const rules = packetRules(input.rules);
  const decider = new Decider(rules);
  return {
    pairs: relationsOf(decider, rules).map(({ rule, by, kind }) => ({ rule: +rule.id, by: +by.id, type: kind })),
    dead_by_union: deadRules(decider, rules).map(({ id }) => +id),
    no_effect: idleRules(decider, rules, input.default).map(({ id }) => +id),
  };
}

function aclFlow(input: {
  rules: AclRule[];
  default: Verdict;
  src: string;
  dst: string;
  sport: number;
  dport: number;
  proto: 'tcp' | 'udp';
}) {
  const decider = new Decider(packetRules(input.rules));
  const packet = {
    version: 4 as const,
    source: ip(input.src).value,
    destination: ip(input.dst).value,
    protocol: { tcp: 6, udp: 17 }[input.proto],
    sourcePort: input.sport,
    port: input.dport,
  };
  const works = (stateful: boolean) => flowWorks(decider, packet, input.default, stateful);
  return { stateful: works(true), stateless: works(false) };
}

const route = (text: string, nextHop: string, more: Partial<Route> = {}): Route => ({
  prefix: prefix(text),
  nextHop,
  preference: 0,
  metric: 0,
  ...more,
});

function routeLookUp(input: {
  table: { prefix: string; nh: string; pref: number; metric: number; up?: boolean }[];
  dst: string;
}) {
  const table = input.table.map(({ prefix: text, nh, pref, metric, up }) =>
    route(text, nh, { preference: pref, metric, ...(up === undefined ? {} : { up }) }),
  );
  const found = lookUp(table, ip(input.dst));
  return { prefix: found.prefix && formatPrefix(found.prefix), next_hops: found.nextHops };
}

function routeWalk(input: { fibs: Record<string, [string, string][]>; src: string; dst: string }) {
  const tables = new Map(
    Object.entries(input.fibs).map(([name, list]) => [name, list.map(([text, next]) => route(text, next))]),
  );
  const { result, path, cycle } = walkRoutes(tables, input.src, ip(input.dst));
  return { result: result.replace('-', '_'), path, ...(cycle ? { cycle } : {}) };
}

/** Lets a function say what its vectors hold; the file's reader knows nothing of it. */
const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;

/** Test vector name → our function. A name that is not here is not implemented yet. */
export const ADAPTER: Readonly<Record<string, (input: never) => unknown>> = {
  'ip.prefix_info': on((i: { prefix: string }) => prefixInfo(prefix(i.prefix))),
  'ip.relation': on((i: { a: string; b: string }) => {
    const [a, b] = [prefix(i.a), prefix(i.b)];
    return { relation: relationOf(a, b), overlap: overlaps(a, b) };
  }),
  'ip.subtract': on((i: { from: string; minus: string[] }) => ({
    prefixes: subtractPrefixes(prefix(i.from), i.minus.map(prefix)).map(formatPrefix),
  })),
  'ip.summarize': on((i: { prefixes: string[] }) => ({
    prefixes: summarize(i.prefixes.map(prefix)).map(formatPrefix),
  })),
  'ip.range_to_prefixes': on((i: { first: string; last: string }) => {
    const [first, last] = [ip(i.first), ip(i.last)];
    const range = { version: first.version, first: first.value, last: last.value };
    return { prefixes: rangeToPrefixes(range).map(formatPrefix) };
  }),
  'ip.next_free': on((i: { parent: string; used: string[]; length: number; policy: FreePolicy }) => {
    const free = nextFreePrefix(prefix(i.parent), i.used.map(prefix), i.length, i.policy);
    return { prefix: free && formatPrefix(free) };
  }),
  'ip.dhcp_default': on(givable),
  'ip.lease_timers': on((i: { lease_s: number }) => {
    const { t1, t2 } = leaseTimers(i.lease_s);
    return { t1_s: t1, t2_s: t2 };
  }),
  'ip.pool_demand': on((i: { arrivals_per_h: number; stay_h: number; lease_h: number }) => {
    const { mean, size } = poolDemand(i.arrivals_per_h, i.stay_h, i.lease_h);
    return { mean, p3sigma: size };
  }),
  'ip.classify': on((i: { addr: string }) => ({ class: classOf(ip(i.addr)) })),
  'vlan.parse_list': on((i: { text: string }) => vlanList(i.text)),
  'vlan.valid_id': on((i: { vid: number }) => ({ valid: isVlanId(i.vid) })),
  'vlan.pool_pick': on(poolPick),
  'vlan.pool_histogram': on(histogram),
  'vlan.pool_moved': on(moved),
  'acl.count_allowed': on(countAllowed),
  'acl.anomalies': on(anomalies),
  'acl.flow_works': on(aclFlow),
  'route.lookup': on(routeLookUp),
  'route.walk': on(routeWalk),
  ...RADIO_ADAPTER,
  ...GUESTS_ADAPTER,
  ...ROUTING_ADAPTER,
  ...PATHS_ADAPTER,
  ...RADIUS_ADAPTER,
  ...TRAFFIC_ADAPTER,
  'hash.fnv1a32': on((i: { hex: string }) => ({ hash: hex8(fnv1a32(bytes(i.hex))) })),
  'hash.fnv1a32_fmix': on((i: { hex: string }) => ({ hash: hex8(mix32(fnv1a32(bytes(i.hex)))) })),
  'hash.murmur3_32': on((i: { hex: string; seed: number }) => ({ hash: hex8(murmur3(bytes(i.hex), i.seed)) })),
};
