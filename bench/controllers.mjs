// One controller and two on one database, behind a balancer: lines, readers and writers at once, and one that is killed.
import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { freePorts, startBalancer } from '../tools/balancer.mjs';
import { ensurePackages } from '../tools/setup.mjs';
import { startController, startFleet, stopChild } from '../tools/stack.mjs';
import { figure, pause, percentile, residentKb, until } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

const [SITES, EACH, SEGMENTS] = [50, 20, 12];
/** People at once, and for how long each kind is measured, in milliseconds. */
const [PEOPLE, FOR_MS] = [20, 8000];

export async function benchControllers({ databaseUrl, folder }) {
  ensurePackages('haproxy');
  mkdirSync(folder, { recursive: true });
  const of = { sites: SITES, devicesPerSite: EACH, segments: SEGMENTS };
  const { estate, world, devices } = writeLargeEstate(folder, of);
  const [front, ...ports] = await freePorts(3);
  const children = [];
  const startOne = async (i) => {
    const { child } = await startController({
      DATABASE_URL: databaseUrl,
      LATTICE_PORT: String(ports[i]),
      LATTICE_SECRET_KEY: `${folder}/secret.key`,
      LATTICE_SEED: estate,
      LATTICE_SWEEP_PORT: '0',
      LATTICE_PROXIES: '127.0.0.1',
      LATTICE_REPORT_SECONDS: '30',
    });
    children[i] = child;
  };
  await startOne(0);
  const { child: balancer, url } = await startBalancer({ port: front, servers: ports, folder });
  const fleet = startFleet({ world, controllerUrl: url, state: null, control: 0 });
  try {
    const headers = { cookie: await signIn(url), 'content-type': 'application/json' };
    const ask = async (path, body, method = body === undefined ? 'GET' : 'POST') => {
      const response = await fetch(`${url}${path}`, {
        method,
        headers,
        ...(body ? { body: JSON.stringify(body) } : {}),
      });
      const text = await response.text();
      if (!response.ok) throw new Error(`${path}: ${response.status} ${text.slice(0, 300)}`);
      return text === '' ? undefined : JSON.parse(text);
    };
    const inStep = async () => {
      const { sites } = await ask('/api/estate');
      return sites.reduce((sum, site) => sum + site.devices['in step'], 0);
    };
    await until(async () => (await pause(2000), (await inStep()) === devices), 300_000);
    const { sites } = await ask('/api/estate');
    const drafts = await Promise.all(Array.from({ length: PEOPLE }, () => ask('/api/drafts', {})));

    /** People who each do the next thing when the last is done. @returns how often a second, and how long each took. */
    const busy = async (act) => {
      const took = [];
      const until = performance.now() + FOR_MS;
      const one = async (_, person) => {
        for (let i = 0; performance.now() < until; i++) {
          const began = performance.now();
          await act(person, i);
          took.push(performance.now() - began);
        }
      };
      await Promise.all(Array.from({ length: PEOPLE }, one));
      return { rate: took.length / (FOR_MS / 1000), p95: percentile(took, 0.95) };
    };
    const heads = drafts.map(({ head }) => head);
    const measured = async (what) => {
      const read = await busy((person, i) => ask(`/api/sites/${sites[(person * 7 + i) % SITES].id}/devices`));
      figure(
        `${what}: ${PEOPLE} people look at devices of sites`,
        `${read.rate.toFixed(0)}/s, p95 ${read.p95.toFixed(0)} ms`,
        '–',
      );
      const write = await busy(async (person, i) => {
        const set = { id: randomUUID(), name: `Set ${person} ${i} ${what}`, ports: ['443'] };
        const operations = [{ type: 'set.add', siteId: sites[person].id, set }];
        const { head } = await ask(`/api/drafts/${drafts[person].id}/operations`, { head: heads[person], operations });
        heads[person] = head;
      });
      figure(
        `${what}: ${PEOPLE} people edit, each a draft`,
        `${write.rate.toFixed(0)}/s, p95 ${write.p95.toFixed(0)} ms`,
        '–',
      );
      const memory = children.map(({ pid }) => `${(residentKb(pid) / 1024).toFixed(0)} MB`).join(' and ');
      figure(`${what}: memory`, memory, '–');
    };
    await measured('one controller');
    await startOne(1);
    await pause(3000);
    await measured('two controllers');

    const linesAt = async (i) => (await (await fetch(`http://127.0.0.1:${ports[i]}/healthz`)).json()).lines;
    const began = performance.now();
    await stopChild(children[0], 'SIGKILL');
    await until(async () => (await pause(100), (await linesAt(1).catch(() => 0)) >= devices), 120_000);
    figure(`one killed: ${devices} lines at the other`, `${((performance.now() - began) / 1000).toFixed(1)} s`, '30 s');
    await until(async () => (await inStep().catch(() => 0)) === devices, 120_000);
    figure('one killed: every device in step again', `${((performance.now() - began) / 1000).toFixed(1)} s`, '–');
  } finally {
    await stopChild(fleet);
    await stopChild(balancer);
    await Promise.all(children.map((child) => stopChild(child)));
  }
}
