import type { Slip } from '@iron-lattice/core/base';
import PDFDocument from 'pdfkit';
import { create } from 'qrcode';
import { MONO, PLAIN, STRONG, piecesOf, type Face } from './slip-fonts';

/** A page (ISO 216 A4) and how many slips lie on it, in points. */
const [WIDTH, HEIGHT, ACROSS, DOWN] = [595.28, 841.89, 2, 4];
const [CELL_WIDTH, CELL_HEIGHT] = [WIDTH / ACROSS, HEIGHT / DOWN];
/** Room around what a slip says, size of a code for cameras with its words, and the room around it in modules (ISO/IEC 18004 §6.3.8). */
const [MARGIN, QR, CAPTION, QUIET] = [16, 78, 12, 4];
/** Words stand under the dark of a code, not under the room around it. */
const INDENT = 9;
const TEXT_X = MARGIN + QR + 12;
const TEXT_WIDTH = CELL_WIDTH - TEXT_X - MARGIN;

interface Style {
  readonly face: Face;
  readonly size: number;
  readonly lines: number;
}
const [HEADING, LINE, WORDS] = [
  { face: STRONG, size: 14, lines: 3 },
  { face: PLAIN, size: 10, lines: 3 },
  { face: PLAIN, size: 9, lines: 1 },
] as const satisfies readonly Style[];

/** Slips on pages to be printed and cut, as PDF (ISO 32000). Letters are embedded, and text of people is text. */
export async function slipSheet(slips: readonly Slip[]): Promise<Uint8Array> {
  const pdf = new PDFDocument({
    ...{ size: [WIDTH, HEIGHT], margin: 0, autoFirstPage: false, font: PLAIN.latin, lang: 'en' },
    info: { Title: 'Slips', Creator: 'Iron Lattice', Producer: 'Iron Lattice' },
  });
  const chunks: Buffer[] = [];
  const done = new Promise<Uint8Array>((resolve, reject) => {
    pdf.on('data', (chunk: Buffer) => chunks.push(chunk));
    pdf.on('end', () => resolve(new Uint8Array(Buffer.concat(chunks))));
    pdf.on('error', reject);
  });
  slips.forEach((slip, at) => {
    const cell = at % (ACROSS * DOWN);
    if (cell === 0) pdf.addPage();
    draw(pdf, slip, (cell % ACROSS) * CELL_WIDTH, Math.floor(cell / ACROSS) * CELL_HEIGHT);
  });
  pdf.end();
  return done;
}

function draw(pdf: PDFKit.PDFDocument, { heading, before, code, after, qr }: Slip, x: number, y: number): void {
  pdf.lineWidth(0.5).dash(3, { space: 3 }).rect(x, y, CELL_WIDTH, CELL_HEIGHT).stroke('#8a8578').undash();
  let down = y + MARGIN;
  for (const { text, words } of qr) {
    module(pdf, text, x + MARGIN, down);
    down = written(pdf, words, WORDS, { x: x + MARGIN + INDENT, y: down + QR, width: QR }) + CAPTION - WORDS.size;
  }
  let line = y + MARGIN;
  const say = (text: string, style: Style, gap: number): void => {
    if (text !== '') line = written(pdf, text, style, { x: x + TEXT_X, y: line, width: TEXT_WIDTH }) + gap;
  };
  say(heading, HEADING, 6);
  for (const text of before) say(text, LINE, 2);
  // What is typed by hand stands on one line, as large as there is room for.
  const widest = (TEXT_WIDTH / widthOf(pdf, code, { face: MONO, size: 1, lines: 1 })) * 0.98;
  line += 4;
  say(code, { face: MONO, size: Math.min(18, widest), lines: 1 }, 8);
  for (const text of after) say(text, LINE, 2);
}

/** A code for cameras (ISO/IEC 18004, correction M) with the room around it that it needs. */
function module(pdf: PDFKit.PDFDocument, text: string, x: number, y: number): void {
  const { data, size } = create(text, { errorCorrectionLevel: 'M' }).modules;
  const each = QR / (size + 2 * QUIET);
  data.forEach((dark, at) => {
    if (dark) pdf.rect(x + (QUIET + (at % size)) * each, y + (QUIET + Math.floor(at / size)) * each, each, each);
  });
  pdf.fill('#000');
}

/** Of a code every sign is told apart, and typed as it stands: `--` is two signs, and no ligature. */
const featuresOf = (face: Face): { readonly features?: PDFKit.Mixins.OpenTypeFeatures[] } =>
  face === MONO ? ({ features: { calt: false, liga: false, clig: false } } as unknown as object) : {};

function widthOf(pdf: PDFKit.PDFDocument, text: string, { face, size }: Style): number {
  return piecesOf(text, face).reduce(
    (sum, piece) => sum + pdf.font(piece.font).fontSize(size).widthOfString(piece.text, featuresOf(face)),
    0,
  );
}

/** Writes words on lines that are as wide as there is room, what is too much cut. @returns where the next line may begin. */
function written(
  pdf: PDFKit.PDFDocument,
  text: string,
  style: Style,
  { x, y, width }: { readonly x: number; readonly y: number; readonly width: number },
): number {
  const lines: string[] = [''];
  for (const word of text.split(/\s+/).flatMap((each) => broken(pdf, each, style, width))) {
    const line = lines.at(-1)!;
    const longer = line === '' ? word : `${line} ${word}`;
    if (line === '' || widthOf(pdf, longer, style) <= width) lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  const shown = lines.slice(0, style.lines);
  if (lines.length > shown.length) shown[shown.length - 1] += ' …';
  let down = y;
  for (const line of shown) {
    let along = x;
    for (const piece of piecesOf(line, style.face)) {
      pdf
        .font(piece.font)
        .fontSize(style.size)
        .fillColor('#000')
        .text(piece.text, along, down, { lineBreak: false, ...featuresOf(style.face) });
      along += pdf.widthOfString(piece.text, featuresOf(style.face));
    }
    down += style.size * 1.25;
  }
  return down;
}

/** A word in parts that each fit. */
function broken(pdf: PDFKit.PDFDocument, word: string, style: Style, width: number): string[] {
  if (widthOf(pdf, word, style) <= width) return [word];
  const parts: string[] = [''];
  for (const letter of word)
    if (widthOf(pdf, parts.at(-1)! + letter, style) <= width) parts[parts.length - 1] += letter;
    else parts.push(letter);
  return parts;
}
