import { contains, formatPrefix, parsePrefix, type Prefix } from '../address';

const read = (texts: readonly string[]): Prefix[] => texts.flatMap((text) => parsePrefix(text) ?? []);

/**
 * What of some prefixes is in others too (traffic selectors are narrowed so, RFC 7296 §2.9), as both were said, the first first; each once.
 * Of two prefixes one holds the other or they have nothing in common.
 */
export function narrowed(offered: readonly string[], taken: readonly string[]): string[] {
  const found = read(offered).flatMap((a) =>
    read(taken).flatMap((b) => {
      if (a.version !== b.version) return [];
      if (contains(a, { version: b.version, value: b.network }) && b.length >= a.length) return [b];
      return contains(b, { version: a.version, value: a.network }) && a.length >= b.length ? [a] : [];
    }),
  );
  return [...new Set(found.map(formatPrefix))];
}
