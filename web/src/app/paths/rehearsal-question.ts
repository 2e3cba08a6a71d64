import { failuresOf, type Failure } from '@iron-lattice/core/assess';
import { DRILL_AFTER, rehearse, type Mishap, type Rehearsed, type RehearsedGateway } from '@iron-lattice/core/paths';

/** A gateway, and what happens to it. */
export interface RehearsalQuestion {
  readonly gateway: RehearsedGateway;
  readonly mishaps: readonly Mishap[];
}
/** What becomes of it: as usual, and at worst; none while nothing happens. And what any failure of an uplink would come to. */
export interface RehearsalAnswer {
  readonly made: { readonly mean: Rehearsed; readonly worst: Rehearsed } | null;
  readonly failures: readonly Failure[];
}

/** When the last of some mishaps ends, in seconds. */
export const endOf = (mishaps: readonly Mishap[]): number => Math.max(0, ...mishaps.map(({ to }) => to ?? 0));

/** Failures do not depend on what is typed: they are worked out once for a gateway. */
let known: { readonly of: string; readonly failures: readonly Failure[] } | null = null;

/** Works it out; the same wherever it runs. */
export function answerTo({ gateway, mishaps }: RehearsalQuestion): RehearsalAnswer {
  const of = JSON.stringify(gateway);
  if (known?.of !== of) known = { of, failures: failuresOf(gateway) };
  const { failures } = known;
  if (mishaps.length === 0) return { made: null, failures };
  const play = (phase: 'mean' | 'worst'): Rehearsed => rehearse(gateway, mishaps, endOf(mishaps) + DRILL_AFTER, phase);
  return { made: { mean: play('mean'), worst: play('worst') }, failures };
}
