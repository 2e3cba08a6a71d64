import { fnv1a32, mix32, type IpVersion } from '../address';
import { boxesOf, pointOf, type Packet, type PacketRule } from './packet-rule';
import { PacketSpace, type Diagram } from './space';

/** A space that has grown beyond this is left for a new one at the next change. */
const MOST_NODES = 3_000_000;

/**
 * Decides every packet by an ordered list of rules. The list is parted again and again and the parts laid over each
 * other; what was laid before is known, so that a changed rule costs the parts it lies in.
 */
export class Decider {
  private rules: readonly PacketRule[] = [];
  private ranks: readonly number[] = [];
  /** A rule is known by its content; two that say the same are still two. */
  private readonly numbers = new Map<string, number>();
  private readonly byNumber: PacketRule[] = [];
  private readonly spaces: Record<IpVersion, PacketSpace> = { 4: new PacketSpace(4), 6: new PacketSpace(6) };
  private readonly own: Record<IpVersion, Map<PacketRule, Diagram>> = { 4: new Map(), 6: new Map() };
  private roots: Partial<Record<IpVersion, Diagram>> = {};

  constructor(rules: readonly PacketRule[]) {
    this.replace(rules);
  }

  /** Takes another list in the place of this one. Rules that stay are the same objects. */
  replace(rules: readonly PacketRule[]): void {
    this.rules = rules;
    this.ranks = rules.map(({ id }) => mix32(fnv1a32(new TextEncoder().encode(id))));
    this.roots = {};
    for (const version of [4, 6] as const) {
      if (this.spaces[version].size > MOST_NODES) {
        this.spaces[version] = new PacketSpace(version);
        this.own[version].clear();
      }
      const kept = new Set(rules);
      for (const rule of this.own[version].keys()) if (!kept.has(rule)) this.own[version].delete(rule);
    }
  }

  space = (version: IpVersion): PacketSpace => this.spaces[version];

  /** Which rule decides each packet: the rule's number, 0 where none matches. Read numbers with `ruleOf`. */
  decisions(version: IpVersion): Diagram {
    return (this.roots[version] ??= this.laid(version, 0, this.rules.length));
  }

  /** The rule with a number; undefined for 0. */
  ruleOf = (number: number): PacketRule | undefined => this.byNumber[number];

  /** The number of a rule in the diagrams of decisions. */
  numberOf(rule: PacketRule): number {
    let number = this.numbers.get(rule.id);
    if (number === undefined) this.numbers.set(rule.id, (number = this.numbers.size + 1));
    this.byNumber[number] = rule;
    return number;
  }

  /** The rule that decides a packet; null where none matches. */
  decide(packet: Packet): PacketRule | null {
    const { version } = packet;
    return this.ruleOf(this.spaces[version].at(this.decisions(version), pointOf(packet))) ?? null;
  }

  /** The packets that are let through. @param otherwise what happens to packets that no rule matches. */
  allowed(version: IpVersion, otherwise: PacketRule['verdict']): Diagram {
    return this.spaces[version].map(this.decisions(version), (number) =>
      (this.ruleOf(number)?.verdict ?? otherwise) === 'allow' ? 1 : 0,
    );
  }

  /** The packets a rule matches, whoever decides them. */
  matched(rule: PacketRule, version: IpVersion): Diagram {
    const number = this.numberOf(rule);
    return this.spaces[version].map(this.diagramOf(rule, version), (value) => (value === number ? 1 : 0));
  }

  /**
   * A stretch of the list in one diagram: what stands before a rule over it, and that over what stands behind. The
   * rule is the one with the least rank, so that inserting or taking out another leaves most stretches as they were.
   */
  private laid(version: IpVersion, first: number, end: number): Diagram {
    const space = this.spaces[version];
    if (end === first) return space.none;
    let middle = first;
    for (let i = first + 1; i < end; i++) if (this.ranks[i]! < this.ranks[middle]!) middle = i;
    const own = this.diagramOf(this.rules[middle]!, version);
    const before = space.overlay(this.laid(version, first, middle), own);
    return space.overlay(before, this.laid(version, middle + 1, end));
  }

  private diagramOf(rule: PacketRule, version: IpVersion): Diagram {
    const known = this.own[version].get(rule);
    const number = this.numberOf(rule);
    if (known !== undefined) return known;
    const space = this.spaces[version];
    const made = boxesOf(rule, version).reduce<Diagram>(
      (sum, box) => space.overlay(sum, space.box(box, number)),
      space.none,
    );
    this.own[version].set(rule, made);
    return made;
  }
}
