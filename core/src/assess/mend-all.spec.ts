import fc from 'fast-check';
import { expect, test } from 'vitest';
import { apply } from '../intent';
import { sampleSite } from '../testing';
import { findingsOf, mendAll } from '.';

test('mending all leaves what only a person can settle, adds each tag once, and applies in order', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 30 }), fc.integer(), (holes, seed) => {
      const { intent, site, roster, links } = sampleSite({ segments: 6, aps: 45, holes, seed });
      const lookup = (id: string) => roster.find((device) => device.id === id);
      const plan = mendAll(intent, { roster, links }, site.id, lookup);
      expect(plan.left).toEqual([]);
      const operations = plan.steps.flatMap((step) => step.operations);
      expect(new Set(operations.map((operation) => JSON.stringify(operation))).size).toBe(operations.length);
      let now = intent;
      for (const operation of operations) {
        const result = apply(now, operation, lookup);
        if (!result.ok) throw new Error(result.flaws[0]!.message);
        now = result.intent;
      }
      expect(findingsOf({ estate: now.estate, site: now.sites.get(site.id)!, roster, links })).toEqual([]);
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 15 },
  );
});
