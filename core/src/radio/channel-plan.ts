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
interface Whole {
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
const SAME = 1e-9;

function wholeOf({ weights, shares, own, allowed }: ChannelProblem): Whole {
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
export function costOf(problem: ChannelProblem, assignment: Assignment): number {
  const { weights, shares, own, radios } = wholeOf(problem);
  let cost = 0;
  for (let i = 0; i < radios; i++) {
    cost += own[i]![assignment[i]!]!;
    for (let j = i + 1; j < radios; j++) cost += weights[i]![j]! * shares[assignment[i]!]![assignment[j]!]!;
  }
  return cost;
}

/** An assignment that grows and changes, with what each further choice would add. */
class Growing {
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

/** Numbers that look random and are the same for the same seed (mulberry32). */
function randomOf(seed: number): (below: number) => number {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 4294967296) * below);
  };
}

/** The radio that has the least left to choose from without cost, then the one that is most in the way (DSATUR: Brélaz, CACM 22, 1979). */
function mostPressed(growing: Growing, left: readonly number[]): number {
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

/** Moves single radios, and swaps two, while that makes it cheaper. */
function settle(growing: Growing): void {
  const { radios, weights, choices, shares, allowed, near } = growing.whole;
  const { adds, of } = growing;
  const may = allowed.map((list) => new Set(list));
  const move = (radio: number, choice: number): void => {
    growing.take(radio);
    growing.put(radio, choice);
  };
  const moved = (radio: number): boolean => {
    const best = growing.cheapest(radio);
    if (best.choice === of[radio] || best.adds >= adds[radio * choices + of[radio]!]! - SAME) return false;
    move(radio, best.choice);
    return true;
  };
  const swapped = (i: number, j: number): boolean => {
    const [a, b] = [of[i]!, of[j]!];
    if (a === b || !may[i]!.has(b) || !may[j]!.has(a)) return false;
    const between = weights[i]![j]! * (shares[b]![b]! + shares[a]![a]! - 2 * shares[a]![b]!);
    const change = adds[i * choices + b]! - adds[i * choices + a]! + adds[j * choices + a]! - adds[j * choices + b]!;
    if (change - between >= -SAME) return false;
    move(i, b);
    move(j, a);
    return true;
  };
  for (let going = true; going;) {
    going = false;
    for (let i = 0; i < radios; i++) if (moved(i)) going = true;
    if (going) continue;
    for (let i = 0; i < radios; i++) for (const j of near[i]!) if (j > i && swapped(i, j)) going = true;
  }
}

export interface SearchOptions {
  readonly seed?: number;
  /** How often what was found is shaken and settled again; absent: as often as their number allows. */
  readonly rounds?: number;
  /** Begins from this one. */
  readonly from?: Assignment;
  /** Told how far it is, from 0 to 1; says whether it is to end. */
  readonly going?: (done: number) => boolean;
}

/**
 * A good assignment, found fast: the most pressed radio first, then single moves and swaps, shaken and settled again; the same for
 * the same seed.
 */
export function searchPlan(
  problem: ChannelProblem,
  options: SearchOptions = {},
): { assignment: number[]; cost: number } {
  const { seed = 1, rounds = roundsFor(problem.weights.length), from, going } = options;
  const whole = wholeOf(problem);
  const growing = new Growing(whole);
  const random = randomOf(seed);
  if (from) from.forEach((choice, radio) => growing.put(radio, choice));
  else
    for (const left = weightsDown(whole); left.length > 0;) {
      const radio = mostPressed(growing, left);
      left.splice(left.indexOf(radio), 1);
      growing.put(radio, growing.cheapest(radio).choice);
    }
  settle(growing);
  let best = { assignment: [...growing.of], cost: costOf(problem, [...growing.of]) };
  const most = Math.max(2, Math.min(whole.radios, MOST_SHAKEN));
  for (let round = 0; round < rounds && best.cost > SAME; round++) {
    if (going && !going(round / rounds)) break;
    for (let shaken = 2 + random(most - 1); shaken > 0; shaken--) {
      const radio = random(whole.radios);
      const choices = whole.allowed[radio]!;
      growing.take(radio);
      growing.put(radio, choices[random(choices.length)]!);
    }
    settle(growing);
    const cost = costOf(problem, [...growing.of]);
    if (cost < best.cost - SAME) best = { assignment: [...growing.of], cost };
    else if (cost > best.cost + SAME)
      for (const [radio, choice] of best.assignment.entries()) {
        if (growing.of[radio] === choice) continue;
        growing.take(radio);
        growing.put(radio, choice);
      }
  }
  return best;
}

/** Radios that are moved at random at once. */
const MOST_SHAKEN = 24;

/** Few radios are shaken often, many seldom: each time takes as much longer. */
const roundsFor = (radios: number): number => Math.min(300, Math.max(10, Math.ceil(3000 / radios)));

/** Radios, those first that are most in the way. */
function weightsDown({ weights, radios }: Whole): number[] {
  const sums = weights.map((row) => row.reduce((sum, weight) => sum + weight, 0));
  return Array.from({ length: radios }, (_, i) => i).sort((a, b) => sums[b]! - sums[a]!);
}

/** Steps that a proof may take. */
const MOST_STEPS = 2_000_000;

/**
 * The cheapest assignment, proven by branch and bound: for some fifteen radios.
 * @returns null when the proof takes too many steps.
 */
export function bestPlan(
  problem: ChannelProblem,
  most = MOST_STEPS,
): { readonly assignment: number[]; readonly cost: number } | null {
  const whole = wholeOf(problem);
  const found = searchPlan(problem);
  let best = { assignment: found.assignment, cost: found.cost };
  const growing = new Growing(whole);
  const left = weightsDown(whole);
  let steps = 0;
  const visit = (used: number): boolean => {
    if (++steps > most) return false;
    if (left.length === 0) {
      best = { assignment: [...growing.of], cost: growing.cost };
      return true;
    }
    let [bound, radio, heaviest] = [growing.cost, -1, -1];
    for (const i of left) {
      const { adds } = growing.cheapest(i);
      bound += adds;
      if (adds > heaviest + SAME) [radio, heaviest] = [i, adds];
    }
    if (bound >= best.cost - SAME) return true;
    if (heaviest < SAME) radio = mostPressed(growing, left);
    const at = left.indexOf(radio);
    left.splice(at, 1);
    const order = whole.allowed[radio]!.filter((c) => !whole.alike || c <= used).sort(
      (a, b) => growing.adds[radio * whole.choices + a]! - growing.adds[radio * whole.choices + b]!,
    );
    for (const choice of order) {
      growing.put(radio, choice);
      const through = growing.cost >= best.cost - SAME || visit(choice === used ? used + 1 : used);
      growing.take(radio);
      if (!through) return false;
    }
    left.splice(at, 0, radio);
    return true;
  };
  return visit(0) ? { ...best, cost: costOf(problem, best.assignment) } : null;
}

/**
 * All assignments that cost the least: how many, and the first of them in the order of radios and choices. For few radios.
 * @param cost the least cost.
 */
export function allBest(problem: ChannelProblem, cost: number): { readonly count: number; readonly first: number[] } {
  const whole = wholeOf(problem);
  const growing = new Growing(whole);
  const within = cost + SAME * Math.max(1, cost);
  let first: number[] | null = null;
  let count = 0;
  const visit = (radio: number, used: number, ways: number): void => {
    if (radio === whole.radios) {
      count += ways;
      first ??= [...growing.of];
      return;
    }
    let bound = growing.cost;
    for (let i = radio; i < whole.radios; i++) bound += growing.cheapest(i).adds;
    if (bound > within) return;
    for (const choice of whole.allowed[radio]!) {
      if (whole.alike && choice > used) break;
      growing.put(radio, choice);
      // Where choices are alike, the first of them that nobody has stands for all of those.
      const fresh = whole.alike && choice === used;
      if (growing.cost <= within)
        visit(radio + 1, fresh ? used + 1 : used, fresh ? ways * (whole.choices - used) : ways);
      growing.take(radio);
    }
  };
  visit(0, 0, 1);
  return { count, first: first ?? [] };
}

/** The least that radios cost which all hear each other alike: they part evenly among the channels (Turán). */
export function leastOfClique(radios: number, channels: number, weight: number): number {
  const [each, more] = [Math.floor(radios / channels), radios % channels];
  const pairs = (n: number): number => (n * (n - 1)) / 2;
  return weight * (more * pairs(each + 1) + (channels - more) * pairs(each));
}

/** Pairs that are lighter than that beside the heaviest add next to nothing to a bound, and there are many. */
const LIGHT = 0.05;

/**
 * What no assignment can go below: each radio's cheapest choice by itself, and of groups that all hear each other more than there
 * are channels side by side what Turán's bound says, taken off the weights group by group.
 */
export function lowerBound(problem: ChannelProblem): number {
  const whole = wholeOf(problem);
  const { radios, shares, own, allowed } = whole;
  let bound = 0;
  for (let i = 0; i < radios; i++) bound += Math.min(...allowed[i]!.map((c) => own[i]![c]!));
  const channels = sideBySide(shares);
  const least = Math.min(...shares.flat().filter((share) => share > SAME));
  if (!Number.isFinite(least)) return bound;
  const left = whole.weights.map((row) => [...row]);
  const pairs = whole.near.flatMap((near, i) => near.flatMap((j) => (j > i ? [[i, j] as const] : [])));
  pairs.sort(([a, b], [c, d]) => whole.weights[c]![d]! - whole.weights[a]![b]!);
  const [heaviest] = pairs.map(([a, b]) => whole.weights[a]![b]!);
  for (const [a, b] of pairs)
    while (left[a]![b]! > LIGHT * heaviest!) {
      const group = heaviestGroup(left, a, b, channels);
      if (!group) break;
      bound += least * leastOfClique(group.members.length, channels, group.weight);
      for (const i of group.members) for (const j of group.members) if (i !== j) left[i]![j]! -= group.weight;
    }
  return bound;
}

/** How many choices there are that do not share at all: the lower end first, each that leaves those before alone. */
function sideBySide(shares: readonly (readonly number[])[]): number {
  const taken: number[] = [];
  for (let c = 0; c < shares.length; c++) if (taken.every((other) => shares[other]![c]! <= SAME)) taken.push(c);
  return taken.length;
}

/** Radios that all hear each other, two of them given, more than there are channels, with the weight that all of their pairs have. */
function heaviestGroup(
  left: readonly (readonly number[])[],
  a: number,
  b: number,
  channels: number,
): { members: number[]; weight: number } | null {
  let best: { members: number[]; weight: number; worth: number } | null = null;
  const members = [a, b];
  // The lightest pair that each of the others makes with those in the group.
  const lightest = left[a]!.map((weight, i) => (i === a || i === b ? -1 : Math.min(weight, left[b]![i]!)));
  let weight = left[a]![b]!;
  for (;;) {
    const worth = leastOfClique(members.length, channels, weight);
    if (members.length > channels && worth > (best?.worth ?? 0)) best = { members: [...members], weight, worth };
    let next = -1;
    for (let i = 0; i < lightest.length; i++)
      if (lightest[i]! > SAME && (next < 0 || lightest[i]! > lightest[next]!)) next = i;
    if (next < 0) return best;
    members.push(next);
    weight = Math.min(weight, lightest[next]!);
    for (let i = 0; i < lightest.length; i++) lightest[i] = Math.min(lightest[i]!, left[next]![i]!);
    lightest[next] = -1;
  }
}

/** Whether a gain is worth its moves. @param each what moving one radio costs. @param least share of what is there now that has to be gained. */
export function worthMoving(now: number, then: number, moved: number, each: number, least: number): boolean {
  const gain = now - then;
  return gain > moved * each && gain > least * now;
}
