import { flaw, type Flaw } from './flaw';
import { unguardCell } from './list-cell';

/** A column of a list that people bring: how it may be headed, and whether it must be there. */
export interface ListColumn<K extends string> {
  readonly key: K;
  /** Accepted headings in lower case; the first is the one we write. */
  readonly headings: readonly string[];
  readonly required: boolean;
}

/** A list with its columns found. Rows are numbered as a spreadsheet numbers them, heading included. */
export interface ReadList<K extends string> {
  readonly rows: readonly { readonly line: number; readonly values: Readonly<Record<K, string>> }[];
  readonly flaws: readonly Flaw[];
}

/** One row of a list as it will be taken, or what is wrong with it. */
export interface CheckedRow<T> {
  readonly line: number;
  /** The cells as they came. */
  readonly values: Readonly<Record<string, string>>;
  /** Null when the row has flaws. */
  readonly good: T | null;
  readonly flaws: readonly Flaw[];
}
export interface CheckedList<T> {
  readonly rows: readonly CheckedRow<T>[];
  /** What is wrong with the list as a whole. */
  readonly flaws: readonly Flaw[];
}

/**
 * Finds the columns of a list by its heading row; a list whose first row has no known heading is read by position.
 * Empty rows are left out; surplus columns are ignored.
 * @param table rows of cells, as text.
 */
export function readColumns<K extends string>(
  table: readonly (readonly string[])[],
  columns: readonly ListColumn<K>[],
): ReadList<K> {
  const head = (table[0] ?? []).map((cell) =>
    cell
      .trim()
      .toLowerCase()
      .replace(/[_\s]+/g, ' '),
  );
  const found = new Map<K, number>();
  for (const { key, headings } of columns) {
    const at = head.findIndex((cell) => headings.includes(cell));
    if (at >= 0) found.set(key, at);
  }
  const headed = found.size > 0;
  if (!headed) columns.forEach(({ key }, at) => found.set(key, at));
  const flaws = columns
    .filter(({ key, required }) => required && !found.has(key))
    .map(({ headings }) => flaw('list.column-missing', `The list has no column “${headings[0]}”.`));
  const rows = table.flatMap((cells, at) => {
    if ((headed && at === 0) || cells.every((cell) => cell.trim() === '')) return [];
    const values = Object.fromEntries(
      columns.map(({ key }) => [key, unguardCell((cells[found.get(key) ?? -1] ?? '').trim())]),
    ) as Record<K, string>;
    return [{ line: at + 1, values }];
  });
  return { rows: flaws.length > 0 ? [] : rows, flaws };
}
