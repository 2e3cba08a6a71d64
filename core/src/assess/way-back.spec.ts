import fc from 'fast-check';
import { expect, test } from 'vitest';
import { apply, remade, resolve, stepsBetween, stepsTo, wordsOf, type Intent } from '../intent';
import { compileSite } from '../rollout';
import { readEnds, readServices } from '../rules';
import { sampleId } from '../testing';
import { anyEdit, edited, roster, site, start } from '../testing/random-edits';

const device = (id: string) => roster.find((each) => each.id === id);
const documents = ({ estate, sites }: Intent): unknown => [
  ...compileSite(resolve(estate, sites.get(site.id)!), roster),
];
const all = ['estate', site.id];

test('the edits between two states lead from one to the other, there and back, document by document', () => {
  let [led, steps] = [0, 0];
  fc.assert(
    fc.property(
      fc.array(anyEdit, { maxLength: 14 }),
      fc.array(anyEdit, { minLength: 1, maxLength: 14 }),
      (before, after) => {
        const then = edited(start, before);
        const now = edited(then, after);
        for (const [from, to] of [
          [now, then],
          [then, now],
        ] as const) {
          const way = stepsTo(from, to, all, device);
          if (!way.ok) throw new Error(way.flaws.map(({ message }) => message).join('; '));
          led++;
          steps += way.operations.length;
          expect(stepsBetween(way.intent.estate, to.estate)).toEqual([]);
          expect(stepsBetween(way.intent.sites.get(site.id)!, to.sites.get(site.id)!)).toEqual([]);
          expect(documents(way.intent)).toEqual(documents(to));
        }
      },
    ),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 60 },
  );
  expect([led > 100, steps > led]).toEqual([true, true]);
});

test('things that name each other come and go in an order in which each holds', () => {
  const siteId = site.id;
  const set = { id: sampleId(7, 9), name: 'Hosts', addresses: ['10.1.20.1'] };
  const ends = { from: readEnds('any'), to: readEnds('set Hosts'), services: readServices('any').services };
  const rule = { id: 'r', verdict: 'deny' as const, ...ends };
  const made = edited(start, [
    () => ({ type: 'set.add', siteId, set }),
    () => ({ type: 'rule.add', siteId, rules: [rule], behind: null }),
  ]);
  const types = (from: Intent, to: Intent) => {
    const way = stepsTo(from, to, all, device);
    return way.ok ? way.operations.map(({ type }) => type) : way.flaws;
  };
  expect(types(start, made)).toEqual(['set.add', 'rule.add']);
  expect(types(made, start)).toEqual(['rule.remove', 'set.remove']);
  expect(stepsTo(start, start, all, device)).toMatchObject({ ok: true, operations: [] });
  const part = start.sites.get(siteId)!;
  const without = part.segments.filter(({ id }) => id !== part.managementId).slice(0, 1);
  const left = { ...part, segments: part.segments.filter((each) => !without.includes(each)) };
  expect(stepsBetween(part, left).map(wordsOf)).toEqual(['a segment taken away']);
});

test('what cannot be led back to says why, and does none of it', () => {
  const part = start.sites.get(site.id)!;
  const managed = { ...part, segments: part.segments.filter(({ id }) => id !== part.managementId) };
  const way = stepsTo(start, { ...start, sites: new Map([[site.id, managed]]) }, [site.id], device);
  expect(way).toMatchObject({ ok: false });
  expect(way.ok ? [] : way.flaws.map(({ message }) => message).join()).toMatch(/manage/i);
});

test('an edit that was overtaken fits again once it names what is there now, and does what it was to do', () => {
  let made = 0;
  fc.assert(
    fc.property(anyEdit, fc.array(anyEdit, { minLength: 1, maxLength: 6 }), (mine, others) => {
      const [operation, now] = [mine(start), edited(start, others)];
      if (!operation || apply(now, operation, device).ok || !apply(start, operation, device).ok) return;
      const again = remade(operation, now);
      if (!again) return;
      const outcome = apply(now, again, device);
      if (!outcome.ok) return; // what it names is gone, or its value is somebody else's
      made++;
      // What is there afterwards, by the same fields, is what the edit alone would have left.
      const alone = apply(start, operation, device);
      const left = (intent: Intent) => (remade(operation, intent) as { from?: unknown }).from;
      expect(left(outcome.intent)).toEqual(alone.ok && left(alone.intent));
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 400 },
  );
  expect(made).toBeGreaterThan(10);
});
