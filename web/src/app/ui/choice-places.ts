import type { Choice } from './choice-cell';

/** One place of several in an order: what is chosen there, and what may be. */
export interface ChoicePlace {
  readonly value: unknown;
  readonly options: readonly Choice[];
}

/** Places for things in an order, the preferred first: those that are chosen, and one more while any is left. */
export function choicePlaces(chosen: readonly unknown[], all: readonly Choice[]): readonly ChoicePlace[] {
  const places = [...chosen, ...(chosen.length < all.length ? [null] : [])];
  return places.map((value, at) => ({
    value,
    options: [
      ...(at > 0 ? [{ value: null, label: 'nothing' }] : []),
      ...all.filter((each) => each.value === value || !chosen.includes(each.value)),
    ],
  }));
}

/** What is chosen after another value, or none, was chosen at a place. */
export function chosenAt<T>(chosen: readonly T[], at: number, value: T | null): readonly T[] {
  const next: (T | null)[] = [...chosen];
  next[at] = value;
  return next.filter((each): each is T => each !== null);
}
