import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pause, TornEstate } from './faults';
import { FEWEST_KILLS, FOR_MS, LIMIT_MS, SEED, settled } from './faults-work';

type Json = any; // answers of the API are judged by what the tests expect of them

let estate: TornEstate;
/** Odd seeds have two controllers, which take over from each other. */
const CONTROLLERS = SEED % 2 === 1 ? 2 : 1;
beforeAll(async () => {
  estate = await TornEstate.start(SEED, CONTROLLERS);
  console.log(`faults: seed ${SEED}, ${FOR_MS / 60_000} minutes, ${CONTROLLERS} controllers`);
}, 180_000);
afterAll(() => estate.end());

/** The name on the air that each access point should send, by what is live at its site and by what it was told. */
async function onAir(ssidId: string): Promise<{ site: string; live: string; told: string }[]> {
  const rows = await estate.query<{ site: string; ssids: Json[]; body: Json }>(
    `SELECT s.name AS site, p.body->'ssids' AS ssids, doc.body FROM device d JOIN site s ON s.id = d.site_id
     JOIN part p ON p.hash = s.live_estate JOIN document doc ON doc.hash = d.wants WHERE d.name LIKE '%-ap-%'`,
  );
  return rows.map(({ site, ssids, body }) => ({
    site,
    live: ssids.find(({ id }) => id === ssidId).name,
    told: /Torn \d+/.exec(JSON.stringify(body))?.[0] ?? 'Skerrow Crew',
  }));
}

/** One rollout in waves of a new name, of which people ask this and that; @returns how it ended, and the name. */
async function wave(ssidId: string, number: number): Promise<{ state: string; name: string } | null> {
  const draft = await estate.sure('GET', '/api/drafts/current');
  const { json: site } = await estate.ask('GET', `/api/drafts/${draft.id}/sites/${(await sites())[0].id}`);
  const ssid = site?.estate?.ssids.find(({ id }: Json) => id === ssidId);
  if (!ssid) return null;
  const name = `Torn ${number}`;
  const operations = [{ type: 'ssid.set', ssidId, from: { name: ssid.name }, to: { name } }];
  const edit = await estate.ask('POST', `/api/drafts/${draft.id}/operations`, { head: draft.head, operations });
  expect([200, 0, 409, 503]).toContain(edit.status);
  const checks = { inStep: estate.random.below(2) === 0, clients: null, guarantees: false, suites: false };
  const waves = {
    ...{ canary: estate.random.pick(['none', 'device', 'kinds', 'site']), by: estate.random.pick(['share', 'site']) },
    ...{ waitSeconds: estate.random.below(2), checks, onFailure: estate.random.pick(['pause', 'go-back']) },
    forSilent: false,
  };
  const begun = await estate.ask('POST', '/api/rollouts', { draftId: draft.id, despiteErrors: true, waves });
  expect([201, 0, 409, 503]).toContain(begun.status);
  const [started] = await estate.sure('GET', '/api/rollouts');
  if (!started) return null;
  let ended: Json = null;
  await estate.until(
    'the rollout is over',
    async () => {
      const { status, json } = await estate.ask('GET', `/api/rollouts/${started.id}`);
      if (status !== 200) return false;
      if (json.endedAt !== null) return (ended = json);
      const wish = json.state === 'paused' ? estate.random.pick(['go-on', 'go-on', 'stop', 'cancel']) : null;
      const nudge = estate.random.below(12) === 0 ? estate.random.pick(['pause', 'pause', 'stop', 'cancel']) : null;
      // Two at once, now and then.
      const asks = [wish ?? nudge, estate.random.below(4) === 0 ? (wish ?? nudge) : null].filter(
        (each) => each !== null,
      );
      for (const { status: said } of await Promise.all(
        asks.map((each) => estate.ask('POST', `/api/rollouts/${started.id}/${each}`)),
      ))
        expect([204, 0, 409, 503]).toContain(said);
      await pause(150);
      return false;
    },
    150_000,
  );
  return { state: ended.state, name };
}

const sites = async (): Promise<Json[]> => (await estate.sure('GET', '/api/estate')).sites;

describe('whatever is killed while waves go', () => {
  test(
    'each rollout ends; a site follows one revision as a whole, the one it is said to follow, and nothing else',
    async () => {
      await settled(estate);
      const draft = await estate.sure('GET', `/api/drafts/current/sites/${(await sites())[0].id}`);
      const ssidId = draft.estate.ssids.find(({ name }: Json) => name === 'Skerrow Crew').id;
      const until = Date.now() + FOR_MS;
      let [kills, number, over] = [0, 0, false];
      const enough = (): boolean => Date.now() > until && kills >= FEWEST_KILLS;
      const killing = (async () => {
        while (!enough() && !over) {
          await pause(500 + estate.random.below(3500));
          await estate.kill(
            estate.random.pick(['controller', 'controller', 'backend', 'backend', 'postmaster', 'fleet']),
          );
          kills++;
        }
      })();
      const ends: Record<string, number> = {};
      const work = (async () => {
        while (!enough()) {
          const ended = await wave(ssidId, ++number);
          if (!ended) continue;
          ends[ended.state] = (ends[ended.state] ?? 0) + 1;
          for (const { site, live, told } of await onAir(ssidId))
            expect([ended.state, site, told]).toEqual([ended.state, site, live]);
        }
      })();
      await work.finally(() => {
        over = true;
        return killing;
      });
      await settled(estate);
      const air = await onAir(ssidId);
      for (const { site, live, told } of air) expect([site, told]).toEqual([site, live]);
      const newest = await estate.query<{ name: string }>(
        `SELECT x->>'name' AS name FROM estate e JOIN revision r ON r.number = e.live_revision
         JOIN part p ON p.hash = r.parts->>'estate', jsonb_array_elements(p.body->'ssids') x WHERE x->>'id' = '${ssidId}'`,
      );
      for (const { name, behind } of await sites())
        for (const { site, told } of air)
          if (site === name) expect([site, told === (newest[0]?.name ?? 'Skerrow Crew')]).toEqual([site, !behind]);
      console.log(`faults: ${kills} kills, ${number} edits, rollouts that ended as ${JSON.stringify(ends)}`);
      expect(number).toBeGreaterThan(0);
      expect(estate.statuses.get(500) ?? 0).toBe(0);
      expect(estate.faultsLogged()).toEqual([]);
      expect(estate.lives).toBe(true);
    },
    LIMIT_MS,
  );
});
