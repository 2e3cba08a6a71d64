import fc from 'fast-check';
import { expect, test } from 'vitest';
import { readCoordinates, writeCoordinates } from './coordinates';

const degrees = (most: number) =>
  fc.integer({ min: -most * 1_000_000, max: most * 1_000_000 }).map((millionths) => millionths / 1_000_000 + 0);

test('what is written is read again, all over the earth', () => {
  fc.assert(
    fc.property(degrees(90), degrees(180), (latitude, longitude) => {
      expect(readCoordinates(writeCoordinates({ latitude, longitude }))).toEqual({ latitude, longitude });
    }),
  );
});

test.each([
  ['53.3498, -6.2603', 53.3498, -6.2603],
  ['53.3498N; 6.2603W', 53.3498, -6.2603],
  ['53° 20\' 59.28" N, 6° 15\' 37.08" W', 53.3498, -6.2603],
  ['  -90 ,180 ', -90, 180],
  ['12.5 S, 0', -12.5, 0],
])('%s is a point', (text, latitude, longitude) => {
  expect(readCoordinates(text)).toEqual({ latitude, longitude });
});

test.each(['', '53.3', '91, 0', '0, 181', '-5 S, 0', '10 E, 10 N', "10° 61' N, 0", 'here, there', '1, 2, 3'])(
  '%s is none',
  (text) => {
    expect(readCoordinates(text)).toBeNull();
  },
);
