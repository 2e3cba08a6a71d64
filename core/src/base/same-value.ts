/**
 * Whether two values are the same as JSON, whatever the order of their fields; a field that is undefined is absent. Ends at the
 * first difference, unlike a comparison of texts.
 */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b))
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((each, i) => sameValue(each, b[i]));
  const [x, y] = [a, b] as Readonly<Record<string, unknown>>[];
  const there = (of: Readonly<Record<string, unknown>>): string[] =>
    Object.keys(of).filter((key) => of[key] !== undefined);
  const keys = there(x!);
  return keys.length === there(y!).length && keys.every((key) => Object.hasOwn(y!, key) && sameValue(x![key], y![key]));
}
