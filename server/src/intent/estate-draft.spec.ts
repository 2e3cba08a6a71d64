import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let [pier, quay] = ['', ''];
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  pier = (await ada.get('/api/estate')).sites[0].id;
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: ['shore'] };
  quay = (await ada.post('/api/sites', wish)).id;
});
afterAll(() => setting.end());

const current = () => ada.get('/api/drafts/current');
async function edit(...operations: object[]) {
  const { id, head } = await current();
  const { status, json } = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
  expect([status, json.title]).toEqual([200, undefined]);
}
const shared = async () => ada.get(`/api/drafts/${(await current()).id}/shared`);
const atSites = async (kind: string, id: string) =>
  ada.ask('GET', `/api/drafts/${(await current()).id}/shared/${kind}/${id}/sites`);
const mess = (siteId: string, third: number) => ({
  type: 'segment.add',
  siteId,
  segment: {
    id: randomUUID(),
    name: 'Mess',
    vlan: 40,
    subnet: `10.5.${third}.0/24`,
    gateway: `10.5.${third}.1`,
    addresses: null,
  },
});

test('what is shared is made without standing in a site, and told with where it lacks what it names', async () => {
  const id = randomUUID();
  const accessClass = { id, name: 'Scanners', segment: 'Mess', members: [], reach: { kind: 'estate' } };
  await edit(mess(pier, 40), { type: 'class.add', accessClass });
  const { estate, counts, names } = await shared();
  expect(estate.classes).toContainEqual(accessClass);
  expect(counts).toContainEqual({ kind: 'class', id, reached: 2, lacking: 1 });
  expect(names).toContainEqual({ kind: 'segment', name: 'Mess', sites: 1, vlans: [40] });
  expect((await atSites('class', id)).json).toMatchObject([
    { site: 'Quay', siteId: quay, segment: null, lacks: ['segment Mess'] },
    { site: 'Pier', siteId: pier, segment: { vlan: 40, subnet: '10.5.40.0/24' }, lacks: [] },
  ]);
  // The next look sees the next edit.
  await edit(mess(quay, 41));
  expect((await shared()).counts).toContainEqual({ kind: 'class', id, reached: 2, lacking: 0 });
  expect((await atSites('class', id)).json[1]).toMatchObject({ site: 'Quay', lacks: [] });
});

test('guarantees with a tag are told at the sites that have it', async () => {
  const id = randomUUID();
  const [from, to] = [[{ kind: 'segment', name: 'Mess' }], [{ kind: 'internet' }]];
  const guarantee = { id, kind: 'always', from, to, services: [{ protocol: 'any' }], tag: 'shore' };
  await edit({ type: 'guarantee.add', shared: true, guarantee });
  expect((await atSites('guarantee', id)).json).toMatchObject([{ site: 'Quay', lacks: [] }]);
});

test('what is not there is said, and a kind that is none is refused', async () => {
  expect(await atSites('ssid', randomUUID())).toMatchObject({ status: 404 });
  expect(await atSites('pier', randomUUID())).toMatchObject({ status: 400 });
});

test('rules, sets and SSIDs of every site are found by what they are for', async () => {
  const set = { id: randomUUID(), name: 'Web', ports: ['443'], purpose: 'Ticket machines and their maker' };
  await edit({ type: 'set.add', shared: true, set });
  const { id } = await current();
  await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done', 20_000);
  expect(await ada.get('/api/search?q=ticket%20machines')).toMatchObject([
    { kind: 'set', siteId: null, title: 'Web', detail: 'Named set of every site: Ticket machines and their maker' },
  ]);
});
