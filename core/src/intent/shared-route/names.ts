import type { SearchHit } from '../../base';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';
import { sharedViaWords } from './shared-route';

/** Routes of many sites name a segment that each site has or has not: what one of them is called at one site is no matter of theirs. */
export const namingOfSharedRoutes: Naming = { userOf: () => null, follow: (part) => part };

/** Routes of many sites by name, by what they are for, or by where they lead. */
export function* findSharedRoutes({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, prefix, via, purpose } of estate.routes ?? []) {
    const leads = `${prefix} by ${sharedViaWords(via)}`;
    if (!matches(name, leads, purpose ?? '')) continue;
    yield { kind: 'route', id, siteId: null, title: name, detail: said(`Route of sites: ${leads}`, purpose) };
  }
}
