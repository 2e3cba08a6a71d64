// An edit of what a thousand sites share: how soon the site in front knows, and how soon all of them do.
import { createHash, randomUUID } from 'node:crypto';
import pg from 'pg';
import { startController, stopChild } from '../tools/stack.mjs';
import { figure, pause, percentile, residentKb } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

const [SITES, EACH, SEGMENTS, AT_ONCE, SIDE_BY_SIDE] = [1000, 10, 12, 10, 3];
const [EDITS, REVISIONS] = [3, 1000];
/** What the sites share. */
const [SSIDS, RULES] = [20, 200];

export async function benchEstate({ databaseUrl, folder }) {
  const { estate, devices } = writeLargeEstate(folder, {
    ...{ sites: SITES, devicesPerSite: EACH, segments: SEGMENTS, ssids: SSIDS, rules: RULES },
  });
  const { child, url } = await startController({
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: `${folder}/secret.key`,
    LATTICE_SEED: estate,
    LATTICE_SWEEP_PORT: '0',
  });
  try {
    const headers = { cookie: await signIn(url), 'content-type': 'application/json' };
    const ask = async (path, body) => {
      const sent = body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) };
      const response = await fetch(`${url}${path}`, { headers, ...sent });
      const text = await response.text();
      if (!response.ok) throw new Error(`${path}: ${response.status} ${text.slice(0, 300)}`);
      return { json: JSON.parse(text), octets: text.length };
    };
    const { json: all } = await ask('/api/estate');
    const front = all.sites[0].id;
    const { ssids } = (await ask(`/api/drafts/current/sites/${front}`)).json.estate;
    const [fronts, firsts, wholes, touches] = [[], [], [], []];
    let [octets, told, slowest] = [0, 0, 0];
    for (let i = 0; i < EDITS; i++) {
      const { id, head } = (await ask('/api/drafts/current')).json;
      const isolation = i % 2 === 0 ? { clients: true } : null;
      const from = { isolation: i % 2 === 0 ? null : { clients: true } };
      const edit = { type: 'ssid.set', ssidId: ssids[0].id, from, to: { isolation } };
      const began = performance.now();
      await ask(`/api/drafts/${id}/operations?site=${front}`, { head, operations: [edit] });
      fronts.push(performance.now() - began);
      const asked = performance.now();
      const { sites } = (await ask(`/api/drafts/${id}/touched`)).json;
      touches.push(performance.now() - asked);
      const parts = Array.from({ length: Math.ceil(sites.length / AT_ONCE) }, (_, at) =>
        sites.slice(at * AT_ONCE, (at + 1) * AT_ONCE),
      );
      let [seen, tenth] = [0, 0];
      [octets, told] = [0, 0];
      const work = async () => {
        for (let part = parts.shift(); part; part = parts.shift()) {
          const answer = await ask(`/api/drafts/${id}/reviews?sites=${part.map((site) => site.id).join(',')}`);
          octets += answer.octets;
          told += answer.json.reduce((sum, { changes }) => sum + changes.length, 0);
          seen += part.length;
          if (seen >= SITES / 10 && tenth === 0) tenth = performance.now() - asked;
        }
      };
      const others = (async () => {
        while (seen < SITES) {
          const at = performance.now();
          await ask('/api/drafts/current');
          slowest = Math.max(slowest, performance.now() - at);
          await pause(100);
        }
      })();
      await Promise.all(Array.from({ length: SIDE_BY_SIDE }, work));
      wholes.push(performance.now() - asked);
      firsts.push(tenth);
      await others;
    }
    const ms = (list) => `${percentile(list, 0.5).toFixed(0)} ms`;
    figure(
      `shared SSID edited, ${SITES} sites, ${devices} devices, ${SSIDS} SSIDs, ${RULES} rules: site in front`,
      ms(fronts),
      '200 ms or less',
    );
    figure('the same: which sites it touches', ms(touches), '–');
    figure('the same: the first tenth of the sites looked at', ms(firsts), '1 s or less');
    figure('the same: all of them, first time', `${(wholes[0] / 1000).toFixed(1)} s`, '10 s or less');
    figure('the same: all of them, median of 3', `${(percentile(wholes, 0.5) / 1000).toFixed(1)} s`, '10 s or less');
    figure('devices told of / octets of the answers', `${told} / ${(octets / 1e6).toFixed(1)} MB`, '–');
    figure('somebody else meanwhile, worst', `${slowest.toFixed(0)} ms`, '–');
    const floor = await stringified(databaseUrl);
    figure('the floor: JSON.stringify of the same documents', `${floor.toFixed(0)} ms`, '–');
    const { json: check } = await ask(`/api/drafts/${(await ask('/api/drafts/current')).json.id}/rollout-check`);
    if (check.devices !== told) throw new Error(`${check.devices} devices by the check, ${told} by the reviews`);
    await makeRevisions(databaseUrl);
    let began = performance.now();
    for (let from = 0; from < REVISIONS; from++) await ask(`/api/revision-comparison?from=${from}&to=${from + 1}`);
    const each = (performance.now() - began) / REVISIONS;
    figure(`${REVISIONS} revisions, each compared with the next by hash`, `${each.toFixed(0)} ms each`, '–');
    began = performance.now();
    const { json: compared } = await ask(`/api/revision-comparison?from=0&to=${REVISIONS}`);
    const site = compared.sites[0].siteId;
    const { json: opened } = await ask(`/api/revision-comparison/sites/${site}?from=0&to=${REVISIONS}`);
    figure(
      'the first and the last opened, and a site of them',
      `${(performance.now() - began).toFixed(0)} ms`,
      '300 ms or less',
    );
    if (compared.sites.length < 2 || opened.objects.length === 0) throw new Error('nothing was compared');
    figure(
      'controller afterwards, resident memory',
      `${(residentKb(child.pid) / 1024).toFixed(0)} MB`,
      '1536 MB or less',
    );
  } finally {
    await stopChild(child);
  }
}

/** How long it takes to write the documents of all devices as JSON, in milliseconds. */
async function stringified(connectionString) {
  const client = new pg.Client({ connectionString });
  await client.connect();
  const { rows } = await client.query('SELECT doc.body FROM device d JOIN document doc ON doc.hash = d.wants');
  await client.end();
  const began = performance.now();
  for (const { body } of rows) JSON.stringify(body);
  return performance.now() - began;
}

/** Revisions after those there are, each with another site’s segments renamed: written past the controller, which tells nobody. */
async function makeRevisions(connectionString) {
  const client = new pg.Client({ connectionString });
  await client.connect();
  const { rows: sites } = await client.query('SELECT id, live_part FROM site ORDER BY name');
  const { rows: parts } = await client.query('SELECT hash, body FROM part');
  const bodies = new Map(parts.map(({ hash, body }) => [hash.trim(), body]));
  const { rows: people } = await client.query('SELECT id FROM person LIMIT 1');
  const { rows: estates } = await client.query('SELECT founding_hash AS hash FROM estate');
  const now = Object.fromEntries([['estate', estates[0].hash], ...sites.map(({ id, live_part }) => [id, live_part])]);
  for (let number = 1; number <= REVISIONS; number++) {
    const { id } = sites[number % sites.length];
    const body = structuredClone(bodies.get(now[id].trim()));
    body.segments[1].name = `Renamed ${number}`;
    const hash = createHash('sha256').update(`${number} ${randomUUID()}`).digest('hex'); // nobody computes it again
    await client.query('INSERT INTO part (hash, body) VALUES ($1, $2)', [hash, JSON.stringify(body)]);
    bodies.set(hash, body);
    now[id] = hash;
    await client.query('INSERT INTO revision (number, name, person_id, parts) VALUES ($1, $2, $3, $4)', [
      ...[number, `Draft ${number}`, people[0].id, JSON.stringify(now)],
    ]);
  }
  await client.end();
}
