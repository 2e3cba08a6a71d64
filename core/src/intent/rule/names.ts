import { followIn, namesEnd } from '../ends';
import type { Naming } from '../noun';

/** Rules name what they are about; they follow it to another name. */
export const namingOfRules: Naming = {
  userOf: (part, kind, name) => {
    const rules = part.kind === 'site' ? part.rules : [...(part.rulesBefore ?? []), ...(part.rulesAfter ?? [])];
    return rules?.some((rule) => namesEnd(rule, kind, name)) ? `a rule of ${part.name}` : null;
  },
  follow: (part, renamed) => followIn(part, ['rules', 'rulesBefore', 'rulesAfter'], renamed),
};
