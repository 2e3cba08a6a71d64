/** Letters and digits of which none is taken for another: no 0 and o, 1, i and l, no capitals. */
export const CLEAR_ALPHABET = 'abcdefghjkmnpqrstuvwxyz23456789';
export const KEY_ALPHABETS = {
  clear: CLEAR_ALPHABET,
  digits: '0123456789',
  wide: `${CLEAR_ALPHABET}ABCDEFGHJKLMNPQRSTUVWXYZ`,
} as const;
export type KeyAlphabet = keyof typeof KEY_ALPHABETS;

/** Bits of a key that is drawn at random: how many guesses it takes. */
export const bitsOfKey = (length: number, alphabet: KeyAlphabet): number =>
  Math.floor(length * Math.log2(KEY_ALPHABETS[alphabet].length));

/**
 * A key that is drawn at random, every one as likely as any other.
 * @param random gives whole numbers from 0 to 2³²−1, as many as asked for.
 */
export function drawKey(length: number, alphabet: KeyAlphabet, random: (count: number) => Uint32Array): string {
  const letters = KEY_ALPHABETS[alphabet];
  const most = Math.floor(2 ** 32 / letters.length) * letters.length;
  let key = '';
  while (key.length < length)
    for (const value of random(length)) if (value < most && key.length < length) key += letters[value % letters.length];
  return key;
}
