import type { FirstUplink, GatewayDocument } from '@iron-lattice/core/document';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
const boxes: TestDevice[] = [];
const LOGIN: FirstUplink<string> = {
  port: 'wan1',
  way: 'pppoe',
  vlan: 7,
  login: { user: 'line-58', password: 'gulls' },
};

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
});
afterAll(async () => {
  for (const box of boxes) box.hangUp();
  await setting.end();
});

function box(number: number, first?: FirstUplink<string>): TestDevice {
  const made = new TestDevice(setting.controller.url, `GW-58${number}`, 'GW-4', `02:00:00:00:58:0${number}`);
  made.first = first;
  boxes.push(made);
  return made;
}
const calls = async (device: TestDevice): Promise<void> => {
  await device.call();
  await ada.until('/api/calling', (all: { serial: string }[]) => all.some(({ serial }) => serial === device.serial));
};
const claim = async ({ serial }: TestDevice): Promise<string> =>
  (await ada.post(`/api/sites/${siteId}/claims`, { serials: [serial] })).claimed[0].id;
const edit = async (operations: readonly object[]) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets: {} });
};

test('the first document leaves a gateway the way out that was said at its own page, with its password', async () => {
  const gateway = box(1, LOGIN);
  await calls(gateway);
  const id = await claim(gateway);
  const told = await gateway.next('document');
  const [wan1, wan2] = (told.document as GatewayDocument).uplinks;
  expect(wan1).toMatchObject({ port: 'wan1', method: 'pppoe', vlan: 7, login: { user: 'line-58' } });
  expect(told.secrets[wan1!.login!.password.secret]).toBe('gulls');
  expect(wan2).toMatchObject({ port: 'wan2', method: 'dhcp' });
  // People see what was said, and never the password.
  const view = await ada.get(`/api/devices/${id}`);
  expect(view.first).toEqual({ port: 'wan1', way: 'pppoe', vlan: 7, user: 'line-58' });
  expect(JSON.stringify(await ada.get(`/api/drafts/current/sites/${siteId}`))).not.toContain('gulls');
});

test('what is said in the draft afterwards holds instead, and taken back it is as the page says again', async () => {
  const gateway = box(2, {
    port: 'wan1',
    way: 'static',
    fixed: { address: '203.0.113.11/29', gateway: '203.0.113.9' },
  });
  await calls(gateway);
  const deviceId = await claim(gateway);
  const of = { type: 'uplink.set', siteId, deviceId, port: 'wan1' };
  const planned = async () => {
    const { roster, site } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    return {
      first: roster.find(({ id }: { id: string }) => id === deviceId).first,
      said: site.uplinks?.[deviceId]?.wan1,
    };
  };
  expect(await planned()).toEqual({ first: gateway.first, said: undefined });
  expect((await edit([{ ...of, from: null, to: { way: 'dhcp', fixed: null } }])).status).toBe(200);
  expect((await planned()).said).toEqual({ way: 'dhcp', fixed: null });
  expect((await edit([{ ...of, from: { way: 'dhcp', fixed: null }, to: null }])).status).toBe(200);
  expect((await planned()).said).toBeUndefined();
});

test('said anew before it was told anything, it is that which holds; released, nothing is known of it', async () => {
  const gateway = box(3, LOGIN);
  await calls(gateway);
  gateway.hangUp();
  gateway.first = { ...LOGIN, vlan: 8, login: { user: 'line-58', password: 'terns' } };
  await calls(gateway);
  const id = await claim(gateway);
  const told = await gateway.next('document');
  const [wan1] = (told.document as GatewayDocument).uplinks;
  expect(wan1).toMatchObject({ vlan: 8 });
  expect(told.secrets[wan1!.login!.password.secret]).toBe('terns');
  gateway.hangUp();
  await ada.ask('POST', `/api/devices/${id}/release`, {});
  gateway.first = undefined;
  await calls(gateway);
  expect((await ada.get(`/api/devices/${id}`)).first).toBeNull();
});

test('set back at its site and told anew there, one of ours is told what holds now, and its history says so', async () => {
  const gateway = box(5, LOGIN);
  await calls(gateway);
  const id = await claim(gateway);
  await gateway.comply();
  gateway.hangUp();
  gateway.first = { port: 'wan1', way: 'static', fixed: { address: '203.0.113.27/29', gateway: '203.0.113.25' } };
  await gateway.call();
  const told = (await gateway.next('document')).document as GatewayDocument;
  expect(told.uplinks[0]).toMatchObject({ method: 'static', fixed: gateway.first.fixed });
  const words = (await ada.get(`/api/devices/${id}/history`)).map((each: { words: string }) => each.words);
  expect(words).toContain('Calls by wan1 as somebody said at its own page.');
  // Saying the same once more is no news.
  gateway.hangUp();
  await gateway.call();
  const again = (await ada.get(`/api/devices/${id}/history`)).map((each: { words: string }) => each.words);
  expect(again.filter((each: string) => each.startsWith('Calls by'))).toHaveLength(1);
});

test.each([
  [
    'a gateway outside of the subnet',
    { port: 'wan1', way: 'static', fixed: { address: '203.0.113.11/29', gateway: '203.0.113.99' } },
  ],
  ['a port that leads to no provider', { port: '1', way: 'dhcp' }],
  ['no password', { port: 'wan1', way: 'pppoe' }],
] as const)('what cannot be is not taken from a gateway: %s', async (_what, first) => {
  const gateway = box(4, first);
  await calls(gateway);
  const row = (await ada.get('/api/calling')).find(({ serial }: { serial: string }) => serial === gateway.serial);
  expect((await ada.get(`/api/devices/${row.id}`)).first).toBeNull();
  gateway.hangUp();
});
