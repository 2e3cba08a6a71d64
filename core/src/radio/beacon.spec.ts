import { expect, test } from 'vitest';
import { basicRatesAt, beaconMicros, beaconShare } from './beacon';

test('a beacon is shorter the faster it is sent, and rates of 802.11b are 2.4 GHz alone’s', () => {
  expect(beaconMicros(300, 1, '2.4')).toBe(2592);
  expect(beaconMicros(300, 5.5, '2.4', true)).toBe(96 + Math.ceil(2400 / 5.5));
  expect(beaconMicros(300, 1, '2.4', true)).toBe(2592); // the slowest has the long preamble alone
  expect(beaconMicros(350, 6, '5')! + 6).toBe(beaconMicros(350, 6, '2.4'));
  expect(beaconMicros(350, 11, '5')).toBeNull();
  expect(basicRatesAt('5')).toEqual([6, 9, 12, 18, 24, 36, 48, 54]);
  for (const [i, rate] of basicRatesAt('6').entries())
    if (i > 0) expect(beaconMicros(350, rate, '6')!).toBeLessThan(beaconMicros(350, basicRatesAt('6')[i - 1]!, '6')!);
});

test('what all networks of all APs take of the air is a sum, and beyond all of it nothing is cut off', () => {
  const one = beaconMicros(300, 1, '2.4')!;
  expect(beaconShare(one, 4, 3).share).toBeCloseTo(0.304, 3);
  expect(beaconShare(one, 32, 2)).toMatchObject({ saturated: true });
  expect(beaconShare(one, 32, 2).share).toBeGreaterThan(1);
  expect(beaconShare(one, 1, 1, { interval: 200 }).share).toBeCloseTo(beaconShare(one, 1, 1).share / 2, 10);
  expect(() => beaconMicros(20, 1, '2.4')).toThrow(RangeError);
  expect(() => beaconMicros(300, 7, '2.4')).toThrow(RangeError);
  expect(() => beaconShare(one, 33, 1)).toThrow(RangeError);
  expect(() => beaconShare(one, 1, 1, { interval: 0 })).toThrow(RangeError);
});
