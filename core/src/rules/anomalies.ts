import type { IpVersion } from '../address';
import type { Decider } from './decider';
import { VERSIONS } from './layers';
import type { PacketRule, Verdict } from './packet-rule';
import type { Diagram } from './space';

/**
 * How a later rule stands to an earlier one (Al-Shaer and Hamed, INFOCOM 2004). `shadowed`: the earlier takes all its
 * packets and does the opposite. `redundant`: another rule does the same with all its packets. `generalization`: it
 * does the opposite for more packets, which is how exceptions are written. `correlated`: they share some packets and
 * do the opposite, so that their order matters.
 */
export type RelationKind = 'shadowed' | 'redundant' | 'generalization' | 'correlated';
/** `rule` is what the word is said of. */
export interface RuleRelation {
  readonly rule: PacketRule;
  readonly by: PacketRule;
  readonly kind: RelationKind;
}

/** Sets of both IP versions side by side. */
type Both = Readonly<Record<IpVersion, Diagram>>;

/** Every pair of rules that get in each other's way, in the order of the list. */
export function relationsOf(decider: Decider, rules: readonly PacketRule[]): RuleRelation[] {
  const sets = rules.map((rule): Both => ({ 4: decider.matched(rule, 4), 6: decider.matched(rule, 6) }));
  const every = (test: (version: IpVersion) => boolean): boolean => VERSIONS.every(test);
  const disjoint = (a: Both, b: Both): boolean =>
    every((version) => decider.space(version).intersect(a[version], b[version]) === decider.space(version).none);
  const within = (a: Both, b: Both): boolean =>
    every((version) => decider.space(version).subtract(a[version], b[version]) === decider.space(version).none);
  const isEmpty = (set: Both): boolean => every((version) => set[version] === decider.space(version).none);
  const found: RuleRelation[] = [];
  const empty = sets.map(isEmpty);
  for (let j = 1; j < rules.length; j++)
    for (let i = 0; i < j; i++) {
      const [x, y] = [rules[i]!, rules[j]!];
      const [earlier, later] = [sets[i]!, sets[j]!];
      if (empty[i] || empty[j] || apart(x, y) || disjoint(earlier, later)) continue;
      const same = x.verdict === y.verdict;
      if (within(later, earlier)) found.push({ rule: y, by: x, kind: same ? 'redundant' : 'shadowed' });
      else if (within(earlier, later)) {
        if (!same) found.push({ rule: y, by: x, kind: 'generalization' });
        else if (!between(i, j, (k) => rules[k]!.verdict !== x.verdict && !disjoint(sets[k]!, earlier)))
          found.push({ rule: x, by: y, kind: 'redundant' });
      } else if (!same) found.push({ rule: y, by: x, kind: 'correlated' });
    }
  return found;
}

function between(first: number, last: number, holds: (at: number) => boolean): boolean {
  for (let at = first + 1; at < last; at++) if (holds(at)) return true;
  return false;
}

/** Whether two rules are seen to share no packet by their ends alone; quicker than asking the sets. Asked of each pair of hundreds. */
const apart = (a: PacketRule, b: PacketRule): boolean =>
  areClear(a.source, b.source) || areClear(a.destination, b.destination);

function areClear(one: PacketRule['source'], other: PacketRule['source']): boolean {
  if (one === null || other === null) return false;
  for (const x of one)
    for (const y of other) if (x.version === y.version && x.first <= y.last && y.first <= x.last) return false;
  return true;
}

/** Rules that decide no packet at all, because earlier ones together take all of theirs. */
export function deadRules(decider: Decider, rules: readonly PacketRule[]): PacketRule[] {
  const deciding = new Set(
    VERSIONS.flatMap((version) => [...decider.space(version).values(decider.decisions(version))]),
  );
  return rules.filter((rule) => !deciding.has(decider.numberOf(rule)));
}

/** Rules that could each be taken out alone without any packet being decided otherwise. */
export function idleRules(decider: Decider, rules: readonly PacketRule[], otherwise: Verdict): PacketRule[] {
  const idle = new Set(rules);
  for (const version of VERSIONS) {
    const space = decider.space(version);
    const decisions = decider.decisions(version);
    /** Packets that the rules behind let through. */
    let behind = otherwise === 'allow' ? space.all : space.none;
    for (const rule of [...rules].reverse()) {
      const own = decider.matched(rule, version);
      const number = decider.numberOf(rule);
      if (idle.has(rule)) {
        const decided = space.map(decisions, (value) => (value === number ? 1 : 0));
        const changed = rule.verdict === 'allow' ? space.subtract(decided, behind) : space.intersect(decided, behind);
        if (changed !== space.none) idle.delete(rule);
      }
      behind = rule.verdict === 'allow' ? space.unite(behind, own) : space.subtract(behind, own);
    }
  }
  return rules.filter((rule) => idle.has(rule));
}
