import type { KeptProbe } from '@iron-lattice/core/bench';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let path = '';
let deviceId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const siteId = (await ada.get('/api/estate')).sites[0].id as string;
  path = `/api/sites/${siteId}/probes`;
  deviceId = (await ada.get(`/api/sites/${siteId}/devices`))[0].id;
});
afterAll(() => setting.end());
const names = async (): Promise<string[]> => ((await ada.get(path)) as KeptProbe[]).map(({ name }) => name);

test('probes are kept by name, move when kept again, and are dropped', async () => {
  const kept: KeptProbe = await ada.post(path, { name: ' Till 2 ', seat: { deviceId, port: '4' } });
  await ada.post(path, { name: 'Ferry desk', seat: { deviceId, port: '5' } });
  expect(await names()).toEqual(['Ferry desk', 'Till 2']);
  const moved: KeptProbe = await ada.post(path, { name: 'Till 2', seat: { deviceId, ssid: 'Crew' } });
  expect(moved).toEqual({ id: kept.id, name: 'Till 2', seat: { deviceId, ssid: 'Crew' } });
  expect(await names()).toEqual(['Ferry desk', 'Till 2']);
  expect((await ada.ask('DELETE', `${path}/${kept.id}`)).status).toBeLessThan(300);
  expect(await names()).toEqual(['Ferry desk']);
});

test('who somebody is can be tried, and is not kept: neither with a probe nor with a question', async () => {
  const entry = { method: 'peap', user: 'marn.ellis', password: 'lantern fish 4' };
  const suite = path.replace('probes', 'suite');
  const question = { deviceId, target: '10.1.2.3', probe: { ssid: 'Crew', does: 'ping' }, expects: 'answer' };
  const status = async (body: object, at: string): Promise<number> => (await ada.ask('POST', at, body)).status;
  expect(await status({ name: 'Crew', seat: { deviceId, ssid: 'Crew', entry } }, path)).toBe(400);
  expect(await status({ ...question, probe: { ...question.probe, entry } }, suite)).toBe(400);
  expect(await status(question, suite)).toBeLessThan(300);
});

test('a probe sits in one place of a device of the site, and only who may change keeps any', async () => {
  const ask = async (who: TestCaller, body: object) => (await who.ask('POST', path, body)).status;
  expect(await ask(ada, { name: 'x', seat: { deviceId } })).toBe(400);
  expect(await ask(ada, { name: 'x', seat: { deviceId, port: '1', ssid: 'Crew' } })).toBe(400);
  expect(await ask(ada, { name: ' ', seat: { deviceId, port: '1' } })).toBe(400);
  expect(await ask(ada, { name: 'x', seat: { deviceId: randomUUID(), port: '1' } })).toBe(404);
  expect(await ask(await setting.as('oli'), { name: 'x', seat: { deviceId, port: '1' } })).toBe(403);
});
