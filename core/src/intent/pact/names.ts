import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Tunnels to gateways of others by name or address, by what is behind them, or by what they are. */
export function* findPacts({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, pacts = [] } of sites.values())
    for (const { id, name, at, other, behind, purpose } of pacts) {
      if (!matches(name, at ?? '', other, ...behind, purpose ?? '')) continue;
      const detail = said(`Tunnel to a gateway of others, ${siteName}`, purpose);
      yield { kind: 'pact', id, siteId, title: name, detail };
    }
}
