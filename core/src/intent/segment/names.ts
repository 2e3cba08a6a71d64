import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Segments by name, VLAN ID or addresses, or by what they are for. */
export function* findSegments({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const site of sites.values())
    for (const { id, name, vlan, subnet, gateway, purpose } of site.segments) {
      if (!matches(name, subnet, gateway, String(vlan), purpose ?? '')) continue;
      const detail = said(`Segment ${vlan} at ${site.name}, ${subnet}`, purpose);
      yield { kind: 'segment', id, siteId: site.id, title: name, detail };
    }
}
