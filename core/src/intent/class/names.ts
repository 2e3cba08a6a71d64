import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';

/** Classes by name, or by a client that is in one. */
export function* findClasses({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, members } of estate.classes ?? []) {
    const member = members.find((each) => matches(each.mac, each.name));
    if (!member && !matches(name)) continue;
    const detail = member && !matches(name) ? `Access class of ${member.name || member.mac}` : 'Access class';
    yield { kind: 'class', id, siteId: null, title: name, detail };
  }
}
