import type { SearchHit } from '../../base';
import { followEnds, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent, SitePart } from '../part';
import { said } from '../purpose';
import { isOfOthers } from './router';

/** What is assumed of a box names segments; it follows them to another name. */
export const namingOfRouters: Naming = {
  userOf: (part, kind, name) => {
    if (part.kind !== 'site') return null;
    const user = part.routers?.find(({ lets }) => lets?.some((rule) => namesEnd(rule, kind, name)));
    return user ? `what is assumed of “${user.name}”` : null;
  },
  follow: (part, renamed) => {
    if (part.kind !== 'site' || !part.routers) return part;
    const routers = part.routers.map((each) => {
      const lets = each.lets && followEnds(each.lets, renamed);
      return lets === each.lets ? each : { ...each, lets };
    });
    return routers.some((each, i) => each !== part.routers![i])
      ? ({ ...part, routers } as SitePart as typeof part)
      : part;
  },
};

/** Routers beside the gateway by name or address, or by what they are. */
export function* findRouters({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, routers = [] } of sites.values())
    for (const router of routers) {
      const { id, name, meets, behind, purpose } = router;
      if (!matches(name, meets?.address ?? '', ...(behind ?? []), purpose ?? '')) continue;
      const what = isOfOthers(router) ? 'Router of others' : 'Switch that routes';
      yield { kind: 'router', id, siteId, title: name, detail: said(`${what} at ${siteName}`, purpose) };
    }
}
