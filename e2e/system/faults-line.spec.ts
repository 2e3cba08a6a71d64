import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pause, TornEstate } from './faults';
import { FOR_MS, LIMIT_MS, SEED, settled, work } from './faults-work';

let estate: TornEstate;
beforeAll(async () => {
  estate = await TornEstate.start(SEED);
  console.log(`faults: seed ${SEED}, ${FOR_MS / 60_000} minutes`);
}, 180_000);
afterAll(() => estate.end());

describe('whatever the line does', () => {
  test(
    'frames that are cut, late or halved stop nobody, and all comes into step when it is over',
    async () => {
      const until = Date.now() + FOR_MS;
      let cuts = 0;
      let over = false;
      const tearing = (async () => {
        while (Date.now() < until && !over) {
          estate.wire.mood = estate.random.pick(['slow', 'torn', 'fine']);
          await pause(500 + estate.random.below(3000));
          if (estate.random.below(2) === 0) estate.wire.cut();
          cuts++;
        }
        estate.wire.mood = 'fine';
      })();
      const done = await work(estate, () => Date.now() > until).finally(() => {
        over = true;
        return tearing;
      });
      await settled(estate);
      console.log(`faults: ${cuts} moods of the line, ${done.renames} edits, ${done.rollouts} rollouts begun`);
      expect(done.renames).toBeGreaterThan(0);
      expect(estate.lives).toBe(true);
      expect(estate.statuses.get(500) ?? 0).toBe(0);
    },
    LIMIT_MS,
  );
});
