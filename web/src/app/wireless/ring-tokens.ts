import type { Choice } from '../ui/choice-cell';
import type { Token, TokenSource } from '../ui/token-field';

/** Segments that keys of a ring may lead to, as tokens in a field: by name. @param known those that are somewhere, by name. */
export function ringTokens(known: readonly Choice[]): TokenSource {
  const names = new Map(known.map(({ value, label }) => [String(value).toLowerCase(), { name: String(value), label }]));
  const token = (text: string): Token => {
    const found = names.get(text.toLowerCase());
    return found ? { text: found.name, label: found.name, kind: '' } : { text, label: text, kind: '', bad: true };
  };
  return {
    read: (text) => namesIn(text, (name) => names.has(name.toLowerCase())).map(token),
    join: (tokens) => tokens.map(({ text }) => text).join(', '),
    options: [...names.values()].map(({ name, label }) => ({ text: name, label, kind: '' })),
    separator: ',',
  };
}

/** Names that commas part; one that is known and has commas itself stays whole. */
export function namesIn(text: string, isKnown: (name: string) => boolean): string[] {
  const parts = text.split(',');
  const found: string[] = [];
  for (let at = 0; at < parts.length;) {
    let end = parts.length;
    while (end > at + 1 && !isKnown(parts.slice(at, end).join(',').trim())) end--;
    const name = parts.slice(at, end).join(',').trim();
    if (name !== '' && !found.some((each) => each.toLowerCase() === name.toLowerCase())) found.push(name);
    at = end;
  }
  return found;
}
