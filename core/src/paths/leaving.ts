/** One of the uplinks that a gateway uses together. */
export interface TogetherUplink {
  readonly port: string;
  readonly weight: number;
  /** Its turn among those that stand by; null: it shares. */
  readonly standby: number | null;
  /** Those that it stands by for; absent: for all that share. */
  readonly instead?: readonly string[];
}
/** How they are used together. */
export interface TogetherRule {
  /** A standby begins when any of those that share fails, or when all have. */
  readonly begins: 'any' | 'all';
  /** Seconds after which one that is good again is used again; or only when somebody says so, or not before it is told something new. */
  readonly back: number | 'hand' | 'never';
}

/** An uplink that is used now, and its weight among those that are. */
export interface UsedUplink {
  readonly port: string;
  readonly weight: number;
}

/**
 * Which uplinks a gateway uses, from what is known of each: those that share while they are good; a standby by its turn when any or all of them
 * are not; and one that came back not before its time. Where nothing else is left, whatever is good is used, and where nothing is good, whatever
 * has a link: it may be the questions that go unanswered.
 */
export class Together {
  /** Those that are good. */
  private readonly good = new Set<string>();
  /** Those that have a link and an address. */
  private readonly linked = new Set<string>();
  /** Those that were gone and are not used again yet; when they may be, in milliseconds since 1970; null: not by themselves. */
  private readonly waits = new Map<string, number | null>();

  constructor(
    private readonly uplinks: readonly TogetherUplink[],
    private readonly rule: TogetherRule,
  ) {
    for (const { port } of uplinks) {
      this.good.add(port);
      this.linked.add(port);
    }
  }

  /** What became of an uplink. @param at in milliseconds since 1970. */
  told(port: string, good: boolean, at: number): void {
    if (good === this.good.has(port)) return;
    if (!good) {
      this.good.delete(port);
      this.waits.delete(port);
      return;
    }
    this.good.add(port);
    const { back } = this.rule;
    this.waits.set(port, typeof back === 'number' ? at + back * 1000 : null);
  }

  /** Whether an uplink has a link and an address. */
  link(port: string, up: boolean): void {
    if (up) this.linked.add(port);
    else this.linked.delete(port);
  }

  /** Somebody says that those that are good are used again. */
  bringBack(): void {
    this.waits.clear();
  }

  /** Those that are good and not used again yet. */
  waiting(at: number): readonly string[] {
    return this.uplinks.flatMap(({ port }) => (this.good.has(port) && !this.isUsable(port, at) ? [port] : []));
  }

  /** When one is used again by itself; null: none is. */
  due(at: number): number | null {
    const times = [...this.waits.values()].filter((until): until is number => until !== null && until > at);
    return times.length > 0 ? Math.min(...times) : null;
  }

  /** Those that are used. @param at in milliseconds since 1970. */
  used(at: number): readonly UsedUplink[] {
    const usable = this.uplinks.filter(({ port }) => this.isUsable(port, at));
    const sharing = usable.filter(({ standby, weight }) => standby === null && weight > 0);
    const wanted = this.uplinks.filter(({ standby, weight }) => standby === null && weight > 0);
    const isUsed = (port: string): boolean => sharing.some((each) => each.port === port);
    const begins = ({ instead }: TogetherUplink): boolean => {
      const of = instead ?? wanted.map(({ port }) => port);
      const left = of.filter(isUsed).length;
      return this.rule.begins === 'any' ? left < of.length : left === 0;
    };
    const [first] = usable
      .filter((each) => each.standby !== null && begins(each))
      .sort((a, b) => a.standby! - b.standby! || this.uplinks.indexOf(a) - this.uplinks.indexOf(b));
    const used = first ? [...sharing, first] : sharing;
    if (used.length > 0) return used.map(({ port, weight }) => ({ port, weight: weight || 1 }));
    const lastOf = (some: ReadonlySet<string>): TogetherUplink | undefined => {
      const left = this.uplinks.filter(({ port }) => some.has(port));
      return left.find(({ standby }) => standby === null) ?? left[0];
    };
    const best = lastOf(this.good) ?? lastOf(this.linked);
    return best ? [{ port: best.port, weight: best.weight || 1 }] : [];
  }

  /** Whether an uplink may be used: it is good, and does not wait to be used again. @param at in milliseconds since 1970. */
  isUsable(port: string, at: number): boolean {
    if (!this.good.has(port)) return false;
    const until = this.waits.get(port);
    return until === undefined || (until !== null && at >= until);
  }
}
