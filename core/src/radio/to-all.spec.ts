import fc from 'fast-check';
import { expect, test } from 'vitest';
import { shareToAll, shareToEach } from '.';

test('frames to all take what one takes at the slowest rate, so often', () => {
  // 154 + 46 octets at 1 Mb/s: 192 µs of preamble, 1600 µs, and 28 µs before it.
  expect(shareToAll({ perSecond: 10, octets: 154 }, 1, '2.4')).toBeCloseTo((10 * (28 + 192 + 1600)) / 1e6, 9);
  // At 6 Mb/s 20 µs and symbols of 4 µs with 24 bits each, of 22 + 1600 bits: 68.
  expect(shareToAll({ perSecond: 10, octets: 154 }, 6, '5')).toBeCloseTo((10 * (34 + 20 + 4 * 68)) / 1e6, 9);
  expect(shareToAll({ perSecond: 0, octets: 154 }, 6, '5')).toBe(0);
  expect(shareToAll({ perSecond: 10, octets: 154 }, 1, '5')).toBe(0); // no such rate there
});

test('a copy for each is worth it for few clients that are near, and not for very many', () => {
  const frames = { perSecond: 20, octets: 180 };
  expect(shareToEach(frames, [], '2.4')).toBe(0);
  expect(shareToEach(frames, [72, 72, 72], '2.4')).toBeLessThan(shareToAll(frames, 1, '2.4'));
  expect(shareToEach(frames, Array(60).fill(72), '2.4')).toBeGreaterThan(shareToAll(frames, 1, '2.4'));
});

test('more frames, longer ones, and slower clients never take less', () => {
  const frame = fc.record({ perSecond: fc.integer({ min: 0, max: 500 }), octets: fc.integer({ min: 40, max: 1500 }) });
  fc.assert(
    fc.property(frame, fc.array(fc.integer({ min: 6, max: 900 }), { maxLength: 20 }), (frames, rates) => {
      const longer = { ...frames, octets: frames.octets + 100 };
      expect(shareToAll(longer, 6, '5')).toBeGreaterThanOrEqual(shareToAll(frames, 6, '5'));
      expect(shareToAll(frames, 6, '5')).toBeGreaterThanOrEqual(shareToAll(frames, 12, '5'));
      const halved = rates.map((rate) => rate / 2);
      expect(shareToEach(frames, halved, '5')).toBeGreaterThanOrEqual(shareToEach(frames, rates, '5'));
      expect(shareToEach(frames, [...rates, 54], '5')).toBeGreaterThanOrEqual(shareToEach(frames, rates, '5'));
    }),
  );
});
