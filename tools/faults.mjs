// npm run faults -- --seed N --minutes M: the suite of faults for as long as one likes, by any seed.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { checkNode, ensureDependencies, ensurePackages, root } from './setup.mjs';

const { values } = parseArgs({
  options: { seed: { type: 'string', default: '1' }, minutes: { type: 'string', default: '3' } },
});
for (const [name, text] of Object.entries(values))
  if (!(Number(text) > 0)) {
    console.error(`--${name} is a number above 0, not “${text}”.`);
    process.exit(2);
  }
checkNode();
ensurePackages('postgresql', 'haproxy');
ensureDependencies();
const { status } = spawnSync(
  join(root, 'node_modules/.bin/vitest'),
  ['run', '--project', 'system', 'e2e/system/faults-', '--disable-console-intercept'],
  {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, FAULTS_SEED: values.seed, FAULTS_MINUTES: values.minutes },
  },
);
process.exit(status ?? 1);
