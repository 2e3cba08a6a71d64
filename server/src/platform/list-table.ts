import { guardCell, textFault } from '@iron-lattice/core/base';
import { strFromU8, unzipSync, zipSync } from 'fflate';
import Papa from 'papaparse';
import { readSheet as readXlsx } from 'read-excel-file/node';

/** What a person brought: rows of cells as text, or why it cannot be read. */
export type ReadTable =
  | { readonly ok: true; readonly table: readonly (readonly string[])[] }
  | { readonly ok: false; readonly reason: string };

const XLSX_MAGIC = [0x50, 0x4b, 0x03, 0x04]; // a ZIP archive (APPNOTE 4.3.7), which XLSX is (ECMA-376 part 2)
/** What a list holds at most. */
const MOST = { rows: 50_000, columns: 200, cells: 400_000, characters: 10_000 } as const;
/** What a workbook holds at most: octets once it is unpacked, and files. */
const MOST_UNPACKED = 64_000_000;
const MOST_FILES = 500;
const TOO_LARGE = `The list is too large: it may have ${MOST.rows} rows, ${MOST.columns} columns and ${MOST.cells} cells. Part it.`;

class TooLarge extends Error {}

/**
 * Reads a list by what it holds, not by its name: XLSX (its first sheet) or delimited text (RFC 4180; comma,
 * semicolon, tab or blank lines' worth of serial numbers), in UTF-8 with or without a mark. Sizes are looked at before
 * anything is made of them.
 */
export async function readTable(bytes: Uint8Array): Promise<ReadTable> {
  const read = XLSX_MAGIC.every((byte, i) => bytes[i] === byte) ? await readWorkbook(bytes) : readText(bytes);
  if (!read.ok) return read;
  for (const [row, cells] of read.table.entries()) {
    for (const [column, cell] of cells.entries()) {
      const where = `Row ${row + 1}, column ${column + 1}`;
      if (cell.length > MOST.characters)
        return { ok: false, reason: `${where} is longer than ${MOST.characters} characters.` };
      const fault = textFault(cell, true);
      if (fault !== null) return { ok: false, reason: `${where} ${fault}.` };
    }
  }
  return read;
}

/** Rows of cells as a file of text (RFC 4180), safe from being taken for formulas; `readTable` and `readColumns` give them back. */
export const writeTable = (rows: readonly (readonly string[])[]): string =>
  `${Papa.unparse(
    rows.map((row) => row.map(guardCell)),
    { newline: '\r\n' },
  )}\r\n`;

function readText(bytes: Uint8Array): ReadTable {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return { ok: false, reason: 'The file is neither text in UTF-8 nor an XLSX workbook. Save it as one of them.' };
  }
  if (text.includes('\0')) return { ok: false, reason: 'The file is neither text nor an XLSX workbook.' };
  let marks = 0;
  for (const character of text) if (/[,;\t\n\r|]/.test(character) && ++marks > 2 * MOST.cells) return large();
  const { data } = Papa.parse<string[]>(text.trim(), { skipEmptyLines: false, preview: MOST.rows + 1 });
  return fits(data) ? { ok: true, table: data } : large();
}

async function readWorkbook(bytes: Uint8Array): Promise<ReadTable> {
  try {
    const rows = await readXlsx(Buffer.from(checkedWorkbook(bytes)));
    const table = rows.map((row) => row.map(cellText));
    return fits(table) ? { ok: true, table } : large();
  } catch (error) {
    if (error instanceof TooLarge) return large();
    return { ok: false, reason: 'The workbook cannot be read. Save it anew as XLSX or CSV.' };
  }
}

/**
 * Unpacks a workbook no further than its limits and packs it anew, so that whoever reads it finds just what was looked at.
 * @throws TooLarge, or Error for what is no archive.
 */
function checkedWorkbook(bytes: Uint8Array): Uint8Array {
  let [files, octets] = [0, 0];
  const unpacked = unzipSync(bytes, {
    filter: ({ originalSize }) => {
      octets += originalSize;
      if (++files > MOST_FILES || octets > MOST_UNPACKED) throw new TooLarge();
      return true;
    },
  });
  for (const [name, content] of Object.entries(unpacked))
    if (/worksheets\/[^/]+\.xml$/i.test(name)) checkSheet(strFromU8(content));
  return zipSync(unpacked, { level: 0 });
}

/** By the places that a sheet names: one cell far out makes a table of everything before it (ECMA-376 part 1, §18.3.1.4). */
function checkSheet(xml: string): void {
  let [rows, columns, cells] = [0, 0, 0];
  for (const [, letters = '', digits = ''] of xml.matchAll(/\b(?:r|ref)="(?:[A-Z]+\d+:)?([A-Z]*)(\d+)"/gi)) {
    let column = 0;
    for (const letter of letters.toUpperCase()) column = column * 26 + letter.charCodeAt(0) - 64;
    columns = Math.max(columns, column);
    rows = Math.max(rows, Number(digits));
    if (++cells > 2 * MOST.cells || rows > MOST.rows || columns > MOST.columns || rows * columns > MOST.cells)
      throw new TooLarge();
  }
}

const large = (): ReadTable => ({ ok: false, reason: TOO_LARGE });

function fits(table: readonly (readonly unknown[])[]): boolean {
  let cells = 0;
  for (const row of table) {
    cells += row.length;
    if (row.length > MOST.columns || cells > MOST.cells) return false;
  }
  return table.length <= MOST.rows;
}

/** A cell as its text; what a spreadsheet has made a date or a large number of shows as such. */
function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().slice(0, 10);
  if (typeof cell === 'number' && Math.abs(cell) >= 1e11)
    return cell.toExponential(2).toUpperCase().replace('E+', 'E+');
  return typeof cell === 'string' || typeof cell === 'number' || typeof cell === 'boolean' ? String(cell) : '';
}
