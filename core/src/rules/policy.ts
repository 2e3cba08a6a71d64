import { formatIp, formatPrefix, formatRange, prefixOfRange, type IpRange } from '../address';
import { Decider } from './decider';
import type { PacketRule, Verdict } from './packet-rule';
import { readAddresses } from './resolve-rules';
import { readServices } from './rule-text';
import type { RuleService, WeekSpan } from './rule';
import type { PortSpan, Service } from './service';
import { appliesAtMoment, momentsOf, type When } from './moment';

/** What a device does with packets that pass it: the first rule that matches decides. */
export interface PolicyDocument {
  /** What happens to packets that no rule matches. */
  readonly otherwise: Verdict;
  readonly rules: readonly PolicyRule[];
}

/** One rule as a device is told it; every name is an address or a port by now. */
export interface PolicyRule {
  readonly id: string;
  /** For people who read the document. */
  readonly name: string;
  readonly verdict: Verdict;
  /** Prefixes and ranges, or `any`. An empty list matches nothing. */
  readonly from: readonly string[];
  readonly to: readonly string[];
  /** With ports for sets. */
  readonly services: readonly RuleService[];
  readonly times?: readonly WeekSpan[];
  /** Days on which it is not in force, such as `2026-12-25`. */
  readonly closed?: readonly string[];
  readonly log?: true;
}

/** A resolved rule as a device is told it. */
export function policyRule(
  rule: PacketRule,
  more: When & { readonly name: string; readonly log?: boolean | undefined },
): PolicyRule {
  const { id, verdict, source, destination, services } = rule;
  const made: PolicyRule = {
    id,
    name: more.name,
    verdict,
    from: rangesAsText(source),
    to: rangesAsText(destination),
    services: servicesAsTold(services),
    ...(more.times ? { times: more.times } : {}),
    ...(more.closed && more.closed.length > 0 ? { closed: more.closed } : {}),
    ...(more.log ? { log: true as const } : {}),
  };
  written.set(made, rule);
  return made;
}
/** What rules were written from: read again, they say the same. */
const written = new WeakMap<PolicyRule, PacketRule>();

const texts = new WeakMap<readonly IpRange[], readonly string[]>();
function rangesAsText(ranges: readonly IpRange[] | null): readonly string[] {
  if (ranges === null) return ['any'];
  let text = texts.get(ranges);
  if (!text) texts.set(ranges, (text = ranges.map(rangeAsText)));
  return text;
}

/** A range as a host, a prefix where it is one, or first and last. */
export function rangeAsText(range: IpRange): string {
  if (range.first === range.last) return formatIp({ version: range.version, value: range.first });
  const prefix = prefixOfRange(range);
  return prefix ? formatPrefix(prefix) : formatRange(range);
}

const portText = ({ first, last }: PortSpan): string => (first === last ? `${first}` : `${first}-${last}`);

const told = new WeakMap<readonly Service[], readonly RuleService[]>();
function servicesAsTold(services: readonly Service[]): readonly RuleService[] {
  let made = told.get(services);
  if (!made) told.set(services, (made = services.map(asTold)));
  return made;
}

function asTold({ ports, sourcePorts, ...service }: Service): RuleService {
  return {
    ...service,
    ...(ports ? { ports: ports.map(portText) } : {}),
    ...(sourcePorts ? { sourcePorts: sourcePorts.map(portText) } : {}),
  };
}

/** A rule of a document as packets are held against it. @throws RangeError when it is none. */
export function packetRuleOf(rule: PolicyRule): PacketRule {
  let read = written.get(rule);
  if (!read) written.set(rule, (read = readRule(rule)));
  return read;
}

function readRule({ id, verdict, from, to, services }: PolicyRule): PacketRule {
  const ranges = (texts: readonly string[]): readonly IpRange[] | null =>
    texts.includes('any')
      ? null
      : texts.map((text) => {
          const range = readAddresses(text);
          if (!range) throw new RangeError(`rule ${id}: ${text} is no address`);
          return range;
        });
  // Documents of earlier versions said services as text.
  const told = (services as readonly (RuleService | string)[]).flatMap((service) => {
    if (typeof service !== 'string') return [service];
    const read = readServices(service);
    if (read.bad.length > 0) throw new RangeError(`rule ${id}: ${service} is no service`);
    return read.services;
  });
  const spans = (texts: readonly string[]): PortSpan[] =>
    texts.map((text) => {
      const [first, last = first] = text.split('-').map(Number) as [number, number?];
      return { first, last };
    });
  return {
    id,
    verdict,
    source: ranges(from),
    destination: ranges(to),
    services: told.map(({ ports, sourcePorts, ...service }) => ({
      ...service,
      ...(ports ? { ports: spans(ports) } : {}),
      ...(sourcePorts ? { sourcePorts: spans(sourcePorts) } : {}),
    })),
  };
}

/** A policy that can be asked. */
export interface OpenPolicy {
  readonly policy: PolicyDocument;
  /** A moment for each different set of rules in force; see `momentOn`. */
  readonly moments: readonly number[];
  /** Decides as at a moment. */
  readonly at: (moment: number) => Decider;
}

/** Rules and deciders of one policy that is edited again and again. */
interface Page {
  rules: ReadonlyMap<string, PacketRule>;
  deciders: Map<string, Decider>;
}

/** Policies that were asked last, so that one that is edited costs what changed. */
export class PolicyBook {
  private readonly pages = new Map<string, Page>();

  /** @param most policies that are kept; none: what is asked is asked once. */
  constructor(private readonly most = 16) {}

  /** Whether it knows a policy from before. */
  has = (key: string): boolean => this.pages.has(key);

  /** @param key what stays the same while the policy is edited, such as the site's id. */
  open(key: string, policy: PolicyDocument): OpenPolicy {
    const page: Page = this.pages.get(key) ?? { rules: new Map(), deciders: new Map() };
    this.pages.delete(key);
    this.pages.set(key, page);
    if (this.pages.size > this.most) this.pages.delete(this.pages.keys().next().value!);
    let list: readonly PacketRule[];
    if (this.most === 0) list = policy.rules.map(packetRuleOf);
    else {
      const rules = new Map(
        policy.rules.map((rule): [string, PacketRule] => {
          const text = JSON.stringify(rule);
          return [text, page.rules.get(text) ?? packetRuleOf(rule)];
        }),
      );
      list = [...rules.values()];
      page.rules = rules;
    }
    const open = new Map<string, Decider>();
    const former = page.deciders;
    page.deciders = open;
    const moments = momentsOf(policy.rules);
    const at = (moment: number): Decider => {
      const inForce = list.filter((_, i) => appliesAtMoment(policy.rules[i]!, moment));
      const which = inForce.length === list.length ? 'all' : inForce.map(({ id }) => id).join('\n');
      let decider = open.get(which);
      if (decider) return decider;
      decider = former.get(which);
      if (decider) decider.replace(inForce);
      else decider = new Decider(inForce);
      open.set(which, decider);
      return decider;
    };
    return { policy, moments, at };
  }
}
