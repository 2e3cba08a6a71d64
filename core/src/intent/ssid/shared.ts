import type { EstatePart } from '../part';
import type { SharedThing, Wanted } from '../shared';
import { ssidAt } from './exception';

const joins = (name: string): readonly Wanted[] => [{ kind: 'segment', name, joined: 'segment or pool' }];

/** SSIDs name the segment, or the pool, that their clients join; some another one at single sites. */
export const sharedSsids = ({ ssids }: EstatePart): readonly SharedThing[] =>
  ssids.map((ssid) => {
    const elsewhere = Object.keys(ssid.exceptions ?? {}).filter((id) => ssidAt(ssid, id).segment !== ssid.segment);
    const at = new Map(elsewhere.map((id) => [id, joins(ssidAt(ssid, id).segment)]));
    const { id, reach, segment } = ssid;
    return { kind: 'ssid', id, reach, wants: joins(segment), ...(at.size > 0 ? { at } : {}) };
  });
