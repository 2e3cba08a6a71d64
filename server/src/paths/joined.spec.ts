import { randomUUID } from 'node:crypto';
import type {
  JoinedSiteView,
  JoinedView,
  ReachCell,
  ReachMatrix,
  SiteReviewView,
  TouchedSites,
  TunnelKeyView,
} from '@iron-lattice/core/assess';
import type { WalkResult } from '@iron-lattice/core/bench';
import type { RolloutCheck } from '@iron-lattice/core/rollout';
import type { GatewayDocument } from '@iron-lattice/core/document';
import { OVERLAY_KEY, type KeptGuarantee, type Member, type Operation } from '@iron-lattice/core/intent';
import type { PeerReport } from '@iron-lattice/core/line';
import type { PathHappening, SitePathsView } from '@iron-lattice/core/paths';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
const START = Date.parse('2026-05-04T08:00:00Z');
/** Two sites with a gateway each. */
const ends: { siteId: string; deviceId: string; gateway: TestDevice }[] = [];
let keys: TunnelKeyView[] = [];

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  for (const [i, name] of ['Quay', 'Mole'].entries()) {
    const wish = { name, code: `s${i}`, country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
    const siteId: string = (await ada.post('/api/sites', wish)).id;
    const gateway = new TestDevice(setting.controller.url, `GW-920${i}`, 'GW-4', `02:00:00:00:92:0${i}`);
    await gateway.call();
    await ada.until('/api/calling', (list: { serial: string }[]) =>
      list.some(({ serial }) => serial === gateway.serial),
    );
    const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [gateway.serial] });
    await gateway.comply();
    ends.push({ siteId, deviceId: claimed[0].id, gateway });
  }
});
afterAll(async () => {
  for (const { gateway } of ends) gateway.hangUp();
  await setting.end();
});

const edit = async (...operations: Operation[]) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets: {} });
};
/** Takes what it is told, and keeps it. */
async function take(gateway: TestDevice) {
  const frame = await gateway.next('document');
  gateway.say({ type: 'applied', hash: frame.hash });
  await gateway.next('keep');
  gateway.say({ type: 'kept', hash: frame.hash });
  return frame;
}
const member = (n: number, more: Partial<Member> = {}): Member => ({
  ...{ id: randomUUID(), siteId: ends[n]!.siteId, deviceId: ends[n]!.deviceId, role: 'spoke', hubs: [], direct: [] },
  ...{ segments: 'all', prefixes: [], takes: null, leaves: 'here', found: {}, key: keys[n]! },
  ...more,
});

describe('sites that are joined', () => {
  test('have keys that the controller makes and shows to nobody', async () => {
    keys = await ada.post('/api/tunnel-keys', { count: 2 });
    expect(keys.map((each) => each.public.length)).toEqual([44, 44]);
    expect(keys[0]!.public).not.toBe(keys[1]!.public);
    const shown = await ada.ask('POST', `/api/secrets/${keys[0]!.secret}/reveal`, {});
    expect(shown).toMatchObject({ status: 403, json: { type: 'about:lattice/secret.hidden' } });
    expect((await ada.ask('POST', '/api/tunnel-keys', { count: 1000 })).status).toBe(400);
    expect((await (await setting.as('oli')).ask('POST', '/api/tunnel-keys', { count: 1 })).status).toBe(403);
  });

  test('say what can be shared, and where they are found', async () => {
    const { sites }: JoinedView = await ada.get('/api/joined');
    const joinable = sites.filter(({ gateways }) => gateways.length > 0);
    expect(joinable.map(({ name, gateways }) => [name, gateways.length])).toEqual([
      ['Mole', 1],
      ['Quay', 1],
    ]);
    const { id } = await ada.get('/api/drafts/current');
    const at: JoinedSiteView = await ada.get(`/api/drafts/${id}/joined/${ends[0]!.siteId}`);
    expect(at.segments.map(({ apart }) => apart)).toContain(false);
    expect(at.uplinks.map(({ port, fixed }) => [port, fixed])).toEqual([
      ['wan1', null],
      ['wan2', null],
    ]);
  });

  test('tell their gateways of each other with one rollout that reaches both, with the key and nobody else’s', async () => {
    const hub = member(0, { role: 'hub', found: { wan1: '203.0.113.9' } });
    const said: Operation[] = [
      { type: 'overlay.set', from: null, to: { spans: ['10.0.0.0/8', '192.168.0.0/16', '172.16.0.0/12'] } },
      { type: 'member.add', member: hub },
      { type: 'member.add', member: member(1, { hubs: [hub.id] }) },
    ];
    expect(await edit(...said)).toMatchObject({ status: 200 });
    const { id } = await ada.get('/api/drafts/current');
    const touched = await ada.get(`/api/drafts/${id}/touched`);
    expect(touched.sites.map(({ name }: { name: string }) => name).sort()).toEqual(['Mole', 'Quay']);
    const taken = ends.map(({ gateway }) => take(gateway));
    await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
    const frames = await Promise.all(taken);
    await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done');
    const [quay, mole] = frames.map(({ document }) => document as GatewayDocument);
    expect(quay!.overlay).toMatchObject({ role: 'hub', name: 'Quay', public: keys[0]!.public });
    expect(mole!.overlay!.peers).toMatchObject([{ name: 'Quay', public: keys[0]!.public, at: ['203.0.113.9'] }]);
    for (const [n, { secrets }] of frames.entries()) expect(Object.keys(secrets)).toEqual([keys[n]!.secret]);
    expect(frames[0]!.secrets[keys[0]!.secret]).toMatch(OVERLAY_KEY);
  });

  test('have their tunnels as WireGuard reads them, without the private key', async () => {
    const { id } = await ada.get('/api/drafts/current');
    const [{ siteId, deviceId }] = ends as [(typeof ends)[number]];
    const path = `/api/drafts/${id}/sites/${siteId}/gateways/${deviceId}/uplinks/wg`;
    const text = await (await ada.fetch('GET', path)).text();
    expect(text).toContain(`PublicKey = ${keys[1]!.public}`);
    expect(text).toMatch(/AllowedIPs = \d/);
    expect(text).not.toContain('PrivateKey =');
  });

  test('show how their tunnels fare, at the site and of all', async () => {
    const tunnel: PeerReport = {
      peer: 'Quay',
      up: true,
      since: START,
      by: 'wan1',
      to: '203.0.113.9',
      loss: 0,
      delay: 21.5,
    };
    const [, { gateway, deviceId, siteId }] = ends as [unknown, (typeof ends)[number]];
    const uplink = { port: 'wan1', state: 'good', since: START, used: true, sessions: 0 } as const;
    gateway.say({
      type: 'report',
      report: {
        ...{ address: '10.7.0.1', uptime: 60, neighbours: [], leases: [], counters: [], clients: [], uplinks: [] },
        paths: { counted: START, changes: [], uplinks: [uplink], tunnels: [tunnel] },
      },
    });
    const { live } = await ada.until('/api/joined', (view: JoinedView) => Boolean(view.live[deviceId]));
    expect(live[deviceId]!.tunnels).toEqual([tunnel]);
    expect((await ada.get(`/api/sites/${siteId}/paths`)).gateways[0].tunnels).toEqual([tunnel]);
  });

  test('are asked about like one: from a segment here to one there, by the draft and as tunnels are now', async () => {
    const { id } = await ada.get('/api/drafts/current');
    const ask = (from: string, to: string, on: 'draft' | 'live' = 'draft') =>
      ada.post(`/api/drafts/${id}/sites/${ends[0]!.siteId}/ask`, {
        question: { from, to, services: 'tcp 443' },
        on,
        minute: null,
      });
    const answer = await ask('Management', 'Management at Mole');
    expect(answer).toMatchObject({ reach: 'all', understood: 'Can Management reach Management at Mole on tcp 443?' });
    expect(answer.there.map(({ title }: { title: string }) => title)).toEqual([
      'Passed',
      'Led on',
      'Handed on',
      'Passed',
    ]);
    expect(answer).not.toHaveProperty('follows');
    // Asked from the other side, of what is live: the tunnel that was told of is up.
    expect((await ask('Management at Mole', 'Management', 'live')).reach).toBe('all');
    expect(await ask('Management', 'Nothing at Mole')).toMatchObject({
      flaws: [{ message: 'Mole has no segment “Nothing”.' }],
    });
    const { gateway, deviceId } = ends[1]!;
    const uplink = { port: 'wan1', state: 'good', since: START, used: true, sessions: 0 } as const;
    const tunnel: PeerReport = { peer: 'Quay', up: false, since: START, why: 'Nothing comes back.' };
    gateway.say({
      type: 'report',
      report: {
        ...{ address: '10.7.0.1', uptime: 61, neighbours: [], leases: [], counters: [], clients: [], uplinks: [] },
        paths: { counted: START, changes: [], uplinks: [uplink], tunnels: [tunnel] },
      },
    });
    await ada.until('/api/joined', (view: JoinedView) => view.live[deviceId]?.tunnels[0]?.up === false);
    const lost = await ask('Management at Mole', 'Management', 'live');
    expect(lost).toMatchObject({ reach: 'none' });
    expect(lost.there.at(-1)).toMatchObject({ passed: false, detail: 'No tunnel that is up leads from Mole to Quay.' });
  });

  test('are held against each other in the matrix of who reaches whom, and cell by cell', async () => {
    const { id } = await ada.get('/api/drafts/current');
    const [quay, mole] = ends.map(({ siteId }) => siteId);
    const path = `/api/drafts/${id}/sites/${quay}/reach`;
    const { places, columns, draft, live, stops }: ReachMatrix = await ada.get(`${path}?toSite=${mole}`);
    expect(stops).toEqual([]);
    expect(places.map(({ kind }) => kind)).not.toContain('internet');
    const at = [places, columns!].map((each) => each.findIndex(({ name }) => name === 'Management')) as [
      number,
      number,
    ];
    expect(draft[at[0]]![at[1]]).toBe('all');
    expect(live![at[0]]![at[1]]).toBe('none'); // the tunnel was told to be down
    const asked = { from: places[at[0]]!.key, to: columns![at[1]]!.key, on: 'draft', minute: null, toSite: mole };
    const cell: ReachCell = await ada.post(`${path}-cell`, asked);
    expect(cell).toMatchObject({ reach: 'all', rules: [{ site: 'Quay' }, { site: 'Mole' }] });
    expect((await ada.ask('POST', `${path}-cell`, { ...asked, to: 'nowhere' })).status).toBe(404);
    expect((await ada.ask('GET', `${path}?toSite=${randomUUID()}`)).status).toBe(404);
  });

  test('are walked to, step by step: by the gateway here, through the tunnel, and by the one there', async () => {
    const { id: draftId } = await ada.get('/api/drafts/current');
    const [{ siteId, deviceId }, { siteId: mole }] = ends as [(typeof ends)[number], (typeof ends)[number]];
    const there = (await ada.get(`/api/drafts/${draftId}/sites/${mole}`)).site.segments[0].gateway as string;
    const to = there.replace(/\d+$/, '77');
    const walk = async (more: object): Promise<WalkResult> =>
      ada.post('/api/walks', { siteId, probe: { deviceId, port: '1' }, to, ...more });
    const drafted = await walk({ on: 'draft', draftId });
    expect(drafted).toMatchObject({ arrived: true, to });
    expect(drafted.steps.slice(-3).map(({ title, decidedBy }) => [title, decidedBy.name])).toMatchObject([
      ['Into the tunnel to Mole', expect.stringMatching(/gw-01/)],
      ['Handed on', 'the tunnels'],
      ['Passed', expect.stringMatching(/gw-01/)],
    ]);
    const lost = await walk({ on: 'draft', draftId, to: '10.254.0.1' });
    expect(lost).toMatchObject({ arrived: false });
    expect(lost.steps.at(-1)).toMatchObject({ title: 'Dropped' });
    // On live the tunnel was told to be down.
    const live = await walk({ on: 'live' });
    expect(live).toMatchObject({ arrived: false });
    expect(live.steps.at(-1)!.detail).toBe('No tunnel that is up leads from Quay to Mole.');
    expect(
      (await ada.ask('POST', '/api/walks', { siteId, probe: { deviceId, port: '1' }, on: 'live', to: 'x' })).status,
    ).toBe(400);
  });

  test('keep guarantees from one to the other: whatever breaks one is found before it is told, and asked about', async () => {
    const [quay, mole] = ends.map(({ siteId }) => siteId) as [string, string];
    const guarantee: KeptGuarantee = {
      ...{ id: randomUUID(), kind: 'always' as const, from: [{ kind: 'segment' as const, name: 'Management' }] },
      to: [{ kind: 'segment', name: 'Management' }],
      toSite: mole,
      services: [{ protocol: 'tcp', ports: ['443'] }],
    };
    expect(await edit({ type: 'guarantee.add', siteId: quay, guarantee })).toMatchObject({ status: 200 });
    const { id } = await ada.get('/api/drafts/current');
    const here = async () => (await ada.get(`/api/drafts/${id}/sites/${quay}`)).consequences.guarantees;
    const words = 'segment Management always reaches segment Management at Mole on tcp 443';
    expect(await here()).toMatchObject([{ words, state: 'holds' }]);
    await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
    await ada.until('/api/rollouts', (all: { state: string }[]) => all[0]?.state === 'done');

    // Edited at the other site alone: the one that watches is looked at too, and is told nothing.
    const subnet = '0.0.0.0/0';
    const shut: Operation = {
      ...{ type: 'rule.add', siteId: mole, behind: null },
      rules: [
        {
          ...{ id: randomUUID(), verdict: 'deny', from: [{ kind: 'addresses', text: subnet }] },
          ...{ to: [{ kind: 'any' }], services: [{ protocol: 'tcp', ports: ['443'] }], comment: 'Nobody' },
        },
      ],
    };
    expect(await edit(shut)).toMatchObject({ status: 200 });
    const draft = (await ada.get('/api/drafts/current')).id as string;
    const { sites }: TouchedSites = await ada.get(`/api/drafts/${draft}/touched`);
    expect(sites).toMatchObject([{ name: 'Mole' }, { name: 'Quay', watches: true }]);
    const reviews: SiteReviewView[] = await ada.get(`/api/drafts/${draft}/reviews?sites=${quay},${mole}`);
    expect(reviews.find(({ siteId }) => siteId === quay)).toMatchObject({
      ...{ counts: { error: 1 }, changes: [], broken: [{ words, why: 'Stopped at Mole by “Nobody”.' }] },
    });
    const check: RolloutCheck = await ada.get(`/api/drafts/${draft}/rollout-check`);
    expect(check.broken).toMatchObject([{ siteName: 'Quay', words }]);
    expect(check.devices).toBe(1);
    const refused = await ada.ask('POST', '/api/rollouts', { draftId: draft, despiteErrors: true });
    expect(refused.status).toBe(409);
  });

  test('leave in the history what became of tunnels, and of routes that are tracked', async () => {
    const [, { gateway, deviceId, siteId }] = ends as [unknown, (typeof ends)[number]];
    const uplink = { port: 'wan1', state: 'good', since: START, used: true, sessions: 0 } as const;
    const change = (what: PathHappening, of: string, at: number) => ({
      ...{ at: START + at, port: '', what, of, why: 'Nothing comes back.', uses: ['wan1'] },
    });
    const changes = [change('tunnel-down', 'Quay and 3 more', 1), change('route-gone', 'Works', 2)];
    gateway.say({
      type: 'report',
      report: {
        ...{ address: '10.7.0.1', uptime: 60, neighbours: [], leases: [], counters: [], clients: [], uplinks: [] },
        paths: {
          ...{ counted: START, changes, uplinks: [uplink] },
          routes: [{ name: 'Works', up: false, since: START }],
        },
      },
    });
    const view: SitePathsView = await ada.until(
      `/api/sites/${siteId}/paths`,
      (paths: SitePathsView) => paths.changes.length >= 2,
    );
    expect(view.changes).toMatchObject([
      { what: 'route-gone', of: 'Works' },
      { what: 'tunnel-down', of: 'Quay and 3 more', why: 'Nothing comes back.' },
    ]);
    expect(view.gateways[0]!.routes).toEqual([{ name: 'Works', up: false, since: START }]);
    const history: { words: string }[] = await ada.get(`/api/devices/${deviceId}/history`);
    const words = history.map((each) => each.words);
    expect(words).toContain('No tunnel any more to Quay and 3 more: Nothing comes back.');
    expect(words).toContain('The route Works is gone: Nothing comes back.');
  });
});
