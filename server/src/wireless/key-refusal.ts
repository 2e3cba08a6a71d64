import { flaw } from '@iron-lattice/core/base';
import type { RingKeyFlaw } from '@iron-lattice/core/wireless';
import type { AppError } from '../platform/app-error';
import { rowsRefusal } from '../platform/rows-refusal';

/** Why keys are not made. @param many whether it is said in which row each is. */
export const keyRefusal = (flaws: readonly RingKeyFlaw[], many: boolean): AppError =>
  rowsRefusal('ring.refused', flaws, many);

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
