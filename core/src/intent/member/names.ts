import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';

/** Joined sites by name, by what others reach there, or by where they are found. */
export function* findMembers({ estate, sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, siteId, role } of estate.members ?? []) {
    const join = estate.joins?.[id];
    const name = sites.get(siteId)?.name ?? '';
    if (!matches(name, ...(join?.carries ?? []), ...(join?.at ?? []))) continue;
    const detail = `Joined to other sites as a ${role}: ${join?.carries.length ?? 0} prefixes`;
    yield { ...{ kind: 'member', id, siteId: null, title: name }, detail };
  }
}
