import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let anyone: TestCaller;
beforeAll(async () => {
  setting = await TestController.start(1000, true);
  anyone = setting.anyone();
});
afterAll(() => setting.end());

const WISH = {
  estate: 'Skerrow Ferries',
  country: 'Ireland',
  timeZone: 'Europe/Dublin',
  window: { day: 0, from: 150, minutes: 120 },
  name: 'Ida Holm',
  email: 'Ida@skerrow.example',
  password: 'three gulls on a mast',
};

test('an empty controller says that it waits, and where it is', async () => {
  expect(await anyone.get('/api/set-up')).toEqual({ needed: true, address: setting.controller.url });
  expect((await anyone.ask('GET', '/healthz')).status).toBe(200);
});

test.each([
  [{ estate: ' ' }, 'estate'],
  [{ country: 'Atlantis' }, 'country'],
  [{ timeZone: 'Mars' }, 'timeZone'],
  [{ window: { day: 9, from: 0, minutes: 60 } }, 'day'],
  [{ window: { day: 0, from: 0, minutes: 5 } }, 'minutes'],
  [{ name: '' }, 'name'],
  [{ email: 'ida' }, 'email'],
  [{ password: 'short' }, 'password'],
  [{ password: 'skerrow ferries!' }, 'password'],
])('%j is refused at its field, and nothing is founded', async (change, field) => {
  const refused = await anyone.ask('POST', '/api/set-up', { ...WISH, ...change });
  expect([refused.status, refused.json.flaws.map((flaw: { field: string }) => flaw.field)]).toEqual([422, [field]]);
  expect((await anyone.get('/api/set-up')).needed).toBe(true);
});

test('the estate is founded once; whoever comes second is refused; the founder is signed in', async () => {
  const answers = await Promise.all([
    anyone.fetch('POST', '/api/set-up', WISH),
    anyone.fetch('POST', '/api/set-up', { ...WISH, email: 'other@skerrow.example' }),
  ]);
  expect(answers.map((answer) => answer.status).sort()).toEqual([201, 409]);
  const cookie = answers.find((answer) => answer.status === 201)!.headers.get('set-cookie')!;
  const founder = anyone.with(cookie.split(';')[0]!);
  const estate = await founder.get('/api/estate');
  expect(estate).toMatchObject({
    name: 'Skerrow Ferries',
    country: 'IE',
    timeZone: 'Europe/Dublin',
    window: WISH.window,
    revision: 0,
    sites: [],
  });
  expect((await anyone.get('/api/set-up')).needed).toBe(false);
  const site = await founder.post('/api/sites', { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin' });
  expect(site).toMatchObject({ name: 'Quay', tags: [], window: null });
});
