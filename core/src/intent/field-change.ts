import { sameValue } from '../base';
import { stillThere } from './by-site';

/** Fields of a noun as somebody saw them, and as they are to be. */
export interface Change<Fields> {
  readonly from: Partial<Fields>;
  readonly to: Partial<Fields>;
}

/**
 * Name of the first field that no longer has the value an edit saw, or null when all do. An edit saw every field that it
 * changes: one that it does not say the value of was absent.
 * @param bySite fields that say something of single sites: of these an edit saw the sites that it speaks of.
 */
export function changed<T extends object>(
  now: T,
  { from, to }: Change<T>,
  bySite: readonly string[] = [],
): string | null {
  for (const field of new Set([...Object.keys(from), ...Object.keys(to)]) as Set<keyof T & string>) {
    const still = bySite.includes(field)
      ? stillThere(now[field], from[field], to[field])
      : sameValue(now[field] ?? null, from[field] ?? null);
    if (!still) return field;
  }
  return null;
}

/** The fields of `from` that `shape` names. */
export function pick<T extends object>(from: T, shape: Partial<T>): Partial<T> {
  // Null rather than undefined, so that an absent field is still named when this has been JSON.
  return Object.fromEntries(Object.keys(shape).map((key) => [key, from[key as keyof T] ?? null])) as Partial<T>;
}
