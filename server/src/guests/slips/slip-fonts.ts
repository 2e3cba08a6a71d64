import { createRequire } from 'node:module';

const { resolve } = createRequire(import.meta.url);
const file = (of: 'barlow' | 'jetbrains-mono', part: string, weight: 400 | 600): string =>
  resolve(`@fontsource/${of}/files/${of}-${part}-${weight}-normal.woff`);

/** Letters that a font has by halves: those of western languages, and of the others that are written in Latin letters. */
const EXTENDED = /[\u0100-\u024f\u1e00-\u1eff\u20a0-\u20ab\u20ad-\u20cf]/;
const KNOWN = /[\u0020-\u007e\u00a0-\u00ff\u0131\u0152\u0153\u2013\u2014\u2018-\u201e\u2022\u2026\u20ac\u2122\u2212]/;

/** A weight of the letters of slips, in files that ship with it. */
export interface Face {
  readonly latin: string;
  readonly extended: string;
}
export const PLAIN: Face = { latin: file('barlow', 'latin', 400), extended: file('barlow', 'latin-ext', 400) };
export const STRONG: Face = { latin: file('barlow', 'latin', 600), extended: file('barlow', 'latin-ext', 600) };
export const MONO: Face = {
  latin: file('jetbrains-mono', 'latin', 600),
  extended: file('jetbrains-mono', 'latin-ext', 600),
};

/** A text as pieces, each with the file that has its letters. What no file has is shown as a square. */
export function piecesOf(text: string, { latin, extended }: Face): { readonly text: string; readonly font: string }[] {
  const pieces: { text: string; font: string }[] = [];
  for (const letter of text) {
    const font = EXTENDED.test(letter) ? extended : latin;
    const shown = font === extended || KNOWN.test(letter) ? letter : '\u2022';
    const last = pieces.at(-1);
    if (last?.font === font) last.text += shown;
    else pieces.push({ text: shown, font });
  }
  return pieces;
}
