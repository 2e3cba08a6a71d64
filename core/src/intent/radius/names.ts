import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** RADIUS servers by name, address, or what they are for. */
export function* findServers({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, own, address, purpose } of estate.radius ?? [])
    if (matches(name, address, purpose ?? ''))
      yield {
        kind: 'radius',
        id,
        siteId: null,
        title: name,
        detail: said(own ? 'RADIUS server, this controller' : `RADIUS server at ${address}`, purpose),
      };
}
