import { TUNNEL_ASKS_SECONDS, TUNNEL_LOSSES } from '@iron-lattice/core/document';
import {
  rehearseJoined,
  type JoinedEnd,
  type JoinedMishap,
  type JoinedPhase,
  type JoinedRehearsed,
} from '@iron-lattice/core/routing';

/** Two joined sites, and what happens. */
export interface JoinedQuestion {
  readonly ends: readonly JoinedEnd[];
  readonly from: string;
  readonly to: string;
  readonly mishaps: readonly JoinedMishap[];
  readonly seconds: number;
  /** Tunnels that can never be, by the ids of both ends, the lower first, with a blank between. */
  readonly never: readonly string[];
}
/** What becomes of it, as usual and at worst. */
export interface JoinedAnswer {
  readonly mean: JoinedRehearsed;
  readonly worst: JoinedRehearsed;
}

/** A tunnel by its two ends, whichever is asked first. */
export const tunnelKey = (a: string, b: string): string => [a, b].sort().join(' ');

/** Works it out; the same wherever it runs. */
export function answerTo({ ends, from, to, mishaps, seconds, never }: JoinedQuestion): JoinedAnswer {
  const gone = new Set(never);
  const play = (phase: JoinedPhase): JoinedRehearsed =>
    rehearseJoined(ends, { from, to }, mishaps, {
      ...{ asks: TUNNEL_ASKS_SECONDS, losses: TUNNEL_LOSSES, seconds, phase },
      never: (a, b) => gone.has(tunnelKey(a, b)),
    });
  return { mean: play('mean'), worst: play('worst') };
}
