import { randomFrom } from '../base';
import { costIn, SAME, wholeOf, type Assignment, type ChannelProblem } from './channel-problem';
import { Growing, mostPressed, weightsDown } from './growing-plan';

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
  const random = randomFrom(seed);
  if (from) from.forEach((choice, radio) => growing.put(radio, choice));
  else
    for (const left = weightsDown(whole); left.length > 0;) {
      const radio = mostPressed(growing, left);
      left.splice(left.indexOf(radio), 1);
      growing.put(radio, growing.cheapest(radio).choice);
    }
  settle(growing);
  let best = { assignment: [...growing.of], cost: costIn(whole, [...growing.of]) };
  const most = Math.max(2, Math.min(whole.radios, MOST_SHAKEN));
  for (let round = 0; round < rounds && best.cost > SAME; round++) {
    if (going && !going(round / rounds)) break;
    // The cheapest may differ from a good one in nearly all radios: of few, every second time begins anew.
    const anew = whole.radios <= MOST_SHAKEN && round % 2 === 1;
    for (let shaken = anew ? whole.radios : 2 + random(most - 1); shaken > 0; shaken--) {
      const radio = anew ? shaken - 1 : random(whole.radios);
      const choices = whole.allowed[radio]!;
      growing.take(radio);
      growing.put(radio, choices[random(choices.length)]!);
    }
    settle(growing);
    const cost = costIn(whole, [...growing.of]);
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
const roundsFor = (radios: number): number =>
  radios <= MOST_SHAKEN ? 600 : Math.min(300, Math.max(10, Math.ceil(3000 / radios)));
