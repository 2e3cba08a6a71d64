import {
  mergeRanges,
  parsePrefix,
  parseRange,
  PRIVATE_PREFIXES,
  rangeOf,
  subtractRanges,
  type IpRange,
  type IpVersion,
} from '../address';
import type { Flaw } from '../base';
import type { PacketRule } from './packet-rule';
import type { NamedSet, Rule, RuleEnd, RuleService } from './rule';
import type { PortSpan, Service } from './service';

/** What names in rules stand for. */
export interface RuleNames {
  /** Addresses of each segment, by name. */
  readonly segments: ReadonlyMap<string, readonly IpRange[]>;
  readonly sets: ReadonlyMap<string, NamedSet>;
  /** Addresses of what an SSID's clients join, by the SSID's name. */
  readonly ssids?: ReadonlyMap<string, readonly IpRange[]>;
  /** Addresses of what clients of an access class join, by its name. */
  readonly classes?: ReadonlyMap<string, readonly IpRange[]>;
  /** Addresses of devices by name; none for one that has no fixed address. */
  readonly devices?: ReadonlyMap<string, readonly IpRange[]>;
  readonly gateway?: readonly IpRange[];
  readonly controller?: readonly IpRange[];
}

/** What is wrong with one rule or one set. */
export interface RuleFlaw extends Flaw {
  /** Id of the rule or name of the set. */
  readonly of: string;
}

const range = (text: string): IpRange => rangeOf(parsePrefix(text)!);
const PRIVATE = PRIVATE_PREFIXES.map(rangeOf);
/** What no provider carries beside private space (RFC 6890 §2.2). Documentation space stands for public addresses in examples. */
const NEVER_OUTSIDE = [
  '0.0.0.0/8',
  '100.64.0.0/10',
  '127.0.0.0/8',
  '169.254.0.0/16',
  '192.0.0.0/24',
  '198.18.0.0/15',
  '224.0.0.0/3',
].map(range);
const WHOLE: Readonly<Record<IpVersion, IpRange>> = { 4: range('0.0.0.0/0'), 6: range('2000::/3') };

/** Reads a host, a prefix or a range. @returns null when it is none, or ends before it starts. */
export function readAddresses(text: string): IpRange | null {
  const prefix = text.includes('/') ? parsePrefix(text) : null;
  return prefix ? rangeOf(prefix) : text.includes('/') ? null : parseRange(text);
}

/** Reads a port or a range of ports. @returns null when it is none, or ends before it starts. */
export function readPorts(text: string): PortSpan | null {
  const match = /^\s*(\d{1,5})(?:\s*-\s*(\d{1,5}))?\s*$/.exec(text);
  if (!match) return null;
  const [first, last] = [Number(match[1]), Number(match[2] ?? match[1])];
  return first <= last && last <= 65_535 ? { first, last } : null;
}

/** What a set holds, with the sets it names. @returns a flaw where it holds itself, names none that is there, or cannot be read. */
export function contentOf(name: string, names: RuleNames): { addresses: IpRange[]; ports: PortSpan[] } | RuleFlaw {
  const [addresses, ports]: [IpRange[], PortSpan[]] = [[], []];
  const done = new Set<string>();
  const visit = (at: string, way: readonly string[]): RuleFlaw | null => {
    const flaw = (code: string, message: string, field: string): RuleFlaw => ({ of: at, code, message, field });
    if (way.includes(at))
      return flaw(
        'set.within-itself',
        `${at} contains itself: ${[...way.slice(way.indexOf(at)), at].join(' → ')}.`,
        'sets',
      );
    const set = names.sets.get(at);
    if (!set) return { of: way.at(-1) ?? at, code: 'set.unknown', message: `There is no set ${at}.`, field: 'sets' };
    if (done.has(at)) return null;
    for (const text of set.addresses ?? []) {
      const found = readAddresses(text.trim());
      if (!found) return flaw('set.address', `${text} is no address, prefix or range from low to high.`, 'addresses');
      addresses.push(found);
    }
    for (const text of set.ports ?? []) {
      const found = readPorts(text);
      if (!found) return flaw('set.port', `${text} is no port from 0 to 65535, nor a range from low to high.`, 'ports');
      ports.push(found);
    }
    for (const inner of set.sets ?? []) {
      const wrong = visit(inner, [...way, at]);
      if (wrong) return wrong;
    }
    done.add(at);
    return null;
  };
  return visit(name, []) ?? { addresses: mergeRanges(addresses), ports };
}

const NAMED = { segment: 'segments', ssid: 'ssids', class: 'classes', device: 'devices' } as const;
type NamedEnd = Extract<RuleEnd, { kind: keyof typeof NAMED }>;
const isNamed = (end: RuleEnd): end is NamedEnd => end.kind in NAMED;

/** Addresses of an end that a site knows by name: undefined where it has none of that name, null for other ends. */
export function addressesNamed(end: NamedEnd, names: RuleNames): readonly IpRange[] | undefined;
export function addressesNamed(end: RuleEnd, names: RuleNames): readonly IpRange[] | undefined | null;
export function addressesNamed(end: RuleEnd, names: RuleNames): readonly IpRange[] | undefined | null {
  return isNamed(end) ? names[NAMED[end.kind]]?.get(end.name) : null;
}

/** What to say of an end that exists and has no address. */
const NOWHERE: Readonly<
  Record<'segment' | 'ssid' | 'class' | 'device' | 'gateway' | 'controller', (name: string) => string>
> = {
  segment: (name: string) => `The segment ${name} has no addresses.`,
  ssid: (name: string) => `The SSID ${name} puts its clients into no segment here.`,
  class: (name: string) => `Clients of the class ${name} join no segment here.`,
  device: (name: string) =>
    `${name} has no address of its own. Give it a fixed one under Intake, reserve one, or name its address.`,
  gateway: () => 'No gateway routes a segment here.',
  controller: () => 'Where this controller answers is not known. Say it under Rules.',
};

/** What nobody on the internet has: private space, what no provider carries, and the estate’s own segments. */
export const neverOutside = ({ segments }: Pick<RuleNames, 'segments'>): readonly IpRange[] => [
  ...PRIVATE,
  ...NEVER_OUTSIDE,
  ...mergeRanges([...segments.values()].flat()),
];

/** Of some addresses, those that are on the internet. @param ranges null: all there are. */
export const thoseOutside = (ranges: readonly IpRange[] | null, names: Pick<RuleNames, 'segments'>): IpRange[] => {
  const inside = neverOutside(names);
  return (ranges ?? [WHOLE[4], WHOLE[6]]).flatMap((each) => subtractRanges(each, inside));
};

/** Rules with names put into addresses, or what is wrong with them; those that are off are left out. */
export function resolveRules(
  rules: readonly Rule[],
  names: RuleNames,
): { readonly rules: PacketRule[]; readonly flaws: RuleFlaw[] } {
  const internet = thoseOutside(null, names);
  const flaws: RuleFlaw[] = [];
  const resolved: PacketRule[] = [];
  const seen = new Set<string>();
  const merged = new Map<readonly IpRange[], readonly IpRange[]>();
  for (const rule of rules) {
    const before = flaws.length;
    const wrong = (code: string, message: string, field: string): void =>
      void flaws.push({ of: rule.id, code, message, field });
    if (seen.has(rule.id)) wrong('rule.twice', `There are two rules ${rule.id}.`, 'id');
    seen.add(rule.id);
    const addressesOf = (end: RuleEnd, field: string): readonly IpRange[] | null => {
      if (end.kind === 'any') return null;
      if (end.kind === 'private') return PRIVATE;
      if (end.kind === 'internet') return internet;
      if (end.kind === 'addresses') {
        const found = readAddresses(end.text);
        if (!found) wrong('rule.address', `${end.text} is no address, prefix or range from low to high.`, field);
        return found ? [found] : [];
      }
      if (isNamed(end)) {
        const found = addressesNamed(end, names);
        const word = end.kind === 'ssid' ? 'SSID' : end.kind;
        if (!found) wrong(`rule.${end.kind}`, `There is no ${word} ${end.name}.`, field);
        else if (found.length === 0) wrong(`rule.${end.kind}-nowhere`, NOWHERE[end.kind](end.name), field);
        return found ?? [];
      }
      if (end.kind === 'gateway' || end.kind === 'controller') {
        const found = names[end.kind] ?? [];
        if (found.length === 0) wrong(`rule.${end.kind}-nowhere`, NOWHERE[end.kind](''), field);
        return found;
      }
      const content = contentOf(end.name, names);
      if ('code' in content) {
        wrong(content.code, content.message, field);
        return [];
      }
      // Nothing is never taken for anything.
      if (content.addresses.length === 0)
        wrong('rule.empty-set', `The set ${end.name} holds no addresses: the rule would match nothing.`, field);
      return content.addresses;
    };
    const endOf = (ends: readonly RuleEnd[], field: string): readonly IpRange[] | null => {
      if (ends.length === 0) wrong('rule.no-end', 'Name at least one end, or any.', field);
      const lists = ends.map((end) => addressesOf(end, field));
      if (lists.includes(null)) return null;
      const [only, ...more] = lists;
      if (!only || more.length > 0) return mergeRanges(lists.flatMap((list) => list ?? []));
      // Most rules name one segment or set, which many others name too: it stays one list for all of them.
      let one = merged.get(only);
      if (!one) merged.set(only, (one = mergeRanges(only)));
      return one;
    };
    const [source, destination] = [endOf(rule.from, 'from'), endOf(rule.to, 'to')];
    const versions = (list: readonly IpRange[] | null): readonly IpVersion[] =>
      list === null ? [4, 6] : ([4, 6] as const).filter((version) => list.some((each) => each.version === version));
    if (flaws.length === before && !versions(source).some((version) => versions(destination).includes(version)))
      wrong('rule.mixed', 'One end is IPv4 and the other IPv6: no packet has both.', 'to');
    if (rule.services.length === 0) wrong('rule.no-service', 'Name at least one protocol, or any.', 'services');
    const services = servicesOf(rule.services, names, wrong);
    if (flaws.length === before && !rule.off)
      resolved.push({ id: rule.id, verdict: rule.verdict, source, destination, services });
  }
  return { rules: resolved, flaws };
}

/** Services that name no set and have no flaw: of a rule that sites share they are worked out once for all of them. */
const plain = new WeakMap<readonly RuleService[], readonly Service[]>();

function servicesOf(
  services: readonly RuleService[],
  names: RuleNames,
  wrong: (code: string, message: string, field: string) => void,
): readonly Service[] {
  const known = plain.get(services);
  if (known) return known;
  let flawed = false;
  const read = services.map((service) =>
    serviceOf(service, names, (...flaw) => {
      flawed = true;
      wrong(...flaw);
    }),
  );
  const named = services.some(({ ports = [], sourcePorts = [] }) =>
    [...ports, ...sourcePorts].some((text) => !/^[\s\d-]*$/.test(text)),
  );
  if (!flawed && !named) plain.set(services, read);
  return read;
}

function serviceOf(
  service: RuleService,
  names: RuleNames,
  wrong: (code: string, message: string, field: string) => void,
): Service {
  const { protocol, type, code } = service;
  const portsOf = (list: readonly string[] | undefined, field: string): readonly PortSpan[] | undefined => {
    if (!list) return undefined;
    const carries = protocol === 'any' || protocol === 'tcp' || protocol === 'udp' || protocol === 6 || protocol === 17;
    if (!carries) wrong('rule.portless', 'Only TCP and UDP have ports.', field);
    const spans = list.flatMap((text): readonly PortSpan[] => {
      const set = /^set\s+(.+)$/i.exec(text.trim());
      if (!set) {
        const found = readPorts(text);
        if (!found) wrong('rule.port', `${text} is no port from 0 to 65535, nor a range from low to high.`, field);
        return found ? [found] : [];
      }
      const content = contentOf(set[1]!, names);
      if ('code' in content) {
        wrong(content.code, content.message, field);
        return [];
      }
      if (content.ports.length === 0)
        wrong('rule.empty-set', `The set ${set[1]} holds no ports: the rule would match nothing.`, field);
      return content.ports;
    });
    if (list.length === 0) wrong('rule.no-port', 'Name at least one port, or leave ports out for all.', field);
    return spans;
  };
  if (type !== undefined && protocol !== 'icmp' && protocol !== 1 && protocol !== 58)
    wrong('rule.typeless', 'Only ICMP has types.', 'type');
  if (code !== undefined && type === undefined) wrong('rule.code', 'A code belongs to a type; name the type.', 'code');
  const ports = portsOf(service.ports, 'ports');
  const sourcePorts = portsOf(service.sourcePorts, 'sourcePorts');
  return {
    protocol,
    ...(ports ? { ports } : {}),
    ...(sourcePorts ? { sourcePorts } : {}),
    ...(type === undefined ? {} : { type }),
    ...(code === undefined ? {} : { code }),
  };
}
