import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** SSIDs by name, or by what they are for. */
export function* findSsids({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, purpose } of estate.ssids)
    if (matches(name, purpose ?? ''))
      yield { kind: 'ssid', id, siteId: null, title: name, detail: said('SSID', purpose) };
}
