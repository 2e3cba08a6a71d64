import type { TableColumn } from './data-rows';

/** How long a file is kept for the browser to save it, in milliseconds: a busy machine begins late. */
const KEPT_MS = 120_000;

/** Has the browser save a file. */
export function saveFile(name: string, file: Blob): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), KEPT_MS);
}

/** Rows as delimited text (RFC 4180), safe from spreadsheets that would run a cell as a formula. */
export async function rowsAsCsv<T>(rows: readonly T[], columns: readonly TableColumn<T>[]): Promise<Blob> {
  const { default: Papa } = await import('papaparse');
  const table = [
    columns.map((column) => column.title),
    ...rows.map((row) => columns.map((column) => column.text(row))),
  ];
  const text = Papa.unparse(table, { escapeFormulae: true, newline: '\r\n' });
  return new Blob([`${text}\r\n`], { type: 'text/csv;charset=utf-8' });
}

/** Rows as a workbook; every cell is text, so that no spreadsheet makes a date or a number of it. */
export async function rowsAsXlsx<T>(rows: readonly T[], columns: readonly TableColumn<T>[]): Promise<Blob> {
  const { default: writeXlsxFile } = await import('write-excel-file/browser');
  const head = columns.map((column) => ({ value: column.title, fontWeight: 'bold' as const }));
  const body = rows.map((row) => columns.map((column) => ({ value: column.text(row), type: String })));
  return writeXlsxFile([head, ...body]).toBlob();
}

/** Has the browser save rows of text, the first of them the heading. */
export async function saveTable(
  name: string,
  [head, ...rows]: readonly (readonly string[])[],
  as: 'csv' | 'xlsx' = 'csv',
): Promise<void> {
  const columns = head!.map((title, at) => ({
    ...{ key: title, title, width: 0 },
    text: (row: readonly string[]) => row[at]!,
  }));
  saveFile(`${name}.${as}`, await (as === 'csv' ? rowsAsCsv : rowsAsXlsx)(rows, columns));
}

/** A value as JSON (RFC 8259), to be read by people too. */
export const asJson = (value: unknown): Blob =>
  new Blob([`${JSON.stringify(value, null, 2)}\n`], { type: 'application/json' });
