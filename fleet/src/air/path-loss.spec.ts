import { expect, test } from 'vitest';
import { pathLoss, type Place, type Wall } from './path-loss';

const at = (name: string, ...where: Place) => ({ name, at: where });
const wall: Wall = { from: [5, -5], to: [5, 5], loss: { '2.4': 8, '5': 14, '6': 15 } };

test('a signal loses more the farther it goes, the same both ways, and never less than in the first metre', () => {
  const [a, b] = [at('a', 0, 0, 3), at('b', 10, 0, 1)];
  expect(pathLoss('5', a, b)).toBe(pathLoss('5', b, a));
  expect(pathLoss('5', a, at('b', 40, 0, 1))).toBeGreaterThan(pathLoss('5', a, b) + 10);
  expect(pathLoss('6', a, b)).toBeGreaterThan(pathLoss('2.4', a, b));
  expect(pathLoss('5', a, at('c', 0, 0, 3))).toBeGreaterThanOrEqual(47.26);
});

test('a wall takes what it takes by band from ways that go through it, and from no other', () => {
  const [a, b, beside] = [at('a', 0, 0, 1), at('b', 10, 0, 1), at('b', 10, 30, 1)];
  for (const band of ['2.4', '5', '6'] as const)
    expect(pathLoss(band, a, b, [wall]) - pathLoss(band, a, b)).toBeCloseTo(wall.loss[band], 9);
  expect(pathLoss('5', a, beside, [wall])).toBe(pathLoss('5', a, beside));
});

test('ways of the same length differ by what lies in them: a few dB, each by its own names', () => {
  const losses = Array.from({ length: 200 }, (_, i) => pathLoss('5', at('a', 0, 0, 1), at(`b${i}`, 10, 0, 1)));
  const mean = losses.reduce((sum, each) => sum + each, 0) / losses.length;
  const spread = Math.sqrt(losses.reduce((sum, each) => sum + (each - mean) ** 2, 0) / losses.length);
  expect(mean).toBeGreaterThan(68);
  expect(mean).toBeLessThan(70.5);
  expect(spread).toBeGreaterThan(2.3);
  expect(spread).toBeLessThan(3.7);
});
