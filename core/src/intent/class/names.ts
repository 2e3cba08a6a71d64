import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Classes by name, by a client that is in one, or by what they are for. */
export function* findClasses({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, members, purpose } of estate.classes ?? []) {
    const member = members.find((each) => matches(each.mac, each.name));
    if (!member && !matches(name, purpose ?? '')) continue;
    const detail =
      member && !matches(name) ? `Access class of ${member.name || member.mac}` : said('Access class', purpose);
    yield { kind: 'class', id, siteId: null, title: name, detail };
  }
}
