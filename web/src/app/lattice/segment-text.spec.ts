import type { Segment } from '@iron-lattice/core/intent';
import { segmentOf, textOf } from './segment-text';

const segment: Segment = {
  id: 'a',
  name: 'Deck',
  vlan: 40,
  subnet: '10.0.40.0/24',
  gateway: '10.0.40.1',
  addresses: { first: '10.0.40.20', last: '10.0.40.99', leaseSeconds: 5400 },
};

describe('a segment in fields', () => {
  it('comes back as it was', () => {
    expect(segmentOf('a', textOf(segment))).toEqual(segment);
    expect(segmentOf('a', textOf({ ...segment, addresses: null }))).toEqual({ ...segment, addresses: null });
  });

  it('keeps what is wrong for the check to name, rather than mending it silently', () => {
    const text = textOf(segment);
    expect(segmentOf('a', { ...text, vlan: '4O' }).vlan).toBe(0);
    expect(segmentOf('a', { ...text, vlan: '40.5' }).vlan).toBe(0);
    expect(segmentOf('a', { ...text, last: ' ' }).addresses).toMatchObject({ last: '' });
    expect(segmentOf('a', { ...text, leaseHours: 'long' }).addresses).toMatchObject({ leaseSeconds: 0 });
  });
});
