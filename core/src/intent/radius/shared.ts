import type { EstatePart } from '../part';
import type { SharedThing } from '../shared';

/** RADIUS servers name nothing of a site. */
export const sharedServers = ({ radius = [] }: EstatePart): readonly SharedThing[] =>
  radius.map(({ id, reach }) => ({ kind: 'radius', id, reach, wants: [] }));
