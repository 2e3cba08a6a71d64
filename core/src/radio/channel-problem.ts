/** Who shares the air with whom, and what each may choose. */
export interface ChannelProblem {
  /** How much each radio is in the way of each other on the same channel; symmetric, 0 where they do not hear each other. */
  readonly weights: readonly (readonly number[])[];
  /** How much of that is left between two choices, from 0 to 1 and above; the lower end first, then the narrower. */
  readonly shares: readonly (readonly number[])[];
  /** What a choice costs a radio by itself (what strangers send there, a move); absent: nothing. */
  readonly own?: readonly (readonly number[])[];
  /** The choices of each radio; absent: all. */
  readonly allowed?: readonly (readonly number[])[];
}

/** Number of the choice of each radio. */
export type Assignment = readonly number[];

/** The same with nothing left out. */
export interface Whole {
  readonly radios: number;
  readonly choices: number;
  readonly weights: readonly (readonly number[])[];
  readonly shares: readonly (readonly number[])[];
  readonly own: readonly (readonly number[])[];
  readonly allowed: readonly (readonly number[])[];
  /** Whether one choice is as good as any other, all being new. */
  readonly alike: boolean;
  /** Of each radio, those that it is in the way of. */
  readonly near: readonly (readonly number[])[];
  /** Of each choice, those that it shares with. */
  readonly meets: readonly (readonly number[])[];
}

/** Costs that differ by less are the same. */
export const SAME = 1e-9;

/** @throws RangeError for what makes no sense. */
export function wholeOf({ weights, shares, own, allowed }: ChannelProblem): Whole {
  const [radios, choices] = [weights.length, shares.length];
  const all = Array.from({ length: choices }, (_, c) => c);
  if (weights.some((row, i) => row.length !== radios || row.some((w, j) => !(w >= 0) || w !== weights[j]![i])))
    throw new RangeError('weights are symmetric and not negative');
  if (allowed?.some((list) => list.length === 0)) throw new RangeError('a radio has nothing to choose');
  const same = (row: readonly number[], a: number): boolean =>
    row.every((share, b) => share === (a === b ? row[a]! : 0));
  const plain = shares.every((row, a) => same(row, a) && row[a] === shares[0]![0]);
  return {
    ...{ radios, choices, weights, shares },
    own: own ?? weights.map(() => all.map(() => 0)),
    allowed: allowed ?? weights.map(() => all),
    alike: plain && !own && !allowed,
    near: weights.map((row, i) => row.flatMap((weight, j) => (weight > 0 && i !== j ? [j] : []))),
    meets: shares.map((row) => row.flatMap((share, c) => (share > 0 ? [c] : []))),
  };
}

/** What an assignment costs: all pairs that share the air, and what each choice costs by itself. */
export const costOf = (problem: ChannelProblem, assignment: Assignment): number => costIn(wholeOf(problem), assignment);

/** The same of a problem that nothing is left out of. */
export function costIn({ weights, shares, own, radios }: Whole, assignment: Assignment): number {
  let cost = 0;
  for (let i = 0; i < radios; i++) {
    cost += own[i]![assignment[i]!]!;
    for (let j = i + 1; j < radios; j++) cost += weights[i]![j]! * shares[assignment[i]!]![assignment[j]!]!;
  }
  return cost;
}

/** Whether a gain is worth its moves. @param each what moving one radio costs. @param least share of what is there now that has to be gained. */
export function worthMoving(now: number, then: number, moved: number, each: number, least: number): boolean {
  const gain = now - then;
  return gain > moved * each && gain > least * now;
}
