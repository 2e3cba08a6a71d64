/** Letters and digits of a visit code: none that looks like another (0 and O, 1 and I and L), and no U, so that few words come of it. */
export const CODE_ALPHABET = 'ABCDEFGHJKMNPQRSTVWXYZ23456789';
/** Shortest and longest visit code, and the usual. */
export const [LEAST_CODE, MOST_CODE, USUAL_CODE] = [6, 16, 8];

/** Codes that may be tried wrongly, a minute: from one device, by one AP or switch, at one portal as a whole. */
export const TRIES = { device: 6, box: 60, portal: 300 } as const;

/** What somebody typed as a code is kept: capitals, without blanks and dashes, what looks like another read as what there is. */
export const plainCode = (text: string): string =>
  text
    .normalize('NFKC')
    .toUpperCase()
    .replace(/[\s\-–—_.]/g, '');

/** A code in groups of four, as it is printed. */
export const writtenCode = (code: string): string => code.replace(/(.{4})(?=.)/g, '$1-');

/** Whether a code that somebody chose can be one: letters and digits of the alphabet alone, as long as a code is. */
export const isCode = (code: string): boolean =>
  code.length >= LEAST_CODE && code.length <= MOST_CODE && [...code].every((each) => CODE_ALPHABET.includes(each));

/**
 * How many days guessing takes until one of so many codes is hit with a chance of one in a hundred, if all the tries that a portal takes are
 * used day and night. For n codes of an alphabet of a^k, t tries hit with 1 − (1 − n/a^k)^t.
 */
export function daysToGuess(length: number, codes: number): number {
  const share = Math.min(1, Math.max(1, codes) / CODE_ALPHABET.length ** length);
  if (share >= 1) return 0;
  const tries = Math.log(0.99) / Math.log1p(-share);
  return tries / (TRIES.portal * 60 * 24);
}

/** Days that guessing has to take at least. */
export const LEAST_DAYS = 365;

/** The shortest length at which guessing takes that long. */
export function safeLength(codes: number): number {
  let length = USUAL_CODE;
  while (length < MOST_CODE && daysToGuess(length, codes) < LEAST_DAYS) length++;
  return length;
}
