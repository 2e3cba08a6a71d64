// Uplinks: every single failure of a thousand sites rehearsed, an hour of one site, and what an edit of an uplink means.
import { register } from 'tsx/esm/api';
import { startController, stopChild } from '../tools/stack.mjs';
import { figure, percentile } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

const [SITES, EDITS] = [1000, 20];

export async function benchUplinks({ databaseUrl, folder }) {
  await oneSite();
  const { estate } = writeLargeEstate(folder, { sites: SITES, devicesPerSite: 2, segments: 4 });
  const { child, url } = await startController({
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: `${folder}/secret.key`,
    LATTICE_SEED: estate,
  });
  try {
    const headers = { cookie: await signIn(url) };
    for (const [most, what] of [
      [1, 'single failure'],
      [2, 'failure of any two'],
    ]) {
      const began = performance.now();
      const answer = await fetch(`${url}/api/failures?most=${most}`, { headers });
      const found = await answer.json();
      if (found.length !== SITES) throw new Error(`${found.length} gateways instead of ${SITES}`);
      const aim = most === 1 ? '5,000 ms or less' : '–';
      figure(`every ${what} of ${SITES} sites, on worker threads`, `${(performance.now() - began).toFixed(0)} ms`, aim);
    }
  } finally {
    await stopChild(child);
  }
}

/** What a page works out by itself. */
async function oneSite() {
  register();
  const { consequencesOf, rehearsedGateway } = await import('@iron-lattice/core/assess');
  const { apply, resolve } = await import('@iron-lattice/core/intent');
  const { hashOf } = await import('@iron-lattice/core/document');
  const { rehearse } = await import('@iron-lattice/core/paths');
  const { compileSite } = await import('@iron-lattice/core/rollout');
  const { PolicyBook } = await import('@iron-lattice/core/rules');
  const { sampleSite } = await import('@iron-lattice/core/testing');
  const sample = sampleSite({ segments: 60, aps: 200, switches: 40, size: 'large' });
  const gateway = sample.roster.find(({ model }) => model.startsWith('GW'));
  const made = rehearsedGateway(sample.site, gateway, null);
  const hour = Array.from({ length: 30 }, (_, i) => ({
    ...{ what: i % 2 === 0 ? 'silent' : 'cut', port: i % 3 === 0 ? 'wan2' : 'wan1', gatewayId: gateway.id },
    ...{ from: i * 115, to: i * 115 + 80 },
  }));
  const times = [];
  for (let i = 0; i < 20; i++) {
    const began = performance.now();
    rehearse(made, hour, 3600);
    times.push(performance.now() - began);
  }
  figure(
    'an hour of one site with 30 mishaps, median of 20',
    `${percentile(times, 0.5).toFixed(1)} ms`,
    '100 ms or less',
  );
  const told = Object.fromEntries(compileSite(resolve(sample.intent.estate, sample.site), sample.roster));
  const toldHashes = Object.fromEntries(Object.entries(told).map(([id, document]) => [id, hashOf(document)]));
  const lookup = (id) => sample.roster.find((each) => each.id === id);
  const of = (intent) => ({
    ...{
      estate: intent.estate,
      site: intent.sites.get(sample.site.id),
      roster: sample.roster,
      links: sample.links,
      told,
      toldHashes,
    },
  });
  let { intent } = sample;
  // As the controller does, which knows the policy of before.
  const book = new PolicyBook();
  consequencesOf(of(intent), book);
  const edits = [];
  for (let i = 0; i < EDITS; i++) {
    const from = intent.sites.get(sample.site.id).uplinks?.[gateway.id]?.wan2 ?? null;
    const to = { role: 'shares', weight: 2 + i };
    const began = performance.now();
    const done = apply(
      intent,
      { type: 'uplink.set', siteId: sample.site.id, deviceId: gateway.id, port: 'wan2', from, to },
      lookup,
    );
    if (!done.ok) throw new Error(done.flaws[0].message);
    intent = done.intent;
    consequencesOf(of(intent), book);
    edits.push(performance.now() - began);
  }
  figure(
    'an edit of an uplink at a site of 240 devices to its consequences, p95',
    `${percentile(edits, 0.95).toFixed(0)} ms`,
    '150 ms or less',
  );
}
