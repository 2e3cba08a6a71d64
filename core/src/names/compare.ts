import { BELOW, ITSELF, type NameSet } from './name-set';

/** Names that are told by themselves of what changed. */
export const MOST_TOLD = 20;

/** What a list has otherwise than before. */
export interface ListChange {
  readonly added: number;
  readonly removed: number;
  /** Some of each, in order. */
  readonly some: { readonly added: readonly string[]; readonly removed: readonly string[] };
}

/** What became of a list of names. */
export function changeOf(before: NameSet, after: NameSet): ListChange {
  const [added, removed] = [lacking(after, before), lacking(before, after)];
  return { added: added.count, removed: removed.count, some: { added: added.some, removed: removed.some } };
}

/** Entries of one that the other does not have as they are. */
function lacking(one: NameSet, other: NameSet): { readonly count: number; readonly some: readonly string[] } {
  const some: string[] = [];
  let count = 0;
  one.lackedBy(other, (name, kind) => {
    count++;
    if (some.length < MOST_TOLD) some.push(writeEntry(name(), kind));
  });
  return { count, some: some.sort() };
}

/** An entry as lists write it. */
export const writeEntry = (name: string, kind: number): string => (kind === BELOW ? `*.${name}` : name);

/** Entries that say nothing new, since what they mean is below another one; with that one. */
export function* idleEntries(set: NameSet): Generator<{ readonly name: string; readonly under: string }> {
  for (const [name, kind] of set.entries()) {
    const dot = name.indexOf('.');
    const above = dot < 0 ? null : set.find(name.slice(dot + 1));
    // The one above has to mean what is below it; that it is met itself is not enough.
    const under = above && set.kindOf(above.name) & BELOW ? above.name : null;
    if (under !== null && kind & (ITSELF | BELOW)) yield { name: writeEntry(name, kind), under };
  }
}
