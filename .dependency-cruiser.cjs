/** Who may import whom: between packages, and between folders of core. */
const below = {
  base: [],
  address: ['base'],
  hardware: ['base'],
  document: ['base', 'hardware', 'rules'],
  intent: ['base', 'address', 'hardware', 'document', 'rules'],
  firmware: ['base', 'hardware'],
  regulation: ['base', 'hardware'],
  rules: ['base', 'address'],
  routing: ['address'],
  formats: ['base', 'address', 'rules'],
  line: ['base', 'document'],
  lattice: ['base', 'address', 'hardware', 'document', 'intent', 'formats', 'line'],
  intake: ['base', 'address', 'hardware', 'firmware', 'intent', 'lattice', 'line'],
  rollout: ['base', 'address', 'hardware', 'document', 'intent', 'rules'],
  assess: ['base', 'address', 'hardware', 'document', 'intent', 'lattice', 'rollout', 'rules'],
  bench: ['base', 'address', 'hardware', 'document', 'intent', 'lattice', 'line', 'rollout', 'assess', 'rules'],
  testing: ['address', 'hardware', 'intent', 'rules'],
};

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
      from: { path: '^web/src/app/(estate|intake|lattice|wireless|rules|bench|rollout)/' },
      to: { path: '^web/src/app/(estate|intake|lattice|wireless|rules|bench|rollout)/', pathNot: '^web/src/app/$1/' },
    },
    {
      name: 'parts-know-no-stage',
      severity: 'error',
      from: { path: '^web/src/app/ui/' },
      to: { path: '^web/src/app/(?!ui/)' },
    },
    ...Object.entries(below).map(([folder, allowed]) => ({
      name: `core-${folder}`,
      severity: 'error',
      from: { path: `^core/src/${folder}/`, pathNot: '\\.spec\\.ts$' },
      to: { path: '^core/src/', pathNot: `^core/src/(${[folder, ...allowed].join('|')})/` },
    })),
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
