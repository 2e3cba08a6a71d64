import { expect } from 'vitest';
import { pause, type TornEstate } from './faults';

/** What everything has to stand, by a seed. `npm run faults -- --seed N --minutes M` goes on for longer. */
export const SEED = Number(process.env['FAULTS_SEED'] ?? 1);
/** How long each kind of fault goes on, in milliseconds. */
export const FOR_MS = Number(process.env['FAULTS_MINUTES'] ?? 0.2) * 60_000;
/** So much is killed at the least, however slow the machine is. */
export const FEWEST_KILLS = 4;
export const LIMIT_MS = FOR_MS + 300_000;
type Json = any; // answers of the API are judged by what the tests expect of them

const inStep = async (estate: TornEstate): Promise<boolean> => {
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
export async function settled(estate: TornEstate): Promise<void> {
  let told = 0;
  await estate
    .until(
      'every device is in step',
      async () => {
        if (await inStep(estate)) return true;
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
export async function work(estate: TornEstate, stop: () => boolean): Promise<{ renames: number; rollouts: number }> {
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
