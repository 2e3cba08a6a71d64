/**
 * Max-min fair shares of a capacity: nobody gets more than asked for, and more for one would take from somebody who has no more, by
 * weight (Bertsekas & Gallager, Data Networks §6.5.2).
 * @param demands what each asks for. @param weights absent: all alike. All in one unit.
 * @throws RangeError for what is below 0.
 */
export function maxMin(capacity: number, demands: readonly number[], weights?: readonly number[] | null): number[] {
  if (!(capacity >= 0) || demands.some((demand) => !(demand >= 0))) throw new RangeError('nothing is less than none');
  const weightOf = (i: number): number => weights?.[i] ?? 1;
  const shares = demands.map(() => 0);
  // By how much of its weight each would be content with: those of little are given it first.
  const order = demands
    .map((_, i) => i)
    .filter((i) => demands[i]! > 0 && weightOf(i) > 0)
    .sort((a, b) => demands[a]! / weightOf(a) - demands[b]! / weightOf(b));
  let left = capacity;
  let weight = order.reduce((sum, i) => sum + weightOf(i), 0);
  for (const i of order) {
    shares[i] = Math.min(demands[i]!, (left * weightOf(i)) / weight);
    left -= shares[i];
    weight -= weightOf(i);
  }
  return shares;
}

/** Clients that share a limit, each with one of its own. */
export interface ShareGroup {
  /** Of all together; Infinity: none. */
  readonly cap: number;
  /** Of each. */
  readonly clientCap: number;
  readonly demands: readonly number[];
  readonly weight?: number;
}

/** Shares of groups and within them: what a group may have in all is parted among its clients alike. */
export function groupShares(capacity: number, groups: readonly ShareGroup[]): number[][] {
  const asked = groups.map(({ demands, clientCap }) => demands.map((demand) => Math.min(demand, clientCap)));
  const sums = asked.map((demands, i) =>
    Math.min(
      groups[i]!.cap,
      demands.reduce((sum, each) => sum + each, 0),
    ),
  );
  const given = maxMin(
    capacity,
    sums,
    groups.map(({ weight = 1 }) => weight),
  );
  return asked.map((demands, i) => maxMin(given[i]!, demands));
}
