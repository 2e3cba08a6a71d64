import type { RingKeyFlaw } from '@iron-lattice/core/wireless';
import { AppError } from '../platform/app-error';

/** Why keys are not made. @param many whether it is said in which row each is. */
export function keyRefusal(flaws: readonly RingKeyFlaw[], many: boolean): AppError {
  const told = flaws.map(({ row, ...each }) => (many ? { ...each, message: `Row ${row + 1}: ${each.message}` } : each));
  const more = told.length > 1 ? ` And ${told.length - 1} more.` : '';
  return new AppError('ring.refused', `${told[0]!.message}${many ? `${more} Nothing was made.` : ''}`, told);
}
