import type { SearchHit } from '../../base';
import { writeEnds, type Rule } from '../../rules';
import { followIn, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent, Part } from '../part';
import { said } from '../purpose';

const rulesOf = (part: Part): readonly Rule[] =>
  part.kind === 'site' ? (part.rules ?? []) : [...(part.rulesBefore ?? []), ...(part.rulesAfter ?? [])];

/** Rules name what they are about; they follow it to another name. */
export const namingOfRules: Naming = {
  userOf: (part, kind, name) => {
    return rulesOf(part).some((rule) => namesEnd(rule, kind, name)) ? `a rule of ${part.name}` : null;
  },
  follow: (part, renamed) => followIn(part, ['rules', 'rulesBefore', 'rulesAfter'], renamed),
};

/** Rules by their ends, or by what they are for. */
export function* findRules({ estate, sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const part of [estate, ...sites.values()])
    for (const { id, verdict, from, to, comment } of rulesOf(part)) {
      const title = `${verdict} ${writeEnds(from)} to ${writeEnds(to)}`;
      if (!matches(title, comment ?? '')) continue;
      const of = part.kind === 'site' ? `Rule of ${part.name}` : 'Rule of every site';
      yield { kind: 'rule', id, siteId: part.kind === 'site' ? part.id : null, title, detail: said(of, comment) };
    }
}
