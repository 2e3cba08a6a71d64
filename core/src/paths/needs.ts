import { codecOfCalls, mouthToEar, ratingForOpinion, ratingOf, BEST_RATING } from './voice';

/** What a path is measured by. Loss in percent, times in milliseconds. */
export interface PathMeasure {
  readonly loss: number;
  readonly latency: number;
  readonly jitter: number;
}

/** What somebody needs of a path: these at the most; absent: nothing. */
export interface PathNeeds extends Partial<PathMeasure> {
  /** A call as good as this at the least: mean opinion score, from 1 to 4.4 (ITU-T P.800). */
  readonly voice?: number;
}

/** When a path that met needs does not any more, and when it does again. */
export interface Steadiness {
  /** Windows in a row that do not meet them until a path is left, and that do until it is taken again. */
  readonly bad: number;
  readonly good: number;
  /** Share by which measures have to be below the needs until it is taken again. */
  readonly margin: number;
}

/** How a path fares: whether it meets the needs, and for how many windows in a row it was otherwise. */
interface Standing {
  readonly meets: boolean;
  readonly run: number;
}

const FIELDS = ['loss', 'latency', 'jitter'] as const;

/** When nobody says otherwise. */
export const USUAL_STEADINESS: Steadiness = { bad: 3, good: 6, margin: 0.2 };

/** How far a path is beyond what is needed, by the measure that is furthest; 1 and less: it meets it. */
export const strainOf = (measure: PathMeasure, needs: PathNeeds): number =>
  Math.max(
    0,
    ...FIELDS.flatMap((field) => (needs[field] === undefined ? [] : [ratio(measure[field], needs[field])])),
    ...(needs.voice === undefined ? [] : [voiceStrain(measure, needs.voice)]),
  );

/** What a call is impaired by over a path, as a share of what it may be (ITU-T G.107). */
function voiceStrain(measure: PathMeasure, opinion: number): number {
  const rating = ratingOf(codecOfCalls, { delay: mouthToEar(measure), loss: Math.min(20, measure.loss) });
  return ratio(BEST_RATING - rating, BEST_RATING - ratingForOpinion(opinion));
}

const ratio = (value: number, most: number): number => (most > 0 ? value / most : value > 0 ? Infinity : 0);

/**
 * Chooses the path that somebody’s packets take, window by window: the first by preference that meets the needs; where none does, of those that are
 * up the one that comes nearest. One that was left is not taken again before it is well for a while, so that nothing goes to and fro.
 */
export class PathChoice {
  private readonly standings: Standing[];

  /** @param count of paths, in the order in which they are preferred. */
  constructor(
    count: number,
    private readonly needs: PathNeeds,
    private readonly steady: Steadiness,
  ) {
    this.standings = Array.from({ length: count }, () => ({ meets: true, run: 0 }));
  }

  /** One window of one path. @param measure null: it is down. */
  tell(at: number, measure: PathMeasure | null): void {
    this.standings[at] = this.step(this.standings[at]!, measure);
  }

  /** Whether a path counts as meeting the needs. */
  meets = (at: number): boolean => this.standings[at]!.meets;
  /** Whether more windows like the last would change nothing. */
  isSettled = (at: number): boolean => this.standings[at]!.run === 0;

  /** @param measures of one window, in the same order; null: it is down. @returns place of the path; null: none is up. */
  next(measures: readonly (PathMeasure | null)[]): number | null {
    measures.forEach((measure, i) => this.tell(i, measure));
    const good = this.standings.findIndex(({ meets }) => meets);
    if (good >= 0) return good;
    let best: { readonly at: number; readonly strain: number } | null = null;
    measures.forEach((measure, at) => {
      const strain = measure && strainOf(measure, this.needs);
      if (strain !== null && (!best || strain < best.strain)) best = { at, strain };
    });
    return (best as { readonly at: number } | null)?.at ?? null;
  }

  private step({ meets, run }: Standing, measure: PathMeasure | null): Standing {
    const { bad, good, margin } = this.steady;
    if (meets) {
      if (measure === null) return { meets: false, run: 0 };
      const next = strainOf(measure, this.needs) > 1 ? run + 1 : 0;
      return next >= bad ? { meets: false, run: 0 } : { meets, run: next };
    }
    const isClear = measure !== null && strainOf(measure, this.needs) <= 1 - margin;
    const next = isClear ? run + 1 : 0;
    return next >= good ? { meets: true, run: 0 } : { meets, run: next };
  }
}
