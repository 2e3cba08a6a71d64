import { SAME, wholeOf, type ChannelProblem } from './channel-problem';

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
