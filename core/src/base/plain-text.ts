/**
 * Characters that no text of people or devices may hold: control characters but tab and line breaks (Unicode category Cc),
 * halves of surrogate pairs, and noncharacters. XML 1.0 §2.2 and YANG (RFC 7950 §9.4) refuse them, PostgreSQL refuses NUL.
 */
// eslint-disable-next-line no-control-regex
const NEVER = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]|\p{Cs}|\p{Noncharacter_Code_Point}/u;
/** What ends a line or moves along it: not part of a name. */
const BREAKS = /[\t\n\r\u2028\u2029]/u;

/**
 * Tells what a text holds that it may not, so that every file we write and every program that reads one takes it.
 * @param lines whether it may have several lines.
 * @returns what is wrong in words that follow “…”, or null.
 */
export function textFault(text: string, lines = false): string | null {
  const bad = NEVER.exec(text)?.[0];
  if (bad !== undefined) return `holds a character that cannot be shown (${codeOf(bad)}); type it anew`;
  if (!lines && BREAKS.test(text)) return 'must stand on one line, without tabs';
  return null;
}

const codeOf = (character: string): string =>
  `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`;
