import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Port duties by name, or by what they are for. */
export function* findDuties({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const site of sites.values())
    for (const { id, name, purpose } of site.duties ?? [])
      if (matches(name, purpose ?? ''))
        yield { kind: 'duty', id, siteId: site.id, title: name, detail: said(`Port duty at ${site.name}`, purpose) };
}
