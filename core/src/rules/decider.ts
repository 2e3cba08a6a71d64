import { fnv1a32, mix32, type IpVersion } from '../address';
import { Layers, VERSIONS } from './layers';
import { pointOf, type Packet, type PacketRule, type Verdict } from './packet-rule';
import { PacketSpace, type Diagram } from './space';

/** A space that has grown beyond this is left for a new one at the next change. */
const MOST_NODES = 3_000_000;
/** Values of the layers that tell verdicts alone. */
const [DENIED, ALLOWED] = [1, 2];
/** Value of packets that are not asked about; no rule has so great a number. */
const OTHERS = 2 ** 29;

/** What is kept of one IP version: which rule decides, and, with fewer differences and so quicker, what it decides. */
interface Half {
  readonly space: PacketSpace;
  readonly byRule: Layers;
  readonly byVerdict: Layers;
  /** From verdicts to the set of what is let through, by what happens to packets that no rule matches. */
  readonly through: Readonly<Record<Verdict, (diagram: Diagram) => Diagram>>;
}

/** Decides every packet by an ordered list of rules, the first that matches; a changed list costs what changed. */
export class Decider {
  private rules: readonly PacketRule[] = [];
  private ranked: readonly number[] | undefined;
  private readonly numbers = new Map<string, number>();
  private readonly byNumber: PacketRule[] = [];
  private readonly halves: Record<IpVersion, Half> = { 4: this.half(4), 6: this.half(6) };
  private decided: Partial<Record<IpVersion, Diagram>> = {};

  constructor(rules: readonly PacketRule[]) {
    this.replace(rules);
  }

  /** Takes another list in the place of this one. Rules that stay are the same objects. */
  replace(rules: readonly PacketRule[]): void {
    this.rules = rules;
    this.ranked = undefined;
    this.decided = {};
    for (const version of VERSIONS)
      if (this.halves[version].space.size > MOST_NODES) this.halves[version] = this.half(version);
  }

  private get ranks(): readonly number[] {
    return (this.ranked ??= this.rules.map(({ id }) =>
      mix32(fnv1a32(Uint8Array.from(id, (char) => char.charCodeAt(0) & 255))),
    ));
  }

  /** The rules in their order. */
  get list(): readonly PacketRule[] {
    return this.rules;
  }

  space = (version: IpVersion): PacketSpace => this.halves[version].space;

  /** Which rule decides each packet: the rule's number, 0 where none matches. Read numbers with `ruleOf`. */
  decisions(version: IpVersion): Diagram {
    return (this.decided[version] ??= this.halves[version].byRule.lay(this.rules, this.ranks));
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
    return this.ruleOf(this.space(version).at(this.decisions(version), pointOf(packet))) ?? null;
  }

  /** The packets that are let through. @param otherwise what happens to packets that no rule matches. */
  allowed(version: IpVersion, otherwise: Verdict): Diagram {
    const { byVerdict, through } = this.halves[version];
    return through[otherwise](byVerdict.lay(this.rules, this.ranks));
  }

  /** The packets a rule matches, whoever decides them. */
  matched(rule: PacketRule, version: IpVersion): Diagram {
    const { space, byRule } = this.halves[version];
    return space.map(byRule.diagramOf(rule), (value) => Number(value > 0));
  }

  /** The rules that decide packets which a rule matches, in the order of the list. */
  decidersOf(rule: PacketRule): PacketRule[] {
    const found = new Set(
      VERSIONS.flatMap((version) => {
        const { space } = this.halves[version];
        const others = space.map(space.subtract(space.all, this.matched(rule, version)), (value) =>
          value > 0 ? OTHERS : 0,
        );
        return [...space.values(space.overlay(others, this.decisions(version)))];
      }),
    );
    return this.rules.filter((each) => found.has(this.numberOf(each)));
  }

  /** Whether any packet is matched by both of two rules, whoever decides it. */
  overlap(a: PacketRule, b: PacketRule): boolean {
    return VERSIONS.some((version) => {
      const space = this.space(version);
      const [of, with_] = [this.matched(a, version), this.matched(b, version)];
      return space.subtract(of, with_) !== of;
    });
  }

  /** Whether a rule matches packets that no rule of the list does. */
  leaves(rule: PacketRule): boolean {
    return VERSIONS.some((version) => {
      const space = this.space(version);
      const taken = space.map(this.decisions(version), (value) => Number(value > 0));
      return space.subtract(this.matched(rule, version), taken) !== space.none;
    });
  }

  private half(version: IpVersion): Half {
    const space = new PacketSpace(version);
    return {
      space,
      byRule: new Layers(space, (rule) => this.numberOf(rule)),
      byVerdict: new Layers(space, ({ verdict }) => (verdict === 'allow' ? ALLOWED : DENIED)),
      through: {
        allow: space.mapper((value) => Number(value !== DENIED)),
        deny: space.mapper((value) => Number(value === ALLOWED)),
      },
    };
  }
}
