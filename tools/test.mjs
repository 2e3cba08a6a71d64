// npm test: everything, on a machine where nothing was installed by hand. Ends with one line for all suites.
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb, root } from './setup.mjs';

const started = Date.now();
checkNode();
ensurePackages(
  'postgresql',
  'haproxy',
  'chromium',
  'tcpdump',
  // What judges our results.
  'openvswitch-switch',
  'libyang2-tools',
  'libyuma-base',
  'kea-dhcp4-server',
  'nftables',
  'hostapd',
  'freeradius-utils',
  'freeradius',
  'charon-systemd',
  'strongswan-swanctl',
  'libstrongswan-standard-plugins',
  'libcharon-extra-plugins',
  'libstrongswan-extra-plugins',
  'eapoltest',
  'slapd',
  'ldap-utils',
  'iproute2',
  'wireguard-tools',
  'wireguard-go',
  'keepalived',
  'iputils-ping',
  'poppler-utils',
  'python3',
);
ensureDependencies();

const out = mkdtempSync(join(tmpdir(), 'lattice-test-'));
const total = { passed: 0, failed: 0 };

/** Runs one step and shows what it printed when it is over, so that steps at the same time do not mix. */
function run(name, command, args, { env = {}, cwd = root } = {}) {
  const began = Date.now();
  return new Promise((resolve) => {
    const chunks = [];
    const child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => chunks.push(chunk));
    child.on('close', (code) => {
      const seconds = ((Date.now() - began) / 1000).toFixed(0);
      console.log(`\n── ${name}: ${code === 0 ? 'fine' : 'FAILED'} (${seconds} s)`);
      if (code !== 0 || process.env.LATTICE_VERBOSE) console.log(Buffer.concat(chunks).toString());
      resolve(code === 0);
    });
  });
}

/** A step that is one check: lint, types, … */
async function check(name, ...args) {
  const fine = await run(name, ...args);
  total[fine ? 'passed' : 'failed']++;
}

/** What a file has to take so that it is told, in seconds. */
const LONG_SECONDS = 5;

/** Tests that failed which are told by name. */
const MOST_FAULTS = 20;

/** A suite that counts its tests into a JSON file; one that wrote none counts as a failure. Says what its files took. */
async function suite(name, count, command, args, options) {
  const fine = await run(name, command, args, options);
  const { passed, failed, files, again = [], faults = [] } = count();
  total.passed += passed;
  total.failed += failed + (!fine && failed === 0 ? 1 : 0) + (fine && passed === 0 ? 1 : 0);
  console.log(`   ${passed} passed, ${failed} failed`);
  for (const { title, error } of faults.slice(0, MOST_FAULTS)) console.log(`   × ${title}\n${error}`);
  for (const { title, error } of again) console.log(`   only at a second try: ${title}\n${error}`);
  const long = files.filter(({ seconds }) => seconds >= LONG_SECONDS).sort((a, b) => b.seconds - a.seconds);
  for (const { file, seconds } of long) console.log(`   ${seconds.toFixed(0).padStart(5)} s  ${relative(root, file)}`);
  const rest = files.filter(({ seconds }) => seconds < LONG_SECONDS);
  const short = rest.reduce((sum, { seconds }) => sum + seconds, 0);
  if (rest.length > 0) console.log(`   ${short.toFixed(0).padStart(5)} s  ${rest.length} other files together`);
}

const readJson = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null);
const vitestCount = (file) => () => {
  const result = readJson(file);
  const files = (result?.testResults ?? []).map(({ name, startTime, endTime }) => {
    return { file: name, seconds: (endTime - startTime) / 1000 };
  });
  const faults = (result?.testResults ?? []).flatMap(({ assertionResults = [] }) =>
    assertionResults
      .filter(({ status }) => status === 'failed')
      .map(({ fullName, failureMessages = [] }) => ({ title: fullName, error: failureMessages[0] ?? '' })),
  );
  return { passed: result?.numPassedTests ?? 0, failed: result?.numFailedTests ?? 0, files, faults };
};
/** Tests that passed only when they were tried again, with what failed before. */
const triedAgain = ({ specs = [], suites = [] }) =>
  specs
    .flatMap(({ title, tests }) => tests.map(({ status, results }) => ({ title, status, results })))
    .filter(({ status }) => status === 'flaky')
    .map(({ title, results }) => ({ title, error: results[0]?.error?.message ?? 'not reached: one before it failed' }))
    .concat(suites.flatMap(triedAgain));
const playwrightCount = (file) => () => {
  const { stats, suites = [] } = readJson(file) ?? {};
  const durations = ({ specs = [], suites: inner = [] }) =>
    specs
      .flatMap(({ tests }) => tests.flatMap(({ results }) => results.map(({ duration }) => duration)))
      .concat(inner.flatMap(durations));
  const files = suites.map((each) => {
    return {
      file: join(root, 'e2e/browser', each.file),
      seconds: durations(each).reduce((sum, ms) => sum + ms, 0) / 1000,
    };
  });
  const passed = (stats?.expected ?? 0) + (stats?.flaky ?? 0);
  return { passed, failed: stats?.unexpected ?? 0, files, again: suites.flatMap(triedAgain) };
};

const bin = (name) => join(root, 'node_modules', '.bin', name);
const npm = (script) => ['npm', ['run', '-s', script]];
const vitest = (name, ...projects) => {
  const file = join(out, `${name}.json`);
  const args = [
    'run',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${file}`,
    ...projects.flatMap((each) => ['--project', each]),
  ];
  return [vitestCount(file), bin('vitest'), args];
};

const { startPostgres } = await import('./pg.mjs');
const postgres = await startPostgres(join(root, '.data', 'test'), { fast: true });
const env = { TEST_DATABASE: postgres.urlOf('NAME') };
try {
  const web = ensureWeb(); // once, for all suites
  const interfaceTests = async () => {
    const tested = join(out, 'web.json');
    const args = [
      join(root, 'node_modules/@angular/cli/bin/ng.js'),
      'test',
      '--no-watch',
      '--reporters=json',
      `--output-file=${tested}`,
    ];
    await suite('interface tests', vitestCount(tested), process.execPath, args, { cwd: join(root, 'web') });
  };
  // Two lanes for two cores. Browsers take the longest: they begin early, beside what is computed, what waits, and what is read.
  const screens = async () => {
    await web;
    await interfaceTests();
    const browser = join(out, 'browser.json');
    await suite('browser tests', playwrightCount(browser), bin('playwright'), ['test', '-c', 'e2e'], {
      env: { ...env, LATTICE_SUMMARY: browser },
    });
  };
  const processes = async () => {
    const [count, command, args] = vitest('unit', 'core', 'fleet', 'server');
    await suite('unit and API tests', count, command, args, { env });
    await web;
    const system = vitest('system', 'system');
    await suite('tests of the processes together', system[0], system[1], system[2], { env });
    await check('rules and types', ...npm('lint'));
    await check('layers', ...npm('layers'));
  };
  await Promise.all([screens(), processes()]);
} finally {
  postgres.stop();
  rmSync(out, { recursive: true });
}
console.log(`\nAll of it took ${((Date.now() - started) / 1000).toFixed(0)} s.`);
console.log(`${total.passed} passed, ${total.failed} failed`);
process.exit(total.failed > 0 ? 1 : 0);
