import fc from 'fast-check';
import { expect, test } from 'vitest';
import { apply, resolve, type RosterDevice } from '../intent';
import { compileSite } from '../rollout';
import { PolicyBook } from '../rules';
import { consequencesOf, type ConsequencesInput } from './consequences';
import { anyEdit, links, roster, site, start } from '../testing/random-edits';

const [, , , ap] = roster as [RosterDevice, RosterDevice, RosterDevice, RosterDevice];
/** What is said of a device beside the intent. */
const devices = fc
  .tuple(fc.nat(4), fc.nat(5), fc.boolean())
  .map(([i, last, lightOff]) => (now: readonly RosterDevice[]) => {
    const address = { address: `10.1.1.${10 + last}`, length: 24, gateway: '10.1.1.1', dns: [] };
    return now.map((each, at) => {
      if (at !== i % now.length) return each;
      const { lightOff: _was, ...rest } = each;
      return { ...rest, ...(lightOff ? { lightOff: true as const } : {}), ...(each === ap ? {} : { address }) };
    });
  });

test('what is remembered between edits is what would be worked out anew, document by document and finding by finding', () => {
  const step = fc.oneof(
    { weight: 5, arbitrary: anyEdit.map((make) => ({ make, change: null })) },
    {
      weight: 1,
      arbitrary: devices.map((change) => ({ make: null, change })),
    },
  );
  let edits = 0;
  const book = new PolicyBook();
  fc.assert(
    fc.property(fc.array(step, { minLength: 8, maxLength: 16 }), (steps) => {
      let [now, ours] = [start, roster];
      for (const { make, change } of steps) {
        if (change) ours = change(ours);
        const operation = make?.(now) ?? null;
        const outcome = operation && apply(now, operation, (id) => ours.find((each) => each.id === id));
        if (outcome?.ok) now = outcome.intent;
        if (!change && !outcome?.ok) continue;
        edits++;
        const input: ConsequencesInput = {
          estate: now.estate,
          site: now.sites.get(site.id)!,
          roster: ours,
          links,
          told: {},
        };
        const anew = structuredClone(input); // other objects: nothing is known of them
        const documents = compileSite(resolve(input.estate, input.site), input.roster);
        expect([...documents]).toEqual([...compileSite(resolve(anew.estate, anew.site), anew.roster)]);
        expect(consequencesOf(input, book)).toEqual(consequencesOf(anew));
      }
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 30 },
  );
  expect(edits).toBeGreaterThan(100); // most of them fit
}, 240_000); // a bound for what hangs: it is much arithmetic, and others may share the processors
