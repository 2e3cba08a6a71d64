import { sameValue } from '../../base';
import type { EstatePart } from '../part';
import type { SharedThing, Wanted } from '../shared';
import { ssidAt } from './exception';
import { landingSite } from './landing';
import type { Ssid } from './ssid';

const joins = (name: string): readonly Wanted[] => [{ kind: 'segment', name, joined: 'segment or pool' }];

/** What it looks up at a site: nothing where its clients are carried to another one. */
const wantsAt = (ssid: Ssid, siteId: string): readonly Wanted[] =>
  landingSite(ssid, siteId) === null ? joins(ssid.segment) : [];

/** SSIDs name the segment, or the pool, that their clients join; some another one at single sites. */
export const sharedSsids = ({ ssids }: EstatePart): readonly SharedThing[] =>
  ssids.map((ssid) => {
    const { id, reach } = ssid;
    const wants = wantsAt(ssid, '');
    const own = Object.keys(ssid.exceptions ?? {});
    const ids = new Set([...own, ...(landingSite(ssid, '') ? [ssid.tunnel!] : [])]);
    const at = new Map([...ids].map((siteId) => [siteId, wantsAt(ssidAt(ssid, siteId), siteId)] as const));
    for (const [siteId, there] of at) if (sameValue(there, wants)) at.delete(siteId);
    return { kind: 'ssid', id, reach, wants, ...(at.size > 0 ? { at } : {}) };
  });
