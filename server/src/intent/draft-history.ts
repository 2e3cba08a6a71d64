import type { OperationRow } from './intent.model';

/** Edits that count: neither undone nor mere marks that another was. In order. */
export const inForce = (rows: readonly OperationRow[]): OperationRow[] =>
  rows.filter((row) => row.undoes === null && !row.undone);

/** The edit that an undo would take back: the last in force that does not itself take back a live one. */
export const lastEdit = (rows: readonly OperationRow[]): OperationRow | undefined =>
  inForce(rows).findLast((row) => row.reverts === null);

/** The undo that a redo would settle: the newest one, unless something was edited since. */
export function redoable(rows: readonly OperationRow[]): OperationRow | undefined {
  const newest = lastEdit(rows)?.number ?? 0;
  return rows.findLast((row) => !row.undone && (row.undoes !== null || row.reverts !== null) && row.number > newest);
}

/** All that one press made of what one row is part of, in order. */
export const togetherWith = (rows: readonly OperationRow[], row: OperationRow): OperationRow[] =>
  row.together === null ? [row] : rows.filter(({ together }) => together === row.together);

/** How an edit is named by one that takes it back in a later draft. */
export const nameOf = (row: OperationRow): string => `${row.draftId} ${row.number}`;
