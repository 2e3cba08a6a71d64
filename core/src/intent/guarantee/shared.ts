import { wantsOfEnds } from '../ends';
import type { EstatePart } from '../part';
import { EVERYWHERE, type SharedThing } from '../shared';

/** Guarantees of every site, or of those with a tag. */
export const sharedGuarantees = ({ guarantees = [] }: EstatePart): readonly SharedThing[] =>
  guarantees.map((each) => ({
    kind: 'guarantee',
    id: each.id,
    reach: EVERYWHERE,
    tag: each.tag,
    // What is reached at another site is looked up there alone.
    wants: wantsOfEnds(each.toSite ? { ...each, to: [], besides: null } : each),
  }));
