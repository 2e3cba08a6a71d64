import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Portals by name, by what they are titled, or by what they are for. */
export function* findPortals({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, purpose, words } of estate.portals ?? [])
    if (matches(name, purpose ?? '', ...Object.values(words).map(({ title }) => title)))
      yield { kind: 'portal', id, siteId: null, title: name, detail: said('Portal', purpose) };
}
