/** What is not seen: characters that are ignored or format others, and blanks that are not the usual one. */
const UNSEEN = /[\p{Default_Ignorable_Code_Point}\p{Cf}\p{Cc}]|(?! )\p{Zs}|[\u2028\u2029]/gu;
/** Scripts with letters that look like those of others (Unicode TR 39 §4). */
const ALIKE = [
  ['Latin', /\p{Script=Latin}/u],
  ['Greek', /\p{Script=Greek}/u],
  ['Cyrillic', /\p{Script=Cyrillic}/u],
  ['Armenian', /\p{Script=Armenian}/u],
  ['Cherokee', /\p{Script=Cherokee}/u],
] as const;

const codeOf = (character: string): string =>
  `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`;

/** A name so that all of it is seen: what is not stands as its code point, as do blanks at its ends. */
export const asHeard = (name: string): string =>
  name
    .replace(UNSEEN, (character) => `‹${codeOf(character)}›`)
    .replace(/^ +| +$/g, (blanks) => '‹blank›'.repeat(blanks.length));

/** What people who read a name would not see in it, or take for something else. */
export interface NameDoubt {
  /** Completes “It …”. */
  readonly words: string;
  /** The name without it; null where nobody knows what was meant. */
  readonly plain: string | null;
}

/**
 * What makes a name another than it looks like: characters that are not seen, blanks at its ends, letters of several scripts that look
 * alike, and forms that are equal to others only once they are normalized (RFC 8265 §3.3 and §4.2: NFC, no compatibility forms).
 */
export function nameDoubt(name: string): NameDoubt | null {
  const words: string[] = [];
  const unseen = [...new Set(name.match(UNSEEN) ?? [])];
  if (unseen.length > 0) words.push(`holds what is not seen (${unseen.map(codeOf).join(', ')})`);
  if (/^ | $| {2}/.test(name)) words.push('has blanks at an end, or several in a row');
  if (name.normalize('NFC') !== name)
    words.push('is written with accents apart, and typed with them joined it is another');
  const scripts = ALIKE.filter(([, letters]) => letters.test(name)).map(([script]) => script);
  const mixed = scripts.length > 1;
  if (mixed) words.push(`mixes ${scripts.join(' and ')} letters, which look alike`);
  const compatible = name.normalize('NFKC') !== name.normalize('NFC');
  if (compatible) words.push(`has characters that look like others (“${name.normalize('NFKC')}”)`);
  if (words.length === 0) return null;
  const plain = name.replace(UNSEEN, '').replace(/ +/g, ' ').trim().normalize('NFC');
  return { words: words.join('; it '), plain: mixed || compatible || plain === '' ? null : plain };
}
