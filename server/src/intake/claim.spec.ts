import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
const sites: { id: string; name: string }[] = [];
const boxes: TestDevice[] = [];
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  sites.push((await ada.get('/api/estate')).sites[0]);
  sites.push(await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' }));
  for (let i = 1; i <= 4; i++) {
    const box = new TestDevice(setting.controller.url, `AP-000${i}`, 'AP-6', `02:00:00:00:01:0${i}`);
    await box.call();
    boxes.push(box);
  }
});
afterAll(async () => {
  for (const box of boxes) box.hangUp();
  await setting.end();
});

const claim = (site: number, ...serials: string[]) =>
  ada.ask('POST', `/api/sites/${sites[site]!.id}/claims`, { serials });

test('of two claims of one device at the same moment one gets it, the other is told who has it', async () => {
  const answers = await Promise.all([claim(0, 'AP-0001'), claim(1, 'AP-0001')]);
  expect(answers.map((answer) => answer.status).sort()).toEqual([201, 422]);
  const refused = answers.find((answer) => answer.status === 422)!;
  expect(refused.json.flaws[0].message).toMatch(/^AP-0001 belongs to (Pier|Slip), as (pr|sl)-ap-01\.$/);
});

test('two claims at the same moment never give one name twice', async () => {
  const answers = await Promise.all([claim(1, 'AP-0002'), claim(1, 'AP-0003')]);
  const names = answers.map((answer) => answer.json.claimed[0].name);
  expect(new Set(names).size).toBe(2);
  for (const name of names) expect(name).toMatch(/^sl-ap-0[123]$/);
});

test('what is already here is said to be here, and one bad serial number spoils the whole claim', async () => {
  const refused = await claim(1, 'AP-0002', 'AP-0004');
  expect(refused.json.flaws).toMatchObject([{ code: 'claim.ours', field: 'AP-0002' }]);
  expect((await ada.get('/api/calling')).map((device: { serial: string }) => device.serial)).toEqual(['AP-0004']);
});

test('a claim is foretold without claiming, and needs a site', async () => {
  const preview = await ada.post(`/api/sites/${sites[0]!.id}/claim-preview`, { serials: [' ap-0004 '] });
  expect(preview.names[0]).toMatch(/^pr-ap-0[12]$/);
  expect(await ada.get('/api/calling')).toHaveLength(1);
  const nowhere = await ada.ask('POST', '/api/sites/00000000-0000-4000-8000-000000000000/claims', {
    serials: ['AP-0004'],
  });
  expect(nowhere.status).toBe(404);
});

test('a new site keeps clear of what an open draft has planned', async () => {
  const draft = await ada.get('/api/drafts/current');
  const segment = {
    id: crypto.randomUUID(),
    name: 'Planned',
    vlan: 40,
    subnet: '10.2.0.0/16',
    gateway: '10.2.0.1',
    addresses: null,
  };
  const operations = [{ type: 'segment.add', siteId: sites[0]!.id, segment }];
  expect((await ada.ask('POST', `/api/drafts/${draft.id}/operations`, { head: draft.head, operations })).status).toBe(
    200,
  );
  const site = await ada.post('/api/sites', { name: 'Mole', code: 'ml', country: 'IE', timeZone: 'Europe/Dublin' });
  const { site: part } = await ada.get(`/api/drafts/current/sites/${site.id}`);
  expect(part.segments[0].subnet).toBe('10.3.1.0/24');
});
