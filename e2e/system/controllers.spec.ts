import type { ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { freePorts, startBalancer } from '../../tools/balancer.mjs';
import { startController, stopChild } from '../../tools/stack.mjs';
import { AN_HOUR_AHEAD, Estate } from './estate';

type Json = any; // answers of the API are judged by what the tests expect of them

/** A line is told to be dead, and is back, within this, in milliseconds. */
const BACK_MS = 30_000;

let estate: Estate;
let ports: number[] = [];
const controllers: ChildProcess[] = [];
let balancer: { child: ChildProcess; url: string };

const startOne = async (i: number): Promise<void> => {
  const own = { LATTICE_PORT: String(ports[i]), LATTICE_PROXIES: '127.0.0.1', LATTICE_PUBLIC_URL: balancerUrl() };
  controllers[i] = (await startController({ ...estate.settings, ...own, ...(i === 1 ? AN_HOUR_AHEAD : {}) })).child;
};
let front = 0;
const balancerUrl = (): string => `http://127.0.0.1:${front}`;

beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.stopFleet();
  await estate.stopController();
  [front, ...ports] = (await freePorts(3)) as [number, number, number];
  await startOne(0);
  await startOne(1);
  balancer = await startBalancer({ port: front, servers: ports, folder: estate.folder });
  estate.servedAt(balancer.url);
  estate.startFleet();
  await estate.allInStep();
});
afterAll(async () => {
  await estate.stopFleet();
  await stopChild(balancer.child);
  await Promise.all(controllers.map((child) => stopChild(child)));
  await estate.end();
});

const at = async (i: number): Promise<Json> => (await fetch(`http://127.0.0.1:${ports[i]}/healthz`)).json();
const silent = async (): Promise<number> => {
  const { sites } = await estate.call('GET', '/api/estate');
  return sites.reduce((sum: number, { devices }: Json) => sum + devices.silent, 0);
};
const rename = async (from: string, to: string): Promise<string> => {
  const draft = await estate.call('GET', '/api/drafts/current');
  const { estate: shared } = await estate.call('GET', `/api/drafts/${draft.id}/shared`);
  const ssidId = shared.ssids.find(({ name }: Json) => name === from).id;
  const operations = [{ type: 'ssid.set', ssidId, from: { name: from }, to: { name: to } }];
  await estate.call('POST', `/api/drafts/${draft.id}/operations`, { head: draft.head, operations });
  return draft.id;
};

test('lines are shared between controllers, and whoever is signed in at one is signed in at all', async () => {
  const lines = [(await at(0)).lines, (await at(1)).lines];
  expect(lines.every((count) => count > 0)).toBe(true);
  expect(await silent()).toBe(0);
  for (const port of ports) {
    const headers = { cookie: estate.cookie };
    const { person } = await (await fetch(`http://127.0.0.1:${port}/api/session`, { headers })).json();
    expect(person.name).toBe('Ida Holm');
  }
});

test('an edit is seen at once wherever one asks, and of two at the same moment one is refused or both are there', async () => {
  const draft = await estate.call('GET', '/api/drafts/current');
  const set = (name: string) => ({
    type: 'set.add',
    shared: true,
    set: { id: crypto.randomUUID(), name, ports: ['443'] },
  });
  const post = (i: number, name: string) =>
    fetch(`http://127.0.0.1:${ports[i]}/api/drafts/${draft.id}/operations`, {
      method: 'POST',
      headers: { cookie: estate.cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ head: draft.head, operations: [set(name)] }),
    });
  const answers = await Promise.all([post(0, 'One'), post(1, 'Other'), post(0, 'Same'), post(1, 'Same')]);
  expect(answers.map(({ status }) => status).slice(0, 2)).toEqual([200, 200]);
  expect(answers.filter(({ status }) => status === 409)).toHaveLength(1); // the same name twice
  for (const port of ports) {
    const headers = { cookie: estate.cookie };
    const { estate: shared } = await (
      await fetch(`http://127.0.0.1:${port}/api/drafts/${draft.id}/shared`, { headers })
    ).json();
    expect(shared.sets.map(({ name }: Json) => name)).toEqual(expect.arrayContaining(['One', 'Other', 'Same']));
  }
  for (let i = 0; i < 3; i++) await estate.call('POST', `/api/drafts/${draft.id}/undo`, {});
});

test('clocks an hour apart: who is signed in stays so, the newest draft is the newest, and a rest lasts as long as it was said to', async () => {
  const ask = async (i: number, method: string, path: string, body?: unknown): Promise<Json> => {
    const headers = { cookie: estate.cookie, 'content-type': 'application/json' };
    const url = `http://127.0.0.1:${ports[i]}${path}`;
    return (await fetch(url, { method, headers, ...(body ? { body: JSON.stringify(body) } : {}) })).json();
  };
  const begun = [await ask(1, 'POST', '/api/drafts', {}), await ask(0, 'POST', '/api/drafts', {})];
  for (const i of [0, 1]) expect((await ask(i, 'GET', '/api/drafts/current')).id).toBe(begun[1].id);
  const draftId = await rename('Skerrow Crew', 'Skerrow Watch');
  const checks = { inStep: true, clients: null, guarantees: false, suites: false };
  const how = { canary: 'device', by: 'together', waitSeconds: 1200, checks, onFailure: 'pause', forSilent: false };
  const { id } = await ask(1, 'POST', '/api/rollouts', { draftId, despiteErrors: true, waves: how });
  const rest = () =>
    estate.until('it rests', async () => {
      const rollout = await estate.call('GET', `/api/rollouts/${id}`).catch(() => null);
      return rollout?.state === 'resting' ? Date.parse(rollout.restUntil) - Date.now() : null;
    });
  const left = await rest();
  expect(left).toBeGreaterThan(1100_000);
  expect(left).toBeLessThan(1300_000);
  // Whoever runs it is killed, then whoever took it up: it rests on, by either clock.
  for (const i of [0, 1]) {
    await stopChild(controllers[i]!, 'SIGKILL');
    await estate.until(
      'the other one has its lines',
      async () => (await at(1 - i)).lines > 20 && (await silent()) === 0,
    );
    expect(await rest()).toBeGreaterThan(1000_000);
    expect((await ask(1 - i, 'GET', '/api/session')).person.name).toBe('Ida Holm');
    await startOne(i);
  }
  const hitches = await estate.hitches('clock');
  expect(hitches.filter(({ settledAt }: Json) => settledAt === null)).toEqual([]); // no device's clock is wrong
  await estate.call('POST', `/api/rollouts/${id}/cancel`, {});
  await estate.until('it is put back', async () => (await estate.call('GET', `/api/rollouts/${id}`)).endedAt);
  for (const { id: each } of await estate.call('GET', '/api/drafts'))
    await estate.call('DELETE', `/api/drafts/${each}`);
  await estate.allInStep();
});

test('one is killed in the middle of a rollout: its lines come back at the other, which goes on; nobody signs in again', async () => {
  const { revision: before } = await estate.call('GET', '/api/estate');
  const draftId = await rename('Skerrow Crew', 'Skerrow Deck');
  const { id } = await estate.call('POST', '/api/rollouts', { draftId, despiteErrors: true });
  await estate.until('the rollout is under way', async () => {
    const { steps } = await estate.call('GET', `/api/rollouts/${id}`);
    return steps.some(({ state }: Json) => state === 'kept');
  });
  const killed = Date.now();
  await stopChild(controllers[0]!, 'SIGKILL');
  await estate.until('its lines are back at the other one', async () => {
    const { lines } = await at(1);
    return lines > 20 && (await silent().catch(() => 1)) === 0;
  });
  expect(Date.now() - killed).toBeLessThan(BACK_MS);
  const over = await estate.until('the rollout is over', async () => {
    const rollout = await estate.call('GET', `/api/rollouts/${id}`).catch(() => null);
    return rollout?.endedAt ? rollout : null;
  });
  // A device that was on trial when its line ended went back by itself: then all do, and the draft is open again.
  expect(['done', 'put-back']).toContain(over.state);
  await estate.until('all of them are in step, by their own word too', async () => {
    const { rows } = await estate.call('GET', '/api/devices');
    const ours = rows.filter(({ siteId }: Json) => siteId !== null);
    for (const { id: deviceId } of ours.filter(({ state }: Json) => state === 'stuck'))
      await estate.call('POST', `/api/devices/${deviceId}/retry`);
    return ours.every(({ state }: Json) => state === 'in step');
  });
  const really = new Map((await estate.devices()).map(({ serial, runs }) => [serial, runs]));
  for (const { serial, runs, wants } of await estate.ours())
    expect([serial, runs, really.get(serial)]).toEqual([serial, wants, wants]);
  const { sites } = await estate.call('GET', '/api/estate');
  const revision = over.state === 'done' ? before + 1 : before;
  expect(sites.map((site: Json) => [site.name, site.revision, site.behind])).toEqual(
    sites.map((site: Json) => [site.name, revision, false]),
  );
  expect((await estate.call('GET', '/api/session')).person.name).toBe('Ida Holm');

  await startOne(0);
  await estate.until('the first one is back', async () => (await at(0)).ok);
  await stopChild(controllers[1]!, 'SIGKILL');
  await estate.until(
    'they came over again',
    async () => (await at(0)).lines > 20 && (await silent().catch(() => 1)) === 0,
  );
});
