import { wantsOfEnds } from '../ends';
import type { EstatePart } from '../part';
import { EVERYWHERE, type SharedThing } from '../shared';

/** Rules of every site, before and after its own. */
export const sharedRules = ({ rulesBefore = [], rulesAfter = [] }: EstatePart): readonly SharedThing[] =>
  [...rulesBefore, ...rulesAfter].map((rule) => ({
    kind: 'rule',
    id: rule.id,
    reach: EVERYWHERE,
    wants: wantsOfEnds(rule),
  }));
