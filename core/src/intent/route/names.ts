import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { viaWords } from './route';

/** Routes by name, by what they are for, or by whom they lead to. */
export function* findRoutes({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, routes = [] } of sites.values())
    for (const { id, name, prefix, via } of routes) {
      const leads = `${prefix} by ${viaWords(via)}`;
      if (!matches(name, leads)) continue;
      yield { ...{ kind: 'route', id, siteId, title: name }, detail: `Route at ${siteName}: ${leads}` };
    }
}
