import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';

/** SSIDs by name. */
export function* findSsids({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name } of estate.ssids)
    if (matches(name)) yield { kind: 'ssid', id, siteId: null, title: name, detail: 'SSID' };
}
