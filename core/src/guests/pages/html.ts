/** Text that is HTML already: nothing but `html` makes any. */
export class Html {
  constructor(readonly text: string) {}
}

type Piece = string | number | Html | null | undefined | false | readonly Html[];

const ESCAPES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};
const escaped = (text: string): string => text.replace(/[&<>"']/g, (each) => ESCAPES[each]!);

const written = (piece: Piece): string => {
  if (piece === null || piece === undefined || piece === false) return '';
  if (piece instanceof Html) return piece.text;
  if (typeof piece === 'object') return piece.map(({ text }) => text).join('');
  return escaped(String(piece));
};

/** HTML with what is put in escaped, in content and in quoted attributes alike; pieces that are HTML stand as they are. */
export const html = (parts: TemplateStringsArray, ...pieces: readonly Piece[]): Html =>
  new Html(parts.reduce((text, part, i) => text + part + (i < pieces.length ? written(pieces[i]) : ''), ''));

/** Text in paragraphs: an empty line parts two, a line that ends is one that ends. */
export const paragraphs = (text: string): Html[] =>
  text
    .split(/\n{2,}/)
    .filter((each) => each.trim() !== '')
    .map((each) => {
      const [first = '', ...more] = each.split('\n');
      return html`<p>${first}${more.map((line) => html`<br />${line}`)}</p>`;
    });
