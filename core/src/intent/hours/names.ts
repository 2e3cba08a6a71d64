import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Hours by name, or by what they are for. */
export function* findHours({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, purpose } of estate.hours ?? [])
    if (matches(name, purpose ?? ''))
      yield { kind: 'hours', id, siteId: null, title: name, detail: said('Hours', purpose) };
}
