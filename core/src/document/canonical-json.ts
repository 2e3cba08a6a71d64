import canonicalize from 'canonicalize';

/**
 * Writes a JSON value in the one form of RFC 8785: sorted keys, shortest numbers, no blanks.
 * @throws RangeError for a value that JSON cannot hold.
 */
export function canonicalJson(value: unknown): string {
  const text = canonicalize(value);
  if (text === undefined) throw new RangeError('not a JSON value');
  return text;
}
