// Routes of joined sites: the table of every gateway, what an edit makes of them, a look-up, and a question from one site to another.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';

const [SITES, SEGMENTS, HUBS, EDITS, LOOK_UPS, BRANCHES] = [1000, 12, 2, 20, 200_000, 100];

export async function benchRoutes() {
  register();
  const core = '@iron-lattice/core';
  const [{ apply, overlayAt, resolve, touchedSites }, { overlayLines }, { KeptTable, OpenTable }] = await Promise.all([
    import(`${core}/intent`),
    import(`${core}/document`),
    import(`${core}/routing`),
  ]);
  const { acrossTo, ask, consequencesOf, joinAnswers, reachAcross } = await import(`${core}/assess`);
  const { compileSite, enforcedAt } = await import(`${core}/rollout`);
  const { sampleJoin, sampleSites } = await import(`${core}/testing`);
  const sample = sampleSites({ sites: SITES, segments: SEGMENTS });
  const devices = new Map(sample.roster.map((device) => [device.id, device]));
  const edit = (intent, operation) => {
    const outcome = apply(intent, operation, (id) => devices.get(id));
    if (!outcome.ok) throw new Error(JSON.stringify(outcome.flaws));
    return outcome.intent;
  };
  let intent = sampleJoin(HUBS, SITES - HUBS).reduce(edit, sample.intent);
  const books = new Map(sample.siteIds.map((id) => [id, new KeptTable()]));
  const tableOf = ({ estate, sites }, siteId) =>
    books.get(siteId).of({
      links: sites.get(siteId).segments.map(({ name, subnet }) => ({ name, address: subnet })),
      ...{ said: [], overlay: overlayLines(overlayAt(estate, siteId)), uplinks: [{ port: 'wan1', turn: 0 }] },
    });
  const began = performance.now();
  const tables = new Map(sample.siteIds.map((id) => [id, tableOf(intent, id)]));
  const lines = [...tables.values()].reduce((sum, { length }) => sum + length, 0);
  figure(
    `tables of ${SITES} sites × ${SEGMENTS} segments, ${HUBS} hubs, ${lines} lines`,
    `${(performance.now() - began).toFixed(0)} ms`,
    '1000 ms or less',
  );

  const times = [];
  for (let i = 0; i < EDITS; i++) {
    const siteId = sample.siteIds[HUBS + i];
    const segment = intent.sites.get(siteId).segments[3];
    const start = performance.now();
    const next = edit(intent, {
      ...{ type: 'segment.set', siteId, segmentId: segment.id },
      from: { subnet: segment.subnet, gateway: segment.gateway, addresses: segment.addresses },
      to: { subnet: `10.200.${i}.0/24`, gateway: `10.200.${i}.1`, addresses: null },
    });
    const touched = touchedSites(intent, next);
    for (const id of touched) tableOf(next, id);
    times.push(performance.now() - start);
    if (touched.length !== HUBS + 1) throw new Error(`${touched.length} sites are touched`);
    intent = next;
  }
  figure(
    'after one edit, tables of whom it touches, median',
    `${percentile(times, 0.5).toFixed(0)} ms`,
    '100 ms or less',
  );

  const open = new OpenTable(tables.get(sample.siteIds[0]).filter(({ counts }) => counts));
  const asked = Array.from({ length: LOOK_UPS }, (_, i) => ({
    version: 4,
    value: BigInt(0x0a000000 + ((i * 7919) % 0x400000)),
  }));
  const first = performance.now();
  let found = 0;
  for (const address of asked) found += open.routesTo(address).length;
  const each = ((performance.now() - first) * 1000) / LOOK_UPS;
  if (found < LOOK_UPS) throw new Error('some addresses lead nowhere');
  figure(`a look-up in the table of a hub, mean of ${LOOK_UPS}`, `${each.toFixed(2)} µs`, '5 µs or less');

  const answers = [];
  for (let i = 0; i < EDITS; i++) {
    const [here, there] = [sample.siteIds[500 + i], sample.siteIds[700 + i]];
    const at = (siteId, question, more = {}) => {
      const site = resolve(intent.estate, intent.sites.get(siteId));
      const roster = sample.roster.filter((device) => device.siteId === siteId);
      const live = enforcedAt(site, roster, compileSite(site, roster));
      return ask({ site, roster, live }, { question, on: 'draft', minute: null, ...more });
    };
    const [a, b] = [here, there].map((id) => intent.sites.get(id).segments[1]);
    const start = performance.now();
    const one = at(here, { from: a.name, to: b.subnet, services: 'tcp 443' });
    const way = acrossTo(intent.estate, here, one.follows, b.subnet, () => true);
    const other = at(there, { from: a.subnet, to: b.subnet, services: 'tcp 443' });
    const { reach } = joinAnswers(one, way, other);
    answers.push(performance.now() - start);
    if (reach !== 'all' || way.siteId !== there) throw new Error(`it reaches ${reach}`);
  }
  figure(
    'reach between two sites of that estate, median',
    `${percentile(answers, 0.5).toFixed(0)} ms`,
    '300 ms or less',
  );
  figure('the same at worst', `${Math.max(...answers).toFixed(0)} ms`, '–');

  const rosterAt = (siteId) => sample.roster.filter((device) => device.siteId === siteId);
  const matrices = [];
  for (let i = 0; i < EDITS; i++) {
    const [here, there] = [sample.siteIds[100 + i], sample.siteIds[300 + i]].map((siteId) => {
      const site = resolve(intent.estate, intent.sites.get(siteId));
      const roster = rosterAt(siteId);
      return { site, roster, live: enforcedAt(site, roster, compileSite(site, roster)) };
    });
    const start = performance.now();
    const { draft } = reachAcross({ here, there, up: null, ahead: 0 }, null);
    matrices.push(performance.now() - start);
    if (draft.flat().some((reach) => reach !== 'all')) throw new Error('some of it is not reached');
  }
  const matrix = `${percentile(matrices, 0.5).toFixed(0)} ms, ${Math.max(...matrices).toFixed(0)} ms at worst`;
  figure(`the whole matrix from one site to another, ${SEGMENTS} × ${SEGMENTS}, median`, matrix, '300 ms or less');

  const toSite = sample.siteIds[999];
  const [any] = intent.sites.get(toSite).segments;
  const end = { kind: 'segment', name: any.name };
  const guarantee = { id: 'g', kind: 'always', from: [end], to: [end], services: [{ protocol: 'any' }], toSite };
  const [plain, kept] = [intent, edit(intent, { type: 'guarantee.add', shared: true, guarantee })];
  const look = (of, siteId) => {
    const { estate, sites } = of;
    const beyond = { [toSite]: { site: sites.get(toSite), roster: rosterAt(toSite) } };
    return consequencesOf({ estate, site: sites.get(siteId), roster: rosterAt(siteId), links: [], told: {}, beyond });
  };
  const costs = [plain, kept].map((of) => {
    const start = performance.now();
    for (let i = 0; i < 50; i++) {
      const { guarantees } = look(of, sample.siteIds[400 + i]);
      if (guarantees.some(({ state }) => state !== 'holds')) throw new Error(JSON.stringify(guarantees));
    }
    return (performance.now() - start) / 50;
  });
  const [without, beside] = costs.map((each) => `${each.toFixed(1)} ms`);
  figure('a site of 12 segments looked at with a guarantee to another, mean of 50', beside, `${without} without`);
  await benchBranches(sample, edit);
}

/** A list of branches beside an estate that is there. */
async function benchBranches(sample, edit) {
  const core = '@iron-lattice/core';
  const [{ composeBranches }, { sampleId, sampleJoin }] = await Promise.all([
    import(`${core}/intake`),
    import(`${core}/testing`),
  ]);
  const recipe = { id: sampleId(30, 0), name: 'Deck', vlan: 200, purpose: '', domain: '', length: 24, parent: null };
  const edits = [
    ...sampleJoin(HUBS, SITES - HUBS - BRANCHES),
    { type: 'recipe.add', recipe: { ...recipe, leaseSeconds: 3600 } },
  ];
  const intent = edits.reduce(edit, sample.intent);
  let [ids, keys] = [0, 0];
  const began = performance.now();
  const { rows } = composeBranches(
    {
      table: [
        ['name', 'gateway', 'model', 'uplinks'],
        ...Array.from({ length: BRANCHES }, (_, i) => [`Stop ${i}`, `BR-${1000 + i}`, 'GW-4', 'dhcp 100/20']),
      ],
      common: {
        ...{ recipeIds: [recipe.id], hubs: sample.siteIds.slice(0, HUBS), shares: [], leaves: 'here', like: null },
        pool: { prefix: '10.240.0.0/16', length: 26 },
      },
    },
    {
      ...{ intent, roster: sample.roster, heard: new Map(), country: 'IE', countryOf: () => 'IE' },
      known: { models: new Set(['GW-4']), serials: new Map(), names: new Map() },
      idFor: () => sampleId(40, ids++),
      keyFor: () => ({ secret: sampleId(41, keys), public: `${String(keys++).padStart(42, 'B')}A=` }),
    },
  );
  const bad = rows.find(({ good }) => good === null);
  if (bad) throw new Error(JSON.stringify(bad.flaws));
  figure(
    `${BRANCHES} branches in one go, beside ${SITES} sites of ${SEGMENTS} segments`,
    `${(performance.now() - began).toFixed(0)} ms`,
    '–',
  );
}
