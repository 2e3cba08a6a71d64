import fc from 'fast-check';
import { expect, test } from 'vitest';
import { anyEdit, roster, site, start } from '../testing/random-edits';
import { apply } from './apply';
import type { Intent } from './part';
import { replay, replayFurther, type Numbered, type Replayed } from './replay';

const find = (devices: typeof roster) => (id: string) => devices.find((each) => each.id === id);

/** Edits that follow each other. */
const drafts = fc.array(anyEdit, { minLength: 5, maxLength: 30 }).map((edits) => {
  let now: Intent = start;
  return edits.flatMap((edit, number): Numbered[] => {
    const operation = edit(now);
    const result = operation && apply(now, operation, find(roster));
    if (!result?.ok) return [];
    now = result.intent;
    return [{ ...operation!, number }];
  });
});

test('what is replayed further is what all edits come to: as a draft grows, shrinks, on another base, with other devices', () => {
  fc.assert(
    fc.property(drafts, fc.array(fc.nat(30), { maxLength: 5 }), (operations, cuts) => {
      let before: Replayed | null = null;
      const check = (base: Intent, some: readonly Numbered[], devices = roster): void => {
        const { intent, misfits } = replay(base, some, find(devices));
        before = replayFurther(before, base, some, devices);
        expect([before.intent, before.misfits]).toEqual([intent, misfits]);
      };
      for (const cut of [...cuts, operations.length]) check(start, operations.slice(0, cut));
      // One that was taken back leaves others that no longer fit.
      check(
        start,
        operations.filter((_, i) => i !== 1),
      );
      check(start, operations);
      check({ ...start, estate: { ...start.estate, name: 'Another' } }, operations);
      check(start, operations, roster.slice(1));
    }),
    { numRuns: 40 },
  );
});

test('only what is new is applied', () => {
  const segment = site.segments[0]!;
  const operations = Array.from({ length: 40 }, (_, i): Numbered => {
    const from = i === 0 ? segment.name : `Name ${i - 1}`;
    const edit = { type: 'segment.set', siteId: site.id, segmentId: segment.id } as const;
    return { ...edit, from: { name: from }, to: { name: `Name ${i}` }, number: i };
  });
  const first = replayFurther(null, start, operations.slice(0, 30), roster);
  // Nothing is new: the very same objects.
  expect(replayFurther(first, start, operations.slice(0, 30), [...roster]).intent).toBe(first.intent);
  const all = replayFurther(first, start, operations, roster);
  expect([all.misfits, all.intent.sites.get(site.id)!.segments[0]!.name]).toEqual([[], 'Name 39']);
});
