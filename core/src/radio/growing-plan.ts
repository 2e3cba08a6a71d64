import { SAME, type Whole } from './channel-problem';

/** An assignment that grows and changes, with what each further choice would add. */
export class Growing {
  readonly of: Int32Array;
  /** What a choice of a radio costs beside all that are assigned; by radio and choice. */
  readonly adds: Float64Array;
  cost = 0;

  constructor(readonly whole: Whole) {
    const { radios, choices, own } = whole;
    this.of = new Int32Array(radios).fill(-1);
    this.adds = new Float64Array(radios * choices);
    for (let i = 0; i < radios; i++) for (let c = 0; c < choices; c++) this.adds[i * choices + c] = own[i]![c]!;
  }

  /** @returns what it adds. */
  put(radio: number, choice: number): number {
    const added = this.adds[radio * this.whole.choices + choice]!;
    this.of[radio] = choice;
    this.cost += added;
    this.tell(radio, choice, 1);
    return added;
  }

  take(radio: number): void {
    const choice = this.of[radio]!;
    this.tell(radio, choice, -1);
    this.of[radio] = -1;
    this.cost -= this.adds[radio * this.whole.choices + choice]!;
  }

  private tell(radio: number, choice: number, sign: number): void {
    const { weights, shares, choices, near, meets } = this.whole;
    const [row, shared, met] = [weights[radio]!, shares[choice]!, meets[choice]!];
    for (const j of near[radio]!) {
      const weight = sign * row[j]!;
      for (const c of met) this.adds[j * choices + c]! += weight * shared[c]!;
    }
  }

  /** The cheapest choice of a radio, the first of equals. */
  cheapest(radio: number): { choice: number; adds: number } {
    let [choice, adds] = [-1, Infinity];
    for (const c of this.whole.allowed[radio]!) {
      const here = this.adds[radio * this.whole.choices + c]!;
      if (here < adds - SAME) [choice, adds] = [c, here];
    }
    return { choice, adds };
  }
}

/** The radio that has the least left to choose from without cost, then the one that is most in the way (DSATUR: Brélaz, CACM 22, 1979). */
export function mostPressed(growing: Growing, left: readonly number[]): number {
  const { weights, choices, allowed } = growing.whole;
  let [best, free, weight] = [-1, Infinity, -1];
  for (const i of left) {
    const mine = allowed[i]!.filter((c) => growing.adds[i * choices + c]! < SAME).length;
    if (mine > free) continue;
    const open = left.reduce((sum, j) => sum + weights[i]![j]!, 0);
    if (mine < free || open > weight) [best, free, weight] = [i, mine, open];
  }
  return best;
}

/** Radios, those first that are most in the way. */
export function weightsDown({ weights, radios }: Whole): number[] {
  const sums = weights.map((row) => row.reduce((sum, weight) => sum + weight, 0));
  return Array.from({ length: radios }, (_, i) => i).sort((a, b) => sums[b]! - sums[a]!);
}
