import { randomUUID } from 'node:crypto';
import type { SiteDraft } from '@iron-lattice/core/assess';
import type { SearchHit } from '@iron-lattice/core/base';
import type { AccessClass, Operation } from '@iron-lattice/core/intent';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
let deviceId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  deviceId = (await ada.get(`/api/sites/${siteId}/devices`))[0].id;
});
afterAll(() => setting.end());

const site = (): Promise<SiteDraft> => ada.get(`/api/drafts/current/sites/${siteId}`);
async function edit(...operations: Operation[]) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
}
const scanners: AccessClass = {
  id: randomUUID(),
  name: 'Scanners',
  segment: 'Crew',
  members: [{ mac: '02:1A:00:00:00:07', name: 'Pier gate' }],
  reach: { kind: 'sites', siteIds: [] },
};

test('a class is kept for the sites it reaches, is taken back, and what is wrong is refused with its field', async () => {
  const reach = { kind: 'sites' as const, siteIds: [siteId] };
  expect((await edit({ type: 'class.add', accessClass: { ...scanners, reach } })).status).toBe(200);
  const mine = async () => (await site()).estate.classes!.find(({ id }) => id === scanners.id);
  expect(await mine()).toEqual({ ...scanners, reach, members: [{ mac: '02:1a:00:00:00:07', name: 'Pier gate' }] });
  const set = (to: Partial<AccessClass>, from: Partial<AccessClass>) =>
    edit({ type: 'class.set', classId: scanners.id, from, to });
  const refused = await set({ members: [{ mac: 'gate', name: '' }] }, { members: (await mine())!.members });
  expect(refused.status).toBe(422);
  expect(refused.json.flaws).toMatchObject([{ code: 'class.mac', field: 'members' }]);
  expect((await set({ name: 'Readers' }, { name: 'Somebody’s' })).json.flaws).toMatchObject([
    { code: 'class.changed' },
  ]);
  expect(
    (await edit({ type: 'class.add', accessClass: { ...scanners, reach, colour: 'red' } as AccessClass })).status,
  ).toBe(400);
  expect((await set({ name: 'Readers' }, { name: 'Scanners' })).status).toBe(200);
  const { id } = await ada.get('/api/drafts/current');
  await ada.ask('POST', `/api/drafts/${id}/undo`, {});
  expect((await mine())!.name).toBe('Scanners');
});

test('a port that asks is told whom it lets in where; a probe is kept with whose address it takes', async () => {
  const at = { siteId, deviceId, port: '4' };
  expect((await edit({ type: 'port.set', ...at, from: null, to: { auth: 'mac' } })).status).toBe(200);
  const { consequences, draft } = await site();
  expect(consequences.changes.map(({ name }) => name)).toEqual(['pr-sw-01']);
  const [{ differences }] = await ada.get(`/api/drafts/${draft.id}/reviews?sites=${siteId}`);
  const lines = JSON.stringify(differences);
  for (const said of ['Scanners', '02:1a:00:00:00:07']) expect(lines).toContain(said);
  const path = `/api/sites/${siteId}/probes`;
  const seat = { deviceId, port: '4', mac: '02:1a:00:00:00:07' };
  expect(await ada.post(path, { name: 'Gate', seat })).toMatchObject({ name: 'Gate', seat });
  expect((await ada.ask('POST', path, { name: 'Gate', seat: { ...seat, mac: 'gate' } })).status).toBe(400);
});

test('a class is found by its name, and by the name and the address of a client', async () => {
  const found = async (words: string) => (await ada.get(`/api/search?q=${encodeURIComponent(words)}`)) as SearchHit[];
  for (const words of ['till', 'front desk', '02:1a:00:00:00:09'])
    expect(await found(words), words).toMatchObject([{ kind: 'class', title: 'Tills' }]);
});
