import { flaw } from '@iron-lattice/core/base';
import type { RingKeyFlaw } from '@iron-lattice/core/wireless';
import { AppError } from '../platform/app-error';

/** Why keys are not made. @param many whether it is said in which row each is. */
export function keyRefusal(flaws: readonly RingKeyFlaw[], many: boolean): AppError {
  const told = flaws.map(({ row, ...each }) => (many ? { ...each, message: `Row ${row + 1}: ${each.message}` } : each));
  const more = told.length > 1 ? ` And ${told.length - 1} more.` : '';
  return new AppError('ring.refused', `${told[0]!.message}${many ? `${more} Nothing was made.` : ''}`, told);
}

/** What is another's already, by row. */
export function takenFlaws(
  made: readonly { readonly name: string; readonly print: string }[],
  taken: readonly { readonly name: string; readonly print: string }[],
): RingKeyFlaw[] {
  const [names, prints] = [new Set(taken.map(({ name }) => name)), new Set(taken.map(({ print }) => print))];
  return made
    .flatMap(({ name, print }, row): RingKeyFlaw[] => [
      ...(names.has(name.toLowerCase())
        ? [{ ...flaw('ring.name-taken', `“${name}” has a key in this ring already.`, 'name'), row }]
        : []),
      ...(prints.has(print) ? [{ ...flaw('ring.key-taken', 'Another of this ring has this key.', 'key'), row }] : []),
    ])
    .slice(0, 100);
}
