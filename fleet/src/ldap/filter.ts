import { elementsOf, textIn, type Element } from './ber';

/** What an entry has to be like. */
export type Filter =
  | { readonly kind: 'and' | 'or'; readonly all: readonly Filter[] }
  | { readonly kind: 'not'; readonly one: Filter }
  | { readonly kind: 'present'; readonly attribute: string }
  | { readonly kind: 'equal'; readonly attribute: string; readonly value: string }
  | { readonly kind: 'parts'; readonly attribute: string; readonly parts: readonly { at: number; text: string }[] }
  /** Of a kind that is not judged here: no entry is like that. */
  | { readonly kind: 'never' };

/** How deep filters may be in each other. */
const DEEPEST = 20;

/** Reads a filter (RFC 4511 §4.5.1.7). @throws RangeError where it is none. */
export function readFilter({ tag, value }: Element, deep = 0): Filter {
  if (deep > DEEPEST) throw new RangeError('a filter is too deep');
  const inside = (): Filter[] => elementsOf(value).map((each) => readFilter(each, deep + 1));
  switch (tag) {
    case 0xa0:
      return { kind: 'and', all: inside() };
    case 0xa1:
      return { kind: 'or', all: inside() };
    case 0xa2: {
      const [one] = inside();
      if (!one) throw new RangeError('nothing is not to be');
      return { kind: 'not', one };
    }
    case 0x87:
      return { kind: 'present', attribute: textIn({ tag, value }) };
    case 0xa3: {
      const [attribute, wanted] = elementsOf(value).map(textIn);
      return { kind: 'equal', attribute: attribute ?? '', value: wanted ?? '' };
    }
    case 0xa4: {
      const [attribute, parts] = elementsOf(value);
      if (!attribute || !parts) throw new RangeError('a filter is cut');
      const all = elementsOf(parts.value).map((each) => ({ at: each.tag & 0x1f, text: textIn(each).toLowerCase() }));
      return { kind: 'parts', attribute: textIn(attribute), parts: all };
    }
    default:
      return { kind: 'never' };
  }
}

/** Names are compared without regard to case, and to blanks around commas. */
export const dnKey = (dn: string): string => dn.toLowerCase().replace(/\s*([,=])\s*/g, '$1');

/** Whether something is like a filter. @param values of an attribute, as far as whoever asks may look at it. */
export function isLike(filter: Filter, values: (attribute: string) => readonly string[]): boolean {
  switch (filter.kind) {
    case 'and':
      return filter.all.every((each) => isLike(each, values));
    case 'or':
      return filter.all.some((each) => isLike(each, values));
    case 'not':
      return !isLike(filter.one, values);
    case 'present':
      return values(filter.attribute).length > 0;
    case 'equal':
      return values(filter.attribute).some((value) => dnKey(value) === dnKey(filter.value));
    case 'parts':
      return values(filter.attribute).some((value) => hasParts(value.toLowerCase(), filter.parts));
    case 'never':
      return false;
  }
}

/** Whether a text has parts, each after the other: the first one at its beginning (0), one at its end (2). */
function hasParts(text: string, parts: readonly { at: number; text: string }[]): boolean {
  let from = 0;
  for (const { at, text: part } of parts) {
    if (at === 2) return text.length - part.length >= from && text.endsWith(part);
    const found = at === 0 ? (text.startsWith(part) ? 0 : -1) : text.indexOf(part, from);
    if (found < 0) return false;
    from = found + part.length;
  }
  return true;
}
