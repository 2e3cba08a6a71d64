import fc from 'fast-check';
import { expect, test } from 'vitest';
import { canonicalJson } from '../document';
import { sameValue } from '.';

test('values are the same exactly where their canonical JSON is', () => {
  const value = fc.jsonValue({ maxDepth: 3 });
  const shuffled = (of: unknown): unknown =>
    Array.isArray(of)
      ? of.map(shuffled)
      : typeof of === 'object' && of !== null
        ? Object.fromEntries(
            Object.entries(of)
              .reverse()
              .map(([key, each]) => [key, shuffled(each)]),
          )
        : of;
  fc.assert(
    fc.property(value, value, (a, b) => {
      expect(sameValue(a, b)).toBe(canonicalJson(a) === canonicalJson(b));
      expect(sameValue(a, shuffled(a))).toBe(true);
    }),
  );
});

test.each([
  [{ a: undefined }, {}, true],
  [{ a: null }, {}, false],
  [{ a: 1, b: undefined }, { b: 2 }, false],
  [[1, 2], [2, 1], false],
  [[], {}, false],
  ['1', 1, false],
  [{ toString: 1 }, {}, false],
])('%o beside %o: %s', (a, b, same) => {
  expect(sameValue(a, b)).toBe(same);
  expect(sameValue(b, a)).toBe(same);
});
