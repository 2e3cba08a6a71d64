import type { Segment } from '@iron-lattice/core/intent';
import { richSegments } from '@iron-lattice/core/testing';
import { normaliseSegment } from '@iron-lattice/core/intent';
import { segmentOf, textOf } from './segment-text';

const segment: Segment = {
  id: 'a',
  name: 'Deck',
  vlan: 40,
  subnet: '10.0.40.0/24',
  gateway: '10.0.40.1',
  addresses: { first: '10.0.40.20', last: '10.0.40.99', leaseSeconds: 5400 },
};

const richServer = '00000003-0000-4000-8000-000000000000';

describe('a segment in fields', () => {
  it('comes back as it was', () => {
    expect(segmentOf('a', textOf(segment)).segment).toEqual(segment);
    expect(segmentOf('a', textOf({ ...segment, addresses: null })).segment).toEqual({ ...segment, addresses: null });
  });

  it.each([1, 2, 3, 4])('loses nothing of all a segment can say (seed %i)', (seed) => {
    const roster = [{ id: richServer, siteId: 's', name: 'x-sw-01', serial: 'S', model: 'SW-24P' }];
    for (const rich of richSegments(seed, 12).map(normaliseSegment)) {
      const { segment: back, flaws } = segmentOf(rich.id, textOf(rich, roster), roster);
      expect(flaws).toEqual([]);
      expect(back).toEqual(rich);
    }
  });

  it('keeps what is wrong for the check to name, rather than mending it silently', () => {
    const text = textOf(segment);
    expect(segmentOf('a', { ...text, vlan: '4O' }).segment.vlan).toBe(0);
    expect(segmentOf('a', { ...text, vlan: '40.5' }).segment.vlan).toBe(0);
    expect(segmentOf('a', { ...text, last: ' ' }).segment.addresses).toMatchObject({ last: '' });
    expect(segmentOf('a', { ...text, leaseHours: 'long' }).segment.addresses).toMatchObject({ leaseSeconds: 0 });
  });
});
