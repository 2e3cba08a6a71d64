import type { Flaw } from '@iron-lattice/core/base';
import { AppError, type ErrorCode } from './app-error';

/** What is wrong with one of several, by its place. */
export type RowFlaw = Flaw & { readonly row: number };

/** Why none of several is made. @param many whether it is said in which row each flaw is. */
export function rowsRefusal(code: ErrorCode, flaws: readonly RowFlaw[], many: boolean): AppError {
  const told = flaws.map(({ row, ...each }) => (many ? { ...each, message: `Row ${row + 1}: ${each.message}` } : each));
  const more = told.length > 1 ? ` And ${told.length - 1} more.` : '';
  return new AppError(code, `${told[0]!.message}${many ? `${more} Nothing was made.` : ''}`, told);
}
