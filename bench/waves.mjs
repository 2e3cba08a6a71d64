// A rollout of every device in ten waves, with the fleet: time, memory, writes; what a revision takes to be looked into.
import pg from 'pg';
import { startController, startFleet, stopChild } from '../tools/stack.mjs';
import { figure, pause, percentile, residentKb, until } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

/** `BENCH_SITES=1000 npm run bench -- waves` tells 10,000 devices, and takes a quarter of an hour. */
const SITES = Number(process.env.BENCH_SITES ?? 100);
const [EACH, SEGMENTS, AT_ONCE] = [10, 12, 20];
const PLAN = {
  ...{ canary: 'none', by: 'share', shares: [10, 20, 30, 40, 50, 60, 70, 80, 90], waitSeconds: 0 },
  ...{ onFailure: 'go-back', forSilent: false },
  checks: { inStep: true, clients: null, guarantees: false, suites: false },
};

export async function benchWaves({ databaseUrl, folder }) {
  const { estate, world, devices } = writeLargeEstate(folder, {
    ...{ sites: SITES, devicesPerSite: EACH, segments: SEGMENTS },
  });
  const { child, url } = await startController({
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: `${folder}/secret.key`,
    LATTICE_SEED: estate,
    LATTICE_SWEEP_PORT: '0',
    LATTICE_REPORT_SECONDS: '300',
  });
  const fleet = startFleet({ world, controllerUrl: url, state: null, control: 0 });
  const database = new pg.Client({ connectionString: databaseUrl });
  await database.connect();
  try {
    const headers = { cookie: await signIn(url), 'content-type': 'application/json' };
    const ask = async (path, body) => {
      const sent = body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) };
      const response = await fetch(`${url}${path}`, { headers, ...sent });
      const text = await response.text();
      if (!response.ok) throw new Error(`${path}: ${response.status} ${text.slice(0, 300)}`);
      return JSON.parse(text);
    };
    const written = async () => {
      await pause(1200); // counted by the database after a while
      const { rows } = await database.query(
        'SELECT tup_inserted + tup_updated + tup_deleted AS rows FROM pg_stat_database WHERE datname = current_database()',
      );
      return Number(rows[0].rows);
    };
    let began = performance.now();
    await until(async () => {
      await pause(3000); // what is looked at is worked out
      return (await ask('/api/estate')).sites.every((site) => site.devices['in step'] === EACH);
    }, 1_200_000);
    figure(`${devices} devices, factory state to in step`, `${((performance.now() - began) / 1000).toFixed(0)} s`, '–');
    const { sites } = await ask('/api/estate');
    const { ssids } = (await ask(`/api/drafts/current/sites/${sites[0].id}`)).estate;
    const { id, head } = await ask('/api/drafts/current');
    const to = { isolation: { clients: true } };
    const operations = [{ type: 'ssid.set', ssidId: ssids[0].id, from: { isolation: null }, to }];
    await ask(`/api/drafts/${id}/operations`, { head, operations });
    const touched = (await ask(`/api/drafts/${id}/touched`)).sites;
    for (let at = 0; at < touched.length; at += AT_ONCE)
      await ask(`/api/drafts/${id}/reviews?sites=${touched.slice(at, at + AT_ONCE).map((site) => site.id)}`);
    began = performance.now();
    const waves = await ask(`/api/drafts/${id}/waves`, PLAN);
    const foreseen = performance.now() - began;
    const before = await written();
    began = performance.now();
    const rollout = await ask('/api/rollouts', { draftId: id, despiteErrors: true, waves: PLAN });
    const started = performance.now() - began;
    const looks = [];
    let now = rollout;
    const lists = [];
    while (now.endedAt === null) {
      await pause(500);
      let at = performance.now();
      now = await ask(`/api/rollouts/${rollout.id}`);
      looks.push(performance.now() - at);
      at = performance.now();
      await ask('/api/rollouts');
      lists.push(performance.now() - at);
    }
    const took = performance.now() - began;
    const rows = (await written()) - before;
    began = performance.now();
    const comparison = await ask('/api/revision-comparison?from=0&to=1');
    const compared = performance.now() - began;
    began = performance.now();
    await ask(`/api/revision-comparison/sites/${comparison.sites[0].siteId}?from=0&to=1`);
    const opened = performance.now() - began;
    const told = rollout.devices;
    figure(`${SITES} sites, ${devices} devices: ten waves foreseen`, `${foreseen.toFixed(0)} ms`, '300 ms or less');
    figure('the same: planned, checked and written down', `${(started / 1000).toFixed(1)} s`, '–');
    figure(
      `${told} devices told in ${waves.length} waves, ${now.state}`,
      `${(took / 1000).toFixed(0)} s, ${((1000 * told) / took).toFixed(0)} a second`,
      '–',
    );
    figure('rows written per device told', (rows / told).toFixed(1), '–');
    figure(
      'a look at it meanwhile p50 / p95',
      `${percentile(looks, 0.5).toFixed(0)} / ${percentile(looks, 0.95).toFixed(0)} ms`,
      '–',
    );
    figure('the list of rollouts meanwhile p95', `${percentile(lists, 0.95).toFixed(0)} ms`, '–');
    figure(
      'two revisions compared; a site of them',
      `${compared.toFixed(0)}; ${opened.toFixed(0)} ms`,
      '300 ms or less',
    );
    figure(
      'controller afterwards, resident memory',
      `${(residentKb(child.pid) / 1024).toFixed(0)} MB`,
      '1536 MB or less',
    );
  } finally {
    await database.end();
    await stopChild(fleet);
    await stopChild(child);
  }
}
