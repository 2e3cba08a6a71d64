import type { SentConsequences } from '@iron-lattice/core/assess';
import { expect, test } from 'vitest';
import { rememberedConsequences } from './remembered';

/** Consequences at a site whose grid has so many rows. */
const told = (rows: number): SentConsequences =>
  ({
    findings: [],
    changes: [{}],
    grid: { rows: Array.from({ length: rows }, () => ({})) },
  }) as unknown as SentConsequences;

test('small ones are remembered by the thousand, of large ones the latest that weigh as much as may be', () => {
  const all = rememberedConsequences();
  for (let i = 0; i < 3000; i++) all.set(`small ${i}`, told(10));
  expect([all.has('small 999'), all.has('small 1000'), all.has('small 2999')]).toEqual([false, true, true]);
  for (let i = 0; i < 30; i++) all.set(`large ${i}`, told(50_000));
  const kept = Array.from({ length: 30 }, (_, i) => all.has(`large ${i}`)).filter(Boolean).length;
  expect(kept).toBe(5);
  expect([all.has('large 29'), all.has('large 0'), all.has('small 2999')]).toEqual([true, false, false]);
  // One that weighs more than all may is not remembered, and drives nobody out.
  all.set('huge', told(700_000));
  expect([all.has('huge'), all.has('large 29')]).toEqual([false, true]);
});
