import fc from 'fast-check';
import { expect, test } from 'vitest';
import { leastForRate } from '../radio';
import { rateRanges, type HeardClient } from '.';

const client = (mac: string, best: number, weakest = best): HeardClient => ({ mac, band: '5', best, weakest });

test('a rate leaves out who never came near enough for it, and at times who did not always', () => {
  const near = leastForRate(24);
  const [five] = rateRanges([client('a', near), client('b', near - 1), client('c', near + 20, near - 1)]);
  const at = (rate: number) => five!.rates.find((each) => each.rate === rate);
  expect(five).toMatchObject({ band: '5', clients: 3 });
  expect(at(24)).toEqual({ rate: 24, never: 1, sometimes: 1 });
  expect(at(6)).toEqual({ rate: 6, never: 0, sometimes: 0 });
  expect(rateRanges([])).toEqual([]);
});

test('a faster rate never leaves out fewer, and nobody is counted twice', () => {
  const signals = fc.array(fc.tuple(fc.integer({ min: -100, max: -30 }), fc.integer({ min: 0, max: 40 })), {
    minLength: 1,
  });
  fc.assert(
    fc.property(signals, (all) => {
      const [five] = rateRanges(all.map(([best, by], i) => client(`${i}`, best, best - by)));
      for (const [i, { never, sometimes }] of five!.rates.entries()) {
        expect(never + sometimes).toBeLessThanOrEqual(all.length);
        const next = five!.rates[i + 1];
        if (!next) continue;
        expect(next.never).toBeGreaterThanOrEqual(never);
        expect(next.never + next.sometimes).toBeGreaterThanOrEqual(never + sometimes);
      }
    }),
  );
});
