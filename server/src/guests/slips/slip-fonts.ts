import { createRequire } from 'node:module';

const { resolve } = createRequire(import.meta.url);
type Weight = 400 | 600;
const file = (of: string, part: string, weight: Weight): string =>
  resolve(`@fontsource/${of}/files/${of}-${part}-${weight}-normal.woff`);

/**
 * Letters by the part of a font that has them: those of western languages, of the others that are written in Latin letters, and those of other
 * scripts. What none has is shown as a dot.
 */
const PARTS = {
  latin: /[\u0020-\u007e\u00a0-\u00ff\u0131\u0152\u0153\u2013\u2014\u2018-\u201e\u2022\u2026\u20ac\u2122\u2212]/,
  extended: /[\u0100-\u024f\u1e00-\u1eff\u20a0-\u20ab\u20ad-\u20cf]/,
  greek: /[\u0370-\u03ff]/,
  cyrillic: /[\u0400-\u045f\u0490\u0491]/,
  arabic: /[\u0600-\u06ff]/,
} as const;
type Part = keyof typeof PARTS;

/** A weight of the letters of slips, in files that ship with it. */
export type Face = Readonly<Record<Part, string>>;

const faceOf = (of: 'barlow' | 'jetbrains-mono', weight: Weight): Face => ({
  latin: file(of, 'latin', weight),
  extended: file(of, 'latin-ext', weight),
  greek: file('noto-sans', 'greek', weight),
  cyrillic: file('noto-sans', 'cyrillic', weight),
  arabic: file('noto-sans-arabic', 'arabic', weight),
});
export const PLAIN = faceOf('barlow', 400);
export const STRONG = faceOf('barlow', 600);
export const MONO = faceOf('jetbrains-mono', 600);

/** Some letters in a row that one file has. */
export interface Piece {
  readonly text: string;
  readonly font: string;
}

/** A text as pieces, each with the file that has its letters, in the order in which they stand on a line from the left. */
export function piecesOf(text: string, face: Face): Piece[] {
  const pieces: { text: string; part: Part }[] = [];
  for (const letter of text) {
    const part = (Object.keys(PARTS) as Part[]).find((each) => PARTS[each].test(letter));
    const shown = part === undefined ? '\u2022' : letter;
    const last = pieces.at(-1);
    // A blank parts words, which stand in another order where they are written from the right.
    const parts = letter === ' ' || last?.text === ' ';
    if (last && !parts && last.part === (part ?? 'latin')) last.text += shown;
    else pieces.push({ text: shown, part: part ?? 'latin' });
  }
  return fromLeft(pieces).map(({ text: said, part }) => ({ text: said, font: face[part] }));
}

/** Words that are written from the right, in the order in which they stand (the plain cases of UAX 9: words, and blanks between them). */
function fromLeft<P extends { readonly text: string; readonly part: Part }>(pieces: readonly P[]): readonly P[] {
  if (pieces.every(({ part }) => part !== 'arabic')) return pieces;
  const isRight = (piece: P | undefined): boolean => piece?.part === 'arabic';
  const first = pieces.find(({ text }) => text !== ' ');
  const runs: { right: boolean; of: P[] }[] = [];
  pieces.forEach((piece, i) => {
    const between = piece.text === ' ' && isRight(pieces[i - 1]) && isRight(pieces[i + 1]);
    const right = isRight(piece) || between;
    const last = runs.at(-1);
    if (last?.right === right) last.of.push(piece);
    else runs.push({ right, of: [piece] });
  });
  const placed = runs.map(({ right, of }) => (right ? [...of].reverse() : of));
  return (isRight(first) ? placed.reverse() : placed).flat();
}
