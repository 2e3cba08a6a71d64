import fc from 'fast-check';
import { expect, test } from 'vitest';
import { contains, parseIp, parsePrefix } from '../address';
import { checkSegment, normaliseSegment, type Segment } from '../intent';
import { sampleSegment, sampleSite } from '../testing';
import { moveSegment } from './segment-move';

const { site } = sampleSite({ segments: 1, aps: 1 });
const crew: Segment = {
  ...sampleSegment(1),
  addresses: {
    first: '10.1.10.50',
    last: '10.1.10.199',
    leaseSeconds: 3600,
    also: [{ first: '10.1.10.220', last: '10.1.10.230' }],
    exclude: [{ first: '10.1.10.60', last: '10.1.10.69' }],
    reservations: [{ mac: '02:00:00:00:00:01', address: '10.1.10.9', name: 'Till printer' }],
    dns: ['10.1.10.1', '192.0.2.53'],
    from: { kind: 'switch', deviceId: 'sw', address: '10.1.10.2' },
  },
};

test('everything inside goes along, what is outside stays', () => {
  const { segment, moves } = moveSegment(crew, '10.77.4.9/24')!;
  expect(segment).toMatchObject({
    subnet: '10.77.4.0/24',
    gateway: '10.77.4.1',
    addresses: {
      first: '10.77.4.50',
      last: '10.77.4.199',
      also: [{ first: '10.77.4.220', last: '10.77.4.230' }],
      exclude: [{ first: '10.77.4.60', last: '10.77.4.69' }],
      reservations: [{ mac: '02:00:00:00:00:01', address: '10.77.4.9', name: 'Till printer' }],
      dns: ['10.77.4.1', '192.0.2.53'],
      from: { kind: 'switch', deviceId: 'sw', address: '10.77.4.2' },
    },
  });
  expect(moves).toEqual([
    { what: 'gateway', from: '10.1.10.1', to: '10.77.4.1' },
    { what: 'range', from: '10.1.10.50 – 10.1.10.199', to: '10.77.4.50 – 10.77.4.199' },
    { what: 'reservation Till printer', from: '10.1.10.9', to: '10.77.4.9' },
  ]);
});

test('what has no place in a smaller subnet is said, and nothing is left outside', () => {
  const late = {
    ...crew,
    addresses: { ...crew.addresses!, reservations: [{ mac: '02:00:00:00:00:01', address: '10.1.10.99', name: '' }] },
  };
  const { segment, moves } = moveSegment(late, '10.77.4.0/27')!;
  expect(moves).toContainEqual({ what: 'reservation 02:00:00:00:00:01', from: '10.1.10.99', to: null });
  expect(segment.addresses!.reservations).toEqual([]);
  expect(checkSegment(normaliseSegment(segment), site.id, [site])).toEqual([]);
});

test('moving there and back leaves the same segment, and every address lies in its subnet', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 0xff_ff }), fc.integer({ min: 24, max: 24 }), (block, length) => {
      const target = `172.${16 + (block >> 12)}.${block & 255}.0/${length}`;
      const there = moveSegment(crew, target)!.segment;
      const subnet = parsePrefix(target)!;
      const { first, last, reservations } = there.addresses!;
      for (const text of [there.gateway, first, last, ...reservations!.map((each) => each.address)])
        expect(contains(subnet, parseIp(text)!)).toBe(true);
      expect(moveSegment(there, crew.subnet)!.segment).toEqual(crew);
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 60 },
  );
});
