/** A column of a table: what its cells say and how. */
export interface TableColumn<T> {
  readonly key: string;
  readonly title: string;
  /** Text of a cell; also what is searched, grouped and exported. */
  readonly text: (row: T) => string;
  /** Where a press on its text leads. */
  readonly link?: (row: T) => readonly string[];
  /** What is sorted by when it is not the text. */
  readonly order?: (row: T) => number;
  /** Least width in pixels; the rest of the room is shared by these. */
  readonly width: number;
  readonly mono?: boolean;
  /** A class for the cell: `bad`, `caution`, `good`, `soft`. */
  readonly tone?: (row: T) => string;
  /** Not shown before somebody chooses it. */
  readonly hidden?: boolean;
  /** Worth grouping by. */
  readonly groups?: boolean;
  /** Still shown where there is little room. */
  readonly phone?: boolean;
}

/** What is listed: a row, or the head of a group. */
export type TableItem<T> =
  | { readonly kind: 'row'; readonly row: T; readonly at: number }
  | { readonly kind: 'group'; readonly title: string; readonly count: number };

export interface Sorting {
  readonly key: string;
  readonly down: boolean;
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Rows that hold every word of a text somewhere. @param words of a row, in lower case; remembered by the caller. */
export function filterRows<T>(rows: readonly T[], typed: string, words: (row: T) => string): readonly T[] {
  const wanted = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  if (wanted.length === 0) return rows;
  return rows.filter((row) => {
    const text = words(row);
    return wanted.every((word) => text.includes(word));
  });
}

/** Sorts by a column; empty cells last either way, equal ones as they were. */
export function sortRows<T>(rows: readonly T[], column: TableColumn<T>, down: boolean): readonly T[] {
  const sign = down ? -1 : 1;
  if (column.order) {
    const order = column.order;
    return [...rows].sort((a, b) => sign * (order(a) - order(b)));
  }
  const keyed = rows.map((row) => ({ row, text: column.text(row) }));
  keyed.sort((a, b) => {
    if (a.text === '' || b.text === '') return a.text === b.text ? 0 : a.text === '' ? 1 : -1;
    return sign * collator.compare(a.text, b.text);
  });
  return keyed.map(({ row }) => row);
}

/** Rows as listed, under the heads of their groups when there are any. Groups in their column's order. */
export function groupRows<T>(rows: readonly T[], column: TableColumn<T> | undefined): readonly TableItem<T>[] {
  if (!column) return rows.map((row, at) => ({ kind: 'row', row, at }));
  const groups = new Map<string, T[]>();
  for (const row of rows) {
    const key = column.text(row);
    const group = groups.get(key);
    if (group) group.push(row);
    else groups.set(key, [row]);
  }
  let at = 0;
  return [...groups.keys()].sort(collator.compare).flatMap((key): TableItem<T>[] => {
    const members = groups.get(key)!;
    return [
      { kind: 'group', title: key === '' ? '–' : key, count: members.length },
      ...members.map((row): TableItem<T> => ({ kind: 'row', row, at: at++ })),
    ];
  });
}
