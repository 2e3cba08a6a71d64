/** Objects with only some of the fields of others; what is absent there is absent here. */
export function pick<T extends object, K extends keyof T>(from: T, keys: readonly K[]): Pick<T, K> {
  const picked: Partial<Pick<T, K>> = {};
  for (const key of keys) if (from[key] !== undefined) picked[key] = from[key];
  return picked as Pick<T, K>;
}

/** Whether two lists hold the very same things. */
export const sameAll = (a: readonly unknown[], b: readonly unknown[]): boolean =>
  a.length === b.length && a.every((each, i) => each === b[i]);
