import { randomUUID } from 'node:crypto';
import type { DraftView } from '@iron-lattice/core/assess';
import type { RolloutCheck } from '@iron-lattice/core/rollout';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { held, plan, ThreeSites } from '../testing/three-sites';

let sites: ThreeSites;
let ada: TestCaller;
/** Two SSIDs: one for Alder and Birch, one for Cedar, where another access point stands. */
const [north, south] = [randomUUID(), randomUUID()];
const aired = { north: 'North 0', south: 'South 0' };
let written = 0;
let second: TestDevice;

beforeAll(async () => {
  sites = await ThreeSites.start();
  ({ ada } = sites);
  second = new TestDevice(sites.setting.controller.url, 'AP-0004', 'AP-6', '02:00:00:00:01:04');
  await second.call();
  void second.obey();
  await ada.post(`/api/sites/${sites.ids.Cedar}/claims`, { serials: ['AP-0004'] });
  const { Alder, Birch, Cedar } = sites.ids;
  const both = [
    sites.ssid(north, aired.north, { kind: 'sites', siteIds: [Alder, Birch] }),
    sites.ssid(south, aired.south, { kind: 'sites', siteIds: [Cedar] }),
  ];
  const operations = both.map(({ ssid }) => ({ type: 'ssid.add', ssid }));
  await sites.edit(operations, Object.assign({}, ...both.map(({ secrets }) => secrets)));
  await sites.over((await sites.begin()).id);
});
afterAll(async () => {
  second.hangUp();
  await sites.end();
});

/** An edit of what one of the two halves shares. */
const renamed = (half: 'north' | 'south') => {
  const [from, to] = [{ name: aired[half] }, { name: `${half === 'north' ? 'North' : 'South'} ${++written}` }];
  return { name: to.name, edit: { type: 'ssid.set', ssidId: half === 'north' ? north : south, from, to } };
};
/** Begins another draft with an edit of a half, and rolls it out in waves. @returns names of before and after, and the rollout. */
async function roll(half: 'north' | 'south', how = plan({ canary: 'device', waitSeconds: 600, onFailure: 'pause' })) {
  const { name, edit } = renamed(half);
  await sites.edit([edit]);
  const draft: DraftView = await sites.current();
  const { id, devices } = await sites.begin(how);
  return { was: aired[half], name, id, devices, draft };
}
/** Ends the wait between two waves. */
async function nextWave(id: string): Promise<void> {
  await sites.ask(id, 'pause');
  await sites.is(id, 'paused');
  await sites.ask(id, 'go-on');
}
const another = () => ada.post('/api/drafts', {});
const check = async (): Promise<RolloutCheck> => ada.get(`/api/drafts/${(await sites.current()).id}/rollout-check`);
const touched = async (id: string): Promise<string[]> =>
  (await ada.get(`/api/drafts/${id}/touched`)).sites.map(({ name }: { name: string }) => name).sort();
const toldAt = async (name: keyof typeof sites.ids) =>
  (await ada.get(`/api/drafts/current/sites/${sites.ids[name]}`)).told;
const names = () => sites.onAir(/(North|South) \d+/g);
/** All stands on the newest, and nothing differs from it. */
async function allTold(): Promise<void> {
  expect(await sites.current()).toMatchObject({ state: 'open', behind: 0, misfits: [] });
  const revision = await sites.revision();
  for (const name of ['Alder', 'Birch', 'Cedar'] as const)
    expect(await toldAt(name)).toEqual({ revision, behind: false, by: null });
}

test('while one rests between its waves, another is told elsewhere: each tells its own, and shows nothing of the other', async () => {
  const first = await roll('north', held({ canarySiteId: sites.ids.Alder }));
  expect(first.devices).toBe(2);
  await sites.is(first.id, 'resting');
  const draft = await another();
  expect(draft).toMatchObject({ edits: 0, behind: 0 }); // what is behind is brought by the other one
  expect(await toldAt('Birch')).toMatchObject({ behind: true, by: first.draft.name });
  const other = await roll('south', plan({}));
  expect(other.devices).toBe(2);
  expect(await sites.over(other.id)).toMatchObject({ state: 'done' });
  expect(await names()).toEqual({ Alder: first.name, Birch: first.was, Cedar: other.name });
  expect(await touched(first.draft.id)).toEqual(['Birch']); // and nothing of Cedar
  await nextWave(first.id);
  expect(await sites.over(first.id)).toMatchObject({ state: 'done' });
  expect(await names()).toEqual({ Alder: first.name, Birch: first.name, Cedar: other.name });
  [aired.north, aired.south] = [first.name, other.name];
  await allTold();
});

test('one that began first goes back though another was told since: what that one brought stays', async () => {
  const first = await roll('north', held({ canarySiteId: sites.ids.Birch }));
  await sites.is(first.id, 'resting');
  await another();
  const other = await roll('south', plan({}));
  await sites.over(other.id);
  aired.south = other.name;
  await sites.ask(first.id, 'cancel');
  expect(await sites.over(first.id)).toMatchObject({ state: 'put-back' });
  expect(await names()).toEqual({ Alder: first.was, Birch: first.was, Cedar: other.name });
  expect(await ada.get(`/api/drafts/${first.draft.id}`)).toMatchObject({ state: 'open', edits: 1, misfits: [] });
  expect(await touched(first.draft.id)).toEqual(['Alder', 'Birch']);
  await ada.ask('DELETE', `/api/drafts/${first.draft.id}`);
  await allTold();
});

test('both go back, one after the other: all stands as it stood', async () => {
  const first = await roll('north', held({ canarySiteId: sites.ids.Alder }));
  await sites.is(first.id, 'resting');
  await another();
  const other = await roll('south'); // a device first
  await sites.is(other.id, 'resting');
  const before = await names();
  expect([before.Alder, before.Birch]).toEqual([first.name, first.was]);
  for (const { id } of [first, other]) {
    await sites.ask(id, 'cancel');
    expect(await sites.over(id)).toMatchObject({ state: 'put-back' });
  }
  expect(await names()).toEqual({ Alder: first.was, Birch: first.was, Cedar: other.was });
  for (const { draft } of [first, other]) {
    expect(await ada.get(`/api/drafts/${draft.id}`)).toMatchObject({ state: 'open', edits: 1, misfits: [] });
    await ada.ask('DELETE', `/api/drafts/${draft.id}`);
  }
  await allTold();
});

test('one that is paused before it is live anywhere goes on with what another brought meanwhile', async () => {
  sites.refusing.add('Alder');
  const first = await roll('north', held({ canarySiteId: sites.ids.Alder, waitSeconds: 0 }));
  await sites.is(first.id, 'paused');
  await another();
  const other = await roll('south', plan({}));
  expect(await sites.over(other.id)).toMatchObject({ state: 'done' });
  sites.refusing.clear();
  await sites.ask(first.id, 'go-on');
  expect(await sites.over(first.id)).toMatchObject({ state: 'done' });
  [aired.north, aired.south] = [first.name, other.name];
  expect(await names()).toEqual({ Alder: first.name, Birch: first.name, Cedar: other.name });
  await allTold();
});

test.each(['go-on', 'stop'])(
  'one for which others leave no room after all goes back and says so (%s)',
  async (wish) => {
    sites.refusing.add('Birch');
    const first = await roll('north', plan({ onFailure: 'pause' })); // Alder is told, and nothing is live yet
    await sites.is(first.id, 'paused');
    await another();
    const other = await roll('south', plan({}));
    await sites.over(other.id);
    aired.south = other.name;
    await sites.setting.controller.database.query(
      `UPDATE operation SET body = jsonb_set(body, '{from,name}', '"Long gone"') WHERE draft_id = :id AND undoes IS NULL`,
      { replacements: { id: first.draft.id } },
    );
    sites.refusing.clear();
    await sites.ask(first.id, wish);
    const { state, reason } = await sites.over(first.id);
    expect(state).toBe('put-back');
    expect(reason).toBe('What another rollout brought meanwhile leaves no room for it.');
    expect(await names()).toEqual({ Alder: first.was, Birch: first.was, Cedar: other.name });
    await ada.ask('DELETE', `/api/drafts/${first.draft.id}`);
    await allTold();
  },
);

test('what is edited where another is rolled out waits, and what builds on it; both say so before', async () => {
  const recipe = {
    ...{ id: randomUUID(), name: 'Tills', vlan: 70, purpose: '', domain: '' },
    ...{ length: 26, parent: null, leaseSeconds: null },
  };
  await sites.edit([{ type: 'recipe.add', recipe }]);
  const first = await roll('north', held({ canarySiteId: sites.ids.Alder }));
  await sites.is(first.id, 'resting');
  await another();
  await sites.rename(); // on the air everywhere
  expect((await check()).held.map(({ siteName, draftName }) => [siteName, draftName]).sort()).toEqual([
    ['Alder', first.draft.name],
    ['Birch', first.draft.name],
  ]);
  const { id: draftId } = await sites.current();
  const wish = { draftId, despiteErrors: true };
  const refused = await ada.ask('POST', '/api/rollouts', wish);
  expect([refused.status, refused.json.type]).toEqual([409, 'about:lattice/rollout.busy']);
  expect(refused.json.title).toMatch(
    /^“.+” is being rolled out at (Alder|Birch)\. Wait until that is over, or stop it\.$/,
  );
  await ada.post(`/api/drafts/${draftId}/undo`);
  const { edit } = renamed('south');
  await sites.edit([{ type: 'recipe.set', recipeId: recipe.id, from: { vlan: 70 }, to: { vlan: 71 } }, edit]);
  expect((await check()).held).toEqual([]);
  const built = await ada.ask('POST', '/api/rollouts', wish);
  expect([built.status, built.json.title]).toEqual([
    409,
    `It builds on what “${first.draft.name}” brings, which is being rolled out. Wait until that is over.`,
  ]);
  await nextWave(first.id);
  await sites.over(first.id);
  const { id } = await sites.begin();
  expect(await sites.over(id)).toMatchObject({ state: 'done' });
});
