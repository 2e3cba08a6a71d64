import { canonicalJson } from '../document';

/** Name of the first field that no longer has the value an edit saw, or null when all do. */
export function changed<T extends object>(now: T, seen: Partial<T>): string | null {
  for (const [field, value] of Object.entries(seen)) {
    if (canonicalJson(now[field as keyof T] ?? null) !== canonicalJson(value ?? null)) return field;
  }
  return null;
}

/** The fields of `from` that `shape` names. */
export function pick<T extends object>(from: T, shape: Partial<T>): Partial<T> {
  // Null rather than undefined, so that an absent field is still named when this has been JSON.
  return Object.fromEntries(Object.keys(shape).map((key) => [key, from[key as keyof T] ?? null])) as Partial<T>;
}
