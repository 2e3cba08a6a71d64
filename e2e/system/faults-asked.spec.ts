import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { randomBy, TornEstate } from './faults';
import { FOR_MS, LIMIT_MS, SEED } from './faults-work';
import { requestsFrom } from './request-generator';

type Json = any; // answers of the API are judged by what the tests expect of them

let estate: TornEstate;
beforeAll(async () => {
  estate = await TornEstate.start(SEED);
  console.log(`faults: seed ${SEED}, ${FOR_MS / 60_000} minutes`);
}, 180_000);
afterAll(() => estate.end());

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
      const until = Date.now() + FOR_MS;
      const faults: string[] = [];
      let [asked, slowest] = [0, 0];
      for (const request of requestsFrom(document, randomBy(SEED), known)) {
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
      expect(asked).toBeGreaterThan(20); // a busy machine answers fewer in that time
      expect(estate.lives).toBe(true);
    },
    LIMIT_MS,
  );
});
