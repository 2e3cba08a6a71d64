import type { SearchHit } from '../../base';
import { writeEnds } from '../../rules';
import { followIn, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Guarantees name what they are about; they follow it to another name. */
export const namingOfGuarantees: Naming = {
  userOf: (part, kind, name) =>
    part.guarantees?.some((each) => namesEnd(each, kind, name)) ? `a guarantee of ${part.name}` : null,
  follow: (part, renamed) => followIn(part, ['guarantees'], renamed),
};

/** Guarantees by what they are about, or by what they are for. */
export function* findGuarantees({ estate, sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const part of [estate, ...sites.values()])
    for (const { id, kind, from, to, purpose } of part.guarantees ?? []) {
      const title = `${writeEnds(from)} ${kind} ${writeEnds(to)}`;
      if (!matches(title, purpose ?? '')) continue;
      const of = part.kind === 'site' ? `Guarantee of ${part.name}` : 'Guarantee of every site';
      yield { kind: 'guarantee', id, siteId: part.kind === 'site' ? part.id : null, title, detail: said(of, purpose) };
    }
}
