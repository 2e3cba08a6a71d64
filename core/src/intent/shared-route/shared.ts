import type { EstatePart } from '../part';
import type { SharedThing } from '../shared';

/** Routes of many sites look the segment up that they lead to. */
export const sharedRoutes = ({ routes = [] }: EstatePart): readonly SharedThing[] =>
  routes.map(({ id, reach, via }) => ({
    kind: 'route',
    id,
    reach,
    wants: via.kind === 'segment' ? [{ kind: 'segment', name: via.segment, joined: 'segment' }] : [],
  }));
