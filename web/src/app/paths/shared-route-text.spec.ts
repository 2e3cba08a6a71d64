import type { SharedRoute } from '@iron-lattice/core/intent';
import { newSharedRoute, sharedRouteText, sharedRouteTyped } from './shared-route-text';

const route = (via: SharedRoute['via']): SharedRoute => ({
  ...{ id: 'r', name: 'Works', prefix: '172.20.0.0/16', via, metric: 5, tracks: 'itself', off: true, purpose: 'Yard' },
  reach: { kind: 'estate' },
});

describe('a route of many sites', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const vias: SharedRoute['via'][] = [
      { kind: 'segment', segment: 'Crew', nth: 5 },
      { kind: 'uplink', title: 'Dish' },
      { kind: 'nowhere' },
    ];
    for (const via of vias) {
      const { id: _id, ...fields } = route(via);
      expect(sharedRouteTyped(sharedRouteText(route(via)))).toEqual(fields);
    }
    const fresh = newSharedRoute({ kind: 'sites', siteIds: ['a'] });
    expect(sharedRouteTyped({ ...fresh, nth: 'first', metric: 'low' })).toMatchObject({
      ...{ via: { kind: 'segment', nth: -1 }, metric: -1, tracks: null, off: null, purpose: null },
    });
  });
});
