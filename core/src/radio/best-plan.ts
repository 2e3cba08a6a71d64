import { costIn, SAME, wholeOf, type ChannelProblem } from './channel-problem';
import { Growing, mostPressed, weightsDown } from './growing-plan';
import { searchPlan } from './search-plan';

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
  return visit(0) ? { ...best, cost: costIn(whole, best.assignment) } : null;
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
