/**
 * Whether two values are the same as JSON, whatever the order of their fields; a field that is undefined is absent. Ends at the
 * first difference, unlike a comparison of texts.
 */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b)) {
    if (!Array.isArray(a) || !Array.isArray(b) || a.length !== b.length) return false;
    for (let i = 0; i < a.length; i++) if (!sameValue(a[i], b[i])) return false;
    return true;
  }
  const [x, y] = [a as Readonly<Record<string, unknown>>, b as Readonly<Record<string, unknown>>];
  // Nothing is made for it: whole documents are compared with each other, by the thousand.
  let more = 0;
  for (const key in x) {
    if (!Object.hasOwn(x, key) || x[key] === undefined) continue;
    if (!Object.hasOwn(y, key) || !sameValue(x[key], y[key])) return false;
    more++;
  }
  for (const key in y) if (Object.hasOwn(y, key) && y[key] !== undefined) more--;
  return more === 0;
}
