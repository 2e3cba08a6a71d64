// npm start: everything a fresh clone needs, then the demo, until Ctrl-C.
import { readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { Refusal } from './refusal.mjs';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb, root } from './setup.mjs';

/** How often it is looked whether PostgreSQL still lives, in milliseconds. */
const LOOK_MS = 2000;

const port = portFrom('LATTICE_PORT', 8620);
const controlPort = portFrom('LATTICE_FLEET_PORT', port === 0 ? 0 : port + 1);
portFrom('LATTICE_SWEEP_PORT', 8622);
const mailPort = portFrom('LATTICE_MAIL_PORT', port === 0 ? 0 : port + 5);
const radiusPort = portFrom('LATTICE_RADIUS_PORT', port === 0 ? 0 : 18_120);
const entryPort = portFrom('LATTICE_ENTRY_PORT', port === 0 ? 0 : 18_110);
const portalPort = portFrom('LATTICE_PORTAL_PORT', port === 0 ? 0 : port + 4);
checkNode();
const controllers = controllersFrom(process.argv);
ensurePackages('postgresql', ...(controllers > 1 ? ['haproxy'] : []));
ensureDependencies();
await ensureWeb();
const { authorityOf, makeStack } = await import('./stack.mjs');
// An empty controller has a place of its own: the demo is not touched.
const empty = process.argv.includes('--empty');
const data = process.env.LATTICE_DATA ?? join(root, empty ? '.data/empty' : '.data');
const stack = makeStack({ data, port, empty, controlPort, radiusPort, mailPort, entryPort, portalPort, controllers });

let stopping = null;
/** Stops whatever was started, whenever; nothing is left behind. */
function stop(code) {
  stopping ??= stack.stop().then(
    () => process.exit(code),
    (error) => {
      console.error(error instanceof Refusal ? error.message : error);
      process.exit(1);
    },
  );
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stop(0));

try {
  await stack.start();
} catch (error) {
  // Whoever failed has said why, or was told to stop.
  if (!stopping && error.message !== '')
    console.error(error instanceof Refusal ? error.message : `Iron Lattice did not start: ${error.message}`);
  stop(1);
  await new Promise(() => {}); // until everything has stopped
}
for (const [i, child] of stack.controllers.entries()) if (controllers > 1) watch(i, child);
for (const [child, what] of [
  ...(controllers > 1 ? [[stack.balancer, 'balancer']] : [[stack.controller, 'controller']]),
  [stack.fleet, 'fleet of the demo'],
])
  child.once('exit', (code, signal) => {
    if (stopping) return;
    console.error(`The ${what} ended by itself (${signal ?? `code ${code}`}). Start again: nothing is lost.`);
    stop(1);
  });
setInterval(() => {
  if (stopping) return;
  try {
    if (stack.postgres.revive())
      console.error('PostgreSQL had ended by itself and was started again: nothing is lost.');
  } catch (error) {
    console.error(error.message);
    stop(1);
  }
}, LOOK_MS).unref();
if (!stopping) {
  if (empty) console.log(`\nIron Lattice serves ${stack.url}   (empty: open it and set it up)`);
  else tellOfDemo();
  if (controllers > 1)
    console.log(`  ${controllers} controllers share it, behind a balancer: ports ${stack.ports.join(', ')}`);
  console.log('Ctrl-C stops everything.\n');
}

/** One of several that ends by itself is started again; the others go on meanwhile. */
function watch(i, child) {
  child.once('exit', (code, signal) => {
    if (stopping) return;
    console.error(
      `Controller ${i + 1} ended by itself (${signal ?? `code ${code}`}); the others go on. Starting it again.`,
    );
    stack.startOne(i).then(
      () => watch(i, stack.controllers[i]),
      (error) => {
        if (!stopping) console.error(`Controller ${i + 1} did not start again: ${error.message}`);
      },
    );
  });
}

/** How many controllers are asked for. */
function controllersFrom(argv) {
  const at = argv.findIndex((each) => each === '--controllers' || each.startsWith('--controllers='));
  if (at < 0) return 1;
  const text = argv[at].includes('=') ? argv[at].split('=')[1] : (argv[at + 1] ?? '');
  if (/^[1-8]$/.test(text)) return Number(text);
  console.error(`--controllers is a whole number from 1 to 8, not “${text}”.`);
  process.exit(1);
}

function portFrom(name, otherwise) {
  const text = process.env[name] ?? String(otherwise);
  const value = /^\d{1,5}$/.test(text) ? Number(text) : NaN;
  if (value <= 65_535) return value;
  console.error(`${name} is a whole number from 0 to 65535, not “${text}”.`);
  process.exit(1);
}

function tellOfDemo() {
  const { name, people } = JSON.parse(readFileSync(join(root, 'demo/skerrow.estate.json'), 'utf8'));
  console.log(`\nIron Lattice serves ${stack.url}   (${name})`);
  for (const { email, password, role } of people) console.log(`  ${role.padEnd(14)} ${email.padEnd(22)} ${password}`);
  if (stack.portalUrl !== null) console.log(`  Guests         ${'sign in at'.padEnd(22)} ${stack.portalUrl}`);
  if (stack.entryPort !== null)
    console.log(
      `  RADIUS server  ${'this controller'.padEnd(22)} UDP 127.0.0.1:${stack.entryPort}, for users that it keeps`,
    );
  for (const { name, port: at, secret } of stack.radius)
    console.log(`  RADIUS server  ${name.padEnd(22)} UDP 127.0.0.1:${at}, secret ${secret}`);
  if (stack.directory) {
    const { ldaps, ldap, base, account, password } = stack.directory;
    console.log(`  Directory      ${'localhost'.padEnd(22)} LDAPS port ${ldaps}, StartTLS port ${ldap}, base ${base},`);
    console.log(`    by ${account} “${password}”; believed by ${relative(root, authorityOf(data))}`);
  }
  console.log(
    `  Texts          ${'a gateway that keeps them'.padEnd(22)} http://127.0.0.1:${controlPort}/texts, X-Key: capstan and cleat, fields to and text`,
  );
  console.log(
    `  Mail           ${'a server that keeps it'.padEnd(22)} SMTP 127.0.0.1:${stack.mail}, without encryption; read at http://127.0.0.1:${controlPort}/mailbox`,
  );
  console.log(
    `  Accounts       ${'elsewhere, for guests'.padEnd(22)} issuer http://127.0.0.1:${controlPort}/accounts, client skerrow-guests “bollard and fender”; tove@gull.example “sea pink 5”`,
  );
  if (stack.changes)
    console.log(
      `  Devices        ${'end and change sessions'.padEnd(22)} UDP 127.0.0.1:${stack.changes}, by NAS-Identifier (RFC 5176)`,
    );
}
