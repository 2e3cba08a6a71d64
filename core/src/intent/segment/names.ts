import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';

/** Segments by name, VLAN ID or addresses. */
export function* findSegments({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const site of sites.values())
    for (const { id, name, vlan, subnet, gateway } of site.segments) {
      if (!matches(name, subnet, gateway, String(vlan))) continue;
      const detail = `Segment ${vlan} at ${site.name}, ${subnet}`;
      yield { kind: 'segment', id, siteId: site.id, title: name, detail };
    }
}
