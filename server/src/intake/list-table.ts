import Papa from 'papaparse';
import { readSheet as readXlsx } from 'read-excel-file/node';

/** What a person brought: rows of cells as text, or why it cannot be read. */
export type ReadTable =
  | { readonly ok: true; readonly table: readonly (readonly string[])[] }
  | { readonly ok: false; readonly reason: string };

const XLSX_MAGIC = [0x50, 0x4b, 0x03, 0x04]; // a ZIP archive (APPNOTE 4.3.7), which XLSX is (ECMA-376 part 2)
const MOST_CELLS = 400_000;

/**
 * Reads a list by what it holds, not by its name: XLSX (its first sheet) or delimited text (RFC 4180; comma,
 * semicolon, tab or blank lines' worth of serial numbers), in UTF-8 with or without a mark.
 */
export async function readTable(bytes: Uint8Array): Promise<ReadTable> {
  if (XLSX_MAGIC.every((byte, i) => bytes[i] === byte)) return readWorkbook(bytes);
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return { ok: false, reason: 'The file is neither text in UTF-8 nor an XLSX workbook. Save it as one of them.' };
  }
  if (text.includes('\0')) return { ok: false, reason: 'The file is neither text nor an XLSX workbook.' };
  const { data } = Papa.parse<string[]>(text.trim(), { skipEmptyLines: false });
  return { ok: true, table: data };
}

async function readWorkbook(bytes: Uint8Array): Promise<ReadTable> {
  try {
    const rows = await readXlsx(Buffer.from(bytes));
    if (rows.length * (rows[0]?.length ?? 0) > MOST_CELLS)
      return { ok: false, reason: 'The workbook’s first sheet is too large.' };
    return { ok: true, table: rows.map((row) => row.map(cellText)) };
  } catch {
    return { ok: false, reason: 'The workbook cannot be read. Save it anew as XLSX or CSV.' };
  }
}

/** A cell as its text; what a spreadsheet has made a date or a large number of shows as such. */
function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().slice(0, 10);
  if (typeof cell === 'number' && Math.abs(cell) >= 1e11)
    return cell.toExponential(2).toUpperCase().replace('E+', 'E+');
  return typeof cell === 'string' || typeof cell === 'number' || typeof cell === 'boolean' ? String(cell) : '';
}
