import type { EstatePart } from '../part';
import { EVERYWHERE, type SharedThing } from '../shared';

/** Sets of every site; those that they hold are the estate's too. */
export const sharedSets = ({ sets = [] }: EstatePart): readonly SharedThing[] =>
  sets.map(({ id }) => ({ kind: 'set', id, reach: EVERYWHERE, wants: [] }));
