import type { EstatePart } from '../part';
import type { SharedThing } from '../shared';

/** SSIDs name the segment, or the pool, that their clients join. */
export const sharedSsids = ({ ssids }: EstatePart): readonly SharedThing[] =>
  ssids.map(({ id, reach, segment }) => ({
    kind: 'ssid',
    id,
    reach,
    wants: [{ kind: 'segment', name: segment, joined: 'segment or pool' }],
  }));
