import { computed, type Signal } from '@angular/core';
import { DIFFERS } from '../ui/choice-cell';

/** Rows that a form edits together: as long as they are the same ones, what is typed stays. */
export interface PickedRows<Row> {
  readonly key: string;
  readonly rows: readonly Row[];
}

/** The rows of a form with what tells them from others. */
export const pickedRows = <Row>(rows: Signal<readonly Row[]>, keyOf: (row: Row) => string): Signal<PickedRows<Row>> =>
  computed(() => ({ key: rows().map(keyOf).sort().join(), rows: rows() }));

/** What rows have in common; where they differ it is said. */
export function inCommon<Row, T>(rows: readonly Row[], of: (row: Row) => T): T | typeof DIFFERS | undefined {
  const values = rows.map(of);
  return values.every((value) => value === values[0]) ? values[0] : DIFFERS;
}

/** A power that was typed, in dBm; null: nothing was. What is no number becomes NaN, which is refused. */
export function powerTyped(typed: string): number | null {
  const text = typed
    .trim()
    .replace(',', '.')
    .replace(/\s*dBm$/i, '');
  return text === '' ? null : Number(text);
}
