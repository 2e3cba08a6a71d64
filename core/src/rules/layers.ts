import type { IpVersion } from '../address';
import { boxesOf, type PacketRule } from './packet-rule';
import type { Diagram, PacketSpace } from './space';

/**
 * An ordered list of rules laid over each other in one space: each packet has the value of the first rule that matches
 * it, or 0. The list is parted again and again; what was laid before is known, so that a changed rule costs the parts
 * it lies in.
 */
export class Layers {
  private readonly own = new Map<PacketRule, Diagram>();

  /** @param value of a rule, from 1 on; the same for as long as the rule is the same object. */
  constructor(
    private readonly space: PacketSpace,
    private readonly value: (rule: PacketRule) => number,
  ) {}

  /** @param ranks a number for each rule that stays with it wherever it stands. */
  lay(rules: readonly PacketRule[], ranks: readonly number[]): Diagram {
    const kept = new Set(rules);
    for (const rule of this.own.keys()) if (!kept.has(rule)) this.own.delete(rule);
    return this.laid(rules, ranks, 0, rules.length);
  }

  /** The packets of one rule, with its value. */
  diagramOf(rule: PacketRule): Diagram {
    let made = this.own.get(rule);
    if (made === undefined) {
      const { space } = this;
      const value = this.value(rule);
      const boxes = boxesOf(rule, space.version);
      made = boxes.reduce<Diagram>((sum, box) => space.overlay(sum, space.box(box, value)), space.none);
      this.own.set(rule, made);
    }
    return made;
  }

  /**
   * A stretch of the list in one diagram: what stands before a rule over it, and that over what stands behind. The
   * rule is the one with the least rank, so that inserting or taking out another leaves most stretches as they were.
   */
  private laid(rules: readonly PacketRule[], ranks: readonly number[], first: number, end: number): Diagram {
    const { space } = this;
    if (end === first) return space.none;
    let middle = first;
    for (let i = first + 1; i < end; i++) if (ranks[i]! < ranks[middle]!) middle = i;
    const before = space.overlay(this.laid(rules, ranks, first, middle), this.diagramOf(rules[middle]!));
    return space.overlay(before, this.laid(rules, ranks, middle + 1, end));
  }
}

/** Versions a rule may say something of. */
export const VERSIONS: readonly IpVersion[] = [4, 6];
