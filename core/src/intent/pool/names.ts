import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Pools by name, or by what they are for. */
export function* findPools({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const site of sites.values())
    for (const { id, name, vlans, purpose } of site.pools ?? [])
      if (matches(name, purpose ?? '')) {
        const detail = said(`Pool of ${vlans} at ${site.name}`, purpose);
        yield { kind: 'pool', id, siteId: site.id, title: name, detail };
      }
}
