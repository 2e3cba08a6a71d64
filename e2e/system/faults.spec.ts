import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pause, randomBy, TornEstate } from './faults';
import { requestsFrom } from './request-generator';

/** What everything has to stand, by a seed. `npm run faults -- --seed N --minutes M` goes on for longer. */
const seed = Number(process.env['FAULTS_SEED'] ?? 1);
const forMs = Number(process.env['FAULTS_MINUTES'] ?? 0.6) * 60_000;
const timeout = forMs + 300_000;
type Json = any; // answers of the API are judged by what the tests expect of them

let estate: TornEstate;
beforeAll(async () => {
  estate = await TornEstate.start(seed);
  console.log(`faults: seed ${seed}, ${forMs / 60_000} minutes of each kind`);
}, 180_000);
afterAll(() => estate.end());

const inStep = async (): Promise<boolean> => {
  const { status, json } = await estate.ask('GET', '/api/estate');
  if (status !== 200) return false;
  return json.sites.every(
    ({ devices }: { devices: Record<string, number> }) =>
      devices['behind']! + devices['silent']! + devices['stuck']! === 0,
  );
};

/**
 * Everybody runs what they should: by the controller’s word, and really. A device that lost its line while it had a document
 * on trial went back, and is told again when a person says so.
 */
async function settled(): Promise<void> {
  let told = 0;
  await estate
    .until(
      'every device is in step',
      async () => {
        if (await inStep()) return true;
        const { json } = await estate.ask('GET', '/api/devices');
        for (const { id, state } of json?.rows ?? [])
          if (state === 'stuck' && (await estate.ask('POST', `/api/devices/${id}/retry`)).status === 204) told++;
        await pause(1000);
        return false;
      },
      180_000,
    )
    .catch(async (error: Error) => {
      const { rows } = await estate.sure('GET', '/api/devices');
      const left = rows.filter((row: Json) => row.state !== 'in step' && row.siteId !== null);
      throw new Error(
        `${error.message}: ${JSON.stringify(left.map(({ name, state, trouble }: Json) => [name, state, trouble]))}`,
      );
    });
  if (told > 0) console.log(`faults: ${told} devices had gone back and were told again`);
  const { rows } = await estate.sure('GET', '/api/devices');
  const really = await estate.running();
  const ours = rows.filter((row: Json) => row.state === 'in step');
  expect(ours.length).toBeGreaterThan(20);
  for (const { id, serial } of ours) {
    const { runs, wants } = await estate.sure('GET', `/api/devices/${id}`);
    expect([serial, runs, really.get(serial)]).toEqual([serial, wants, wants]);
  }
}

/** Edits and rollouts, one after the other, and what the controller said it did. */
async function work(stop: () => boolean): Promise<{ renames: number; rollouts: number }> {
  const { sites } = await estate.sure('GET', '/api/estate');
  const siteId = sites.find((site: Json) => site.name === 'Brinmouth').id;
  let [renames, rollouts] = [0, 0];
  /** Names that the last edit may have given: the one that was answered, and one that nobody knows of. */
  let possible = new Set<string>();
  while (!stop()) {
    const draft = await estate.sure('GET', `/api/drafts/current/sites/${siteId}`);
    const segment = draft.site.segments.at(-1);
    if (possible.size > 0) expect([...possible]).toContain(segment.name);
    const to = { name: `Torn ${renames}-${estate.random.below(1000)}` };
    const operations = [{ type: 'segment.set', siteId, segmentId: segment.id, from: { name: segment.name }, to }];
    const edit = await estate.ask('POST', `/api/drafts/${draft.draft.id}/operations`, {
      head: draft.draft.head,
      operations,
    });
    possible = edit.status === 200 ? new Set([to.name]) : new Set([to.name, segment.name]);
    if (edit.status === 200) renames++;
    expect([200, 0, 409, 503]).toContain(edit.status);
    if (renames % 2 === 1 || edit.status !== 200) continue;
    const begun = await estate.ask('POST', '/api/rollouts', { draftId: draft.draft.id, despiteErrors: true });
    expect([201, 0, 409, 503]).toContain(begun.status);
    if (begun.status === 201) rollouts++;
    await estate.until(
      'no rollout is under way',
      async () => {
        const { status, json } = await estate.ask('GET', '/api/rollouts');
        return status === 200 && json.every((each: Json) => each.endedAt !== null);
      },
      150_000,
    );
  }
  return { renames, rollouts };
}

describe('whatever is killed', () => {
  test(
    'edits that were answered are there, rollouts end, and every device runs what it should',
    async () => {
      await settled();
      const until = Date.now() + forMs;
      let kills = 0;
      let over = false;
      const killing = (async () => {
        while (Date.now() < until && !over) {
          await pause(500 + estate.random.below(3500));
          await estate.kill(estate.random.pick(['controller', 'backend', 'backend', 'postmaster', 'fleet']));
          kills++;
        }
      })();
      const done = await work(() => Date.now() > until).finally(() => {
        over = true;
        return killing;
      });
      await settled();
      const revisions = await estate.sure('GET', '/api/revisions');
      const rollouts = await estate.sure('GET', '/api/rollouts');
      const through = rollouts.filter((each: Json) => each.state === 'done');
      expect(new Set(revisions.map((each: Json) => each.number)).size).toBe(revisions.length);
      expect(through.length).toBe(Math.min(50, revisions.length));
      console.log(
        `faults: ${kills} kills, ${done.renames} edits, ${done.rollouts} rollouts begun, ${through.length} live`,
      );
      expect(kills).toBeGreaterThan(3);
      expect(estate.statuses.get(500) ?? 0).toBe(0);
      expect(estate.faultsLogged()).toEqual([]);
      expect(estate.lives).toBe(true);
    },
    timeout,
  );
});

describe('whatever the line does', () => {
  test(
    'frames that are cut, late or halved stop nobody, and all comes into step when it is over',
    async () => {
      const until = Date.now() + forMs;
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
      const done = await work(() => Date.now() > until).finally(() => {
        over = true;
        return tearing;
      });
      await settled();
      console.log(`faults: ${cuts} moods of the line, ${done.renames} edits, ${done.rollouts} rollouts begun`);
      expect(done.renames).toBeGreaterThan(0);
      expect(estate.lives).toBe(true);
      expect(estate.statuses.get(500) ?? 0).toBe(0);
    },
    timeout,
  );
});

/** What takes as long as somebody wishes, such as a capture, is wished for briefly. */
function brief(body: unknown): unknown {
  const wished = (body as { seconds?: unknown } | undefined)?.seconds;
  return typeof wished === 'number' && wished > 1 && wished <= 60 ? { ...(body as object), seconds: 1 } : body;
}

describe('whatever is asked', () => {
  test(
    'requests made from the API’s own description, right and wrong, are answered in time and never with a fault of ours',
    async () => {
      const { json: document } = await estate.ask('GET', '/api/openapi.json');
      const { sites } = await estate.sure('GET', '/api/estate');
      const { rows } = await estate.sure('GET', '/api/devices');
      const known = [
        ...sites.map((site: Json) => site.id),
        ...rows.slice(0, 20).map((row: Json) => row.id),
        (await estate.sure('GET', '/api/drafts/current')).id,
      ];
      const until = Date.now() + forMs;
      const faults: string[] = [];
      let [asked, slowest] = [0, 0];
      for (const request of requestsFrom(document, randomBy(seed), known)) {
        if (Date.now() > until) break;
        const began = performance.now();
        const { status, json } = await estate.ask(request.method, request.path, brief(request.body));
        const ms = performance.now() - began;
        slowest = Math.max(slowest, ms);
        asked++;
        const words = `${request.method} ${request.path} ${JSON.stringify(request.body)?.slice(0, 300)}`;
        if (status === 0 || status === 500) faults.push(`${status}: ${words}`);
        if (status === 401) await estate.signIn();
        if (status >= 400 && JSON.stringify(json).length > 12_000) faults.push(`a long refusal: ${words}`);
      }
      console.log(`faults: ${asked} requests, the slowest answered in ${slowest.toFixed(0)} ms`);
      expect(faults).toEqual([]);
      expect(asked).toBeGreaterThan(100);
      expect(estate.lives).toBe(true);
    },
    timeout,
  );
});
