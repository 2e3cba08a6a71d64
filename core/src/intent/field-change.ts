import { sameValue } from '../base';

/** Fields of a noun as somebody saw them, and as they are to be. */
export interface Change<Fields> {
  readonly from: Partial<Fields>;
  readonly to: Partial<Fields>;
}

/**
 * Name of the first field that no longer has the value an edit saw, or null when all do. An edit saw every field that it
 * changes: one that it does not say the value of was absent.
 */
export function changed<T extends object>(now: T, { from, to }: Change<T>): string | null {
  for (const field of new Set([...Object.keys(from), ...Object.keys(to)]) as Set<keyof T & string>) {
    if (!sameValue(now[field] ?? null, from[field] ?? null)) return field;
  }
  return null;
}

/** The fields of `from` that `shape` names. */
export function pick<T extends object>(from: T, shape: Partial<T>): Partial<T> {
  // Null rather than undefined, so that an absent field is still named when this has been JSON.
  return Object.fromEntries(Object.keys(shape).map((key) => [key, from[key as keyof T] ?? null])) as Partial<T>;
}
