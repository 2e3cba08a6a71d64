const { readdirSync } = require('node:fs');
const { join } = require('node:path');

/** Who may import whom: between packages, and between folders of core. */
const below = {
  base: [],
  schema: ['base'],
  address: ['base'],
  hardware: ['base', 'schema'],
  ike: ['address'],
  document: ['base', 'hardware', 'rules', 'radius', 'paths', 'ike'],
  intent: [
    ...[
      'base',
      'schema',
      'address',
      'hardware',
      'document',
      'rules',
      'radio',
      'regulation',
      'traffic',
      'radius',
      'guests',
      'paths',
      'ike',
    ],
  ],
  firmware: ['base', 'hardware'],
  regulation: ['base', 'hardware', 'radio'],
  rules: ['base', 'schema', 'address'],
  routing: ['address'],
  paths: ['base', 'address'],
  radius: ['address'],
  formats: ['base', 'address', 'rules', 'ike'],
  line: ['base', 'schema', 'hardware', 'radio', 'document', 'radius', 'paths', 'ike'],
  lattice: ['base', 'schema', 'address', 'hardware', 'document', 'intent', 'formats', 'line', 'rules'],
  intake: ['base', 'address', 'hardware', 'document', 'firmware', 'intent', 'lattice', 'line', 'paths'],
  radio: ['base', 'hardware'],
  traffic: ['base'],
  names: ['base'],
  guests: ['base', 'schema', 'address', 'rules'],
  entry: ['base', 'address', 'document', 'intent', 'line', 'radius', 'rules'],
  rollout: ['base', 'address', 'hardware', 'document', 'intent', 'rules', 'traffic', 'guests', 'paths', 'ike'],
  assess: [
    'routing',
    ...['base', 'address', 'hardware', 'document', 'intent', 'lattice', 'rollout', 'rules', 'radio', 'regulation'],
    'traffic',
    'guests',
    'paths',
    'ike',
  ],
  bench: [
    ...[
      'base',
      'address',
      'hardware',
      'document',
      'intent',
      'lattice',
      'line',
      'rollout',
      'assess',
      'rules',
      'radius',
      'entry',
      'traffic',
      'guests',
      'paths',
    ],
  ],
  wireless: [
    'base',
    'address',
    'hardware',
    'radio',
    'regulation',
    'document',
    'intent',
    'line',
    'rules',
    'assess',
    'formats',
    'traffic',
  ],
  testing: ['base', 'address', 'hardware', 'document', 'intent', 'rules'],
};

/** The floors of the server that its stages stand on; every other folder is a stage and knows no other stage. */
const ground = {
  platform: [],
  roster: ['platform'],
  intent: ['platform', 'roster'],
  session: ['platform', 'roster', 'intent'],
  line: ['platform', 'roster', 'intent', 'session'],
};
const foldersOf = (path) =>
  readdirSync(join(__dirname, path), { withFileTypes: true })
    .filter((each) => each.isDirectory())
    .map(({ name }) => name);
const codeIn = (path) =>
  readdirSync(join(__dirname, path)).some((name) => name.endsWith('.ts') && !name.endsWith('.spec.ts'));
const ofServer = foldersOf('server/src').filter((name) => codeIn(`server/src/${name}`));
const serverStages = ofServer.filter((name) => !(name in ground) && !['demo', 'testing'].includes(name));
/** A stage of the server that the controller cannot read. */
const unread = serverStages.filter(
  (name) => !readdirSync(join(__dirname, 'server/src', name)).includes(`${name}.module.ts`),
);
if (unread.length > 0) throw new Error(`no <stage>.module.ts in server/src/${unread.join(', server/src/')}`);

/** Every folder of the interface is a stage, but for what stages share. */
const frame = { ui: [], session: ['ui'], shell: ['ui', 'session'] };
const SHARED = ['testing', ...Object.keys(frame)];
const stages = foldersOf('web/src/app').filter((name) => !SHARED.includes(name));
/** A folder of core that has no floor is a fault of this list. */
const floorless = foldersOf('core/src').filter((name) => !(name in below));
if (floorless.length > 0) throw new Error(`no floor is said for core/src/${floorless.join(', core/src/')}`);

module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'core-alone', severity: 'error', from: { path: '^core/src' }, to: { path: '^(fleet|server|web|e2e)/' } },
    {
      name: 'core-pure',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.spec\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    { name: 'fleet-on-core', severity: 'error', from: { path: '^fleet/src' }, to: { path: '^(server|web|e2e)/' } },
    { name: 'server-on-core', severity: 'error', from: { path: '^server/src' }, to: { path: '^(fleet|web|e2e)/' } },
    { name: 'web-on-core', severity: 'error', from: { path: '^web/src' }, to: { path: '^(fleet|server|e2e)/' } },
    {
      name: 'stages-of-the-interface-apart',
      comment: 'A stage of the interface uses the shell and the shared parts, never another stage.',
      severity: 'error',
      from: { path: `^web/src/app/(${stages.join('|')})/` },
      to: { path: `^web/src/app/(${stages.join('|')})/`, pathNot: '^web/src/app/$1/' },
    },
    ...Object.entries(frame).map(([folder, allowed]) => ({
      name: `web-${folder}`,
      comment: 'What stages of the interface stand on knows none of them.',
      severity: 'error',
      from: { path: `^web/src/app/${folder}/`, pathNot: '\\.spec\\.ts$' },
      to: { path: '^web/src/app/', pathNot: `^web/src/app/(${[folder, ...allowed].join('|')})/` },
    })),
    {
      name: 'views-of-the-lattice-apart',
      severity: 'error',
      from: { path: '^web/src/app/lattice/([^/]+)/' },
      to: { path: '^web/src/app/lattice/', pathNot: '^web/src/app/lattice/($1|facts)/' },
    },
    {
      name: 'world-knows-no-device',
      severity: 'error',
      from: { path: '^fleet/src/world/', pathNot: '\\.spec\\.ts$' },
      to: { path: '^fleet/src/(?!world/|air/|paths/)' },
    },
    {
      name: 'paths-know-no-world',
      severity: 'error',
      from: { path: '^fleet/src/paths/', pathNot: '\\.spec\\.ts$' },
      to: { path: '^fleet/src/(?!paths/)' },
    },
    {
      name: 'air-knows-no-world',
      severity: 'error',
      from: { path: '^fleet/src/air/', pathNot: '\\.spec\\.ts$' },
      to: { path: '^fleet/src/(?!air/)' },
    },
    ...Object.entries(below).map(([folder, allowed]) => ({
      name: `core-${folder}`,
      severity: 'error',
      from: { path: `^core/src/${folder}/`, pathNot: '\\.spec\\.ts$' },
      to: { path: '^core/src/', pathNot: `^core/src/(${[folder, ...allowed].join('|')})/` },
    })),
    ...Object.entries(ground).map(([folder, allowed]) => ({
      name: `server-${folder}`,
      comment: 'What stages stand on knows none of them.',
      severity: 'error',
      from: { path: `^server/src/${folder}/`, pathNot: '\\.spec\\.ts$' },
      to: { path: '^server/src/', pathNot: `^server/src/(${[folder, ...allowed].join('|')})/` },
    })),
    {
      name: 'stages-of-the-server-apart',
      comment:
        'A stage of the server uses the ground, never another stage: what they do for each other is on offer there.',
      severity: 'error',
      from: { path: `^server/src/(${serverStages.join('|')})/`, pathNot: '\\.spec\\.ts$' },
      to: {
        path: '^server/src/',
        pathNot: `^server/src/($1|${Object.keys(ground).join('|')})/|^server/src/(stage|ground)\\.ts$`,
      },
    },
    {
      name: 'core-by-its-faces',
      comment: 'A folder of core is entered through its index.',
      severity: 'error',
      from: { path: '^core/src/([^/]+)/', pathNot: '\\.spec\\.ts$' },
      to: { path: '^core/src/[^/]+/(?!index\\.ts$)', pathNot: '^core/src/$1/' },
    },
    {
      name: 'no-tests-in-code',
      severity: 'error',
      from: { pathNot: '(\\.spec\\.ts$|/testing/|^e2e|^bench)' },
      to: { path: '(\\.spec\\.ts$|/testing/)' },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(dist|\\.angular)/' },
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
      extensions: ['.ts', '.mjs', '.js', '.json'],
    },
  },
};
