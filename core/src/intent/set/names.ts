import type { SearchHit } from '../../base';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Sets hold other sets by name; since a set that is held keeps its name, none has to follow. */
export const namingOfSets: Naming = {
  userOf: ({ sets }, kind, name) => {
    const user = kind === 'set' ? sets?.find((each) => each.sets?.includes(name)) : undefined;
    return user ? `the set “${user.name}”` : null;
  },
  follow: (part) => part,
};

/** Sets by name, by a line of what they hold, or by what they are for. */
export function* findSets({ estate, sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const part of [estate, ...sites.values()])
    for (const { id, name, purpose, addresses = [], ports = [] } of part.sets ?? [])
      if (matches(name, purpose ?? '', ...addresses, ...ports)) {
        const of = part.kind === 'site' ? `Named set of ${part.name}` : 'Named set of every site';
        yield {
          kind: 'set',
          id,
          siteId: part.kind === 'site' ? part.id : null,
          title: name,
          detail: said(of, purpose),
        };
      }
}
