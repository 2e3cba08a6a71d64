import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pause, TornEstate } from './faults';
import { FEWEST_KILLS, FOR_MS, LIMIT_MS, SEED, settled, work } from './faults-work';

/** Rollouts that are listed at once. */
const LISTED = 50;
type Json = any; // answers of the API are judged by what the tests expect of them

let estate: TornEstate;
beforeAll(async () => {
  estate = await TornEstate.start(SEED);
  console.log(`faults: seed ${SEED}, ${FOR_MS / 60_000} minutes`);
}, 180_000);
afterAll(() => estate.end());

describe('whatever is killed', () => {
  test(
    'edits that were answered are there, rollouts end, and every device runs what it should',
    async () => {
      await settled(estate);
      const until = Date.now() + FOR_MS;
      let kills = 0;
      const enough = (): boolean => Date.now() > until && kills >= FEWEST_KILLS;
      let over = false;
      const killing = (async () => {
        while (!enough() && !over) {
          await pause(500 + estate.random.below(3500));
          await estate.kill(estate.random.pick(['controller', 'backend', 'backend', 'postmaster', 'fleet']));
          kills++;
        }
      })();
      const done = await work(estate, enough).finally(() => {
        over = true;
        return killing;
      });
      await settled(estate);
      const revisions = await estate.sure('GET', '/api/revisions');
      const rollouts = await estate.sure('GET', '/api/rollouts');
      const through = rollouts.filter((each: Json) => each.state === 'done');
      expect(new Set(revisions.map((each: Json) => each.number)).size).toBe(revisions.length);
      // Each that went through made a revision, and no revision came of anything else; the list has the latest rollouts.
      const numbers = revisions.map((each: Json) => each.number);
      expect(through.map((each: Json) => each.revision)).toEqual(numbers.slice(0, through.length));
      if (rollouts.length < LISTED) expect(through.length).toBe(revisions.length);
      else expect(through.length).toBeGreaterThan(0);
      console.log(
        `faults: ${kills} kills, ${done.renames} edits, ${done.rollouts} rollouts begun, ${through.length} live`,
      );
      expect(estate.statuses.get(500) ?? 0).toBe(0);
      expect(estate.faultsLogged()).toEqual([]);
      expect(estate.lives).toBe(true);
    },
    LIMIT_MS,
  );
});
