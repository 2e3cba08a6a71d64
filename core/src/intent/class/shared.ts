import type { EstatePart } from '../part';
import type { SharedThing } from '../shared';

/** Classes name the segment that their clients join. */
export const sharedClasses = ({ classes = [] }: EstatePart): readonly SharedThing[] =>
  classes.map(({ id, reach, segment }) => ({
    kind: 'class',
    id,
    reach,
    wants: [{ kind: 'segment', name: segment, joined: 'segment' }],
  }));
