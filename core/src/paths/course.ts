import type { UsedUplink } from './leaving';
import { PathChoice, strainOf, USUAL_STEADINESS, type PathMeasure, type PathNeeds, type Steadiness } from './needs';

/** How some packets leave otherwise than the rest. */
export interface CourseRule {
  readonly id: string;
  /** Uplinks that they may leave by, in the order in which they are preferred. */
  readonly ports: readonly string[];
  /** By the first of them that is good, or by all that are, by their weights. */
  readonly how: 'first' | 'share';
  /** What happens while none of them is good: they leave as the rest does, or not at all. */
  readonly otherwise: 'usual' | 'nothing';
  /** What an uplink has to be like; absent: good. */
  readonly needs?: PathNeeds;
  readonly steady?: Steadiness;
}

/** How a course leaves at a moment. */
export interface CourseUse {
  /** By which; none: nothing gets out. */
  readonly used: readonly UsedUplink[];
  /** Whether that is what was asked for: an uplink of its own that meets the needs. */
  readonly meets: boolean;
  /** Whether it leaves as the rest does. */
  readonly usual: boolean;
}

/** What of all uplinks together a course looks at. */
export interface CourseView {
  readonly isUsable: (port: string) => boolean;
  readonly weightOf: (port: string) => number;
  /** What the rest leaves by. */
  readonly usual: readonly UsedUplink[];
}

/** The uplinks that a course takes, from what is known of each and was measured window by window. */
export class Course {
  private readonly choice: PathChoice | null;
  private readonly latest: (PathMeasure | null)[];

  constructor(readonly rule: CourseRule) {
    const { ports, needs, steady = USUAL_STEADINESS } = rule;
    this.choice = needs ? new PathChoice(ports.length, needs, steady) : null;
    this.latest = ports.map(() => null);
  }

  /** One window of an uplink. @param measure null: nothing came back. */
  measured(port: string, measure: PathMeasure | null): void {
    const at = this.rule.ports.indexOf(port);
    if (at < 0 || !this.choice) return;
    this.latest[at] = measure;
    this.choice.tell(at, measure);
  }

  /** Whether more windows like the last of an uplink would change nothing. */
  isSettled(port: string): boolean {
    const at = this.rule.ports.indexOf(port);
    return at < 0 || !this.choice || this.choice.isSettled(at);
  }

  use({ isUsable, weightOf, usual }: CourseView): CourseUse {
    const { ports, how, otherwise, needs } = this.rule;
    const up = ports.flatMap((port, at) => (isUsable(port) ? [{ port, at }] : []));
    if (up.length === 0)
      return otherwise === 'usual'
        ? { used: usual, meets: false, usual: true }
        : { used: [], meets: false, usual: false };
    const fit = up.filter(({ at }) => this.choice?.meets(at) ?? true);
    const strain = (at: number): number => {
      const measure = this.latest[at];
      return needs && measure ? strainOf(measure, needs) : 0;
    };
    const nearest = (): typeof up => [up.reduce((best, one) => (strain(one.at) < strain(best.at) ? one : best))];
    const some = fit.length === 0 ? nearest() : how === 'first' ? fit.slice(0, 1) : fit;
    const used = some.map(({ port }) => ({ port, weight: some.length === 1 ? 1 : weightOf(port) }));
    return { used, meets: fit.length > 0, usual: false };
  }
}
