import { meetsAny } from '../../address';
import type { SsidLists } from '../../document';
import {
  policyRule,
  resolveRules,
  type PacketRule,
  type PolicyDocument,
  type PolicyRule,
  type Rule,
  type RulePlace,
  type When,
} from '../../rules';
import type { Attached } from './attached';
import { areAttached, means, put, type RulePlaces } from './rule-place';

/** A rule and what it comes to. */
export interface PlacedRule {
  readonly rule: Rule;
  readonly packets: PacketRule;
  /** When it is in force. */
  readonly when: When;
  readonly places: readonly RulePlace[];
}

const listOf = (rules: readonly PolicyRule[]): PolicyDocument => ({ otherwise: 'allow', rules });
const told = ({ rule, when }: PlacedRule, packets: PacketRule, name: string): PolicyRule =>
  policyRule(packets, { name, ...when, log: rule.log });

/** What switches judge each packet by; undefined where they have nothing to judge by. */
export function switchList(rules: readonly PlacedRule[], nameOf: (rule: Rule) => string): PolicyDocument | undefined {
  const own = rules.filter(({ places }) => places.includes('switches'));
  return own.length > 0 ? listOf(own.map((each) => told(each, each.packets, nameOf(each.rule)))) : undefined;
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
  { names, clients, aired }: RulePlaces,
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
    return own.flatMap((each) => {
      const { rule, packets } = each;
      // Where clients that are attached in some way are meant at the other end alone, the APs of those judge.
      if (areAttached(rule[far]) && !areAttached(rule[near])) return [];
      const ends = rule[near].filter((end) => means(end, way));
      if (ends.length === 0) return [];
      const mine =
        ends.length === rule[near].length ? packets : resolveRules([{ ...rule, [near]: ends }], names).rules[0];
      const ranges = near === 'from' ? mine?.source : mine?.destination;
      if (!mine || (ranges && !ranges.some((range) => meetsAny(range, addresses)))) return [];
      return [told(each, mine, nameOf(rule))];
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
