// npm start: everything a fresh clone needs, then the demo, until Ctrl-C.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb, root } from './setup.mjs';

checkNode();
ensurePackages('postgresql');
ensureDependencies();
ensureWeb();
const { startStack } = await import('./stack.mjs');
const port = Number(process.env.LATTICE_PORT ?? 8620);
// An empty controller has a place of its own: the demo is not touched.
const empty = process.argv.includes('--empty');
const data = process.env.LATTICE_DATA ?? join(root, empty ? '.data/empty' : '.data');

let stopping = false;
let stack = null;
const stop = async () => {
  if (stopping) return;
  stopping = true;
  await stack?.stop();
  process.exit(0);
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);

stack = await startStack({ data, port, empty, controlPort: Number(process.env.LATTICE_FLEET_PORT ?? port + 1) }).catch(
  (error) => {
    console.error(`Iron Lattice did not start: ${error.message}`);
    process.exit(1);
  },
);
if (stopping) await stack.stop();
stack.controller.once('exit', (code) => {
  if (stopping) return;
  console.error(`The controller ended by itself with code ${code}. Start again: nothing is lost.`);
  void stop();
});
if (empty) console.log(`\nIron Lattice serves ${stack.url}   (empty: open it and set it up)`);
else tellOfDemo();
console.log('Ctrl-C stops everything.\n');

function tellOfDemo() {
  const { name, people } = JSON.parse(readFileSync(join(root, 'demo/skerrow.estate.json'), 'utf8'));
  console.log(`\nIron Lattice serves ${stack.url}   (${name})`);
  for (const { email, password, role } of people) console.log(`  ${role.padEnd(14)} ${email.padEnd(22)} ${password}`);
}
