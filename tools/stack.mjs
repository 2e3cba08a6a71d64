// The processes of a running Iron Lattice: PostgreSQL, controller, fleet. Used by start, end-to-end tests and benchmarks.
import { fork, spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { freePorts, startBalancer } from './balancer.mjs';
import { ensureDatabase, startPostgres } from './pg.mjs';
import { Refusal, SAID } from './refusal.mjs';
import { makePrograms, PROGRAMS } from './programs.mjs';
import { root } from './setup.mjs';

/**
 * Errors are told at the lines of the sources. What clears away behind a process has as many threads as are left beside it: four of them, as is usual,
 * wait for each other where there are two cores.
 */
const ARGS = ['--enable-source-maps', `--v8-pool-size=${Math.max(1, Math.min(4, availableParallelism() - 1))}`];

/** Waits until a child says that it is ready. @throws Refusal when it said itself why it is not. */
function ready(child, what) {
  return new Promise((resolve, reject) => {
    child.once('message', resolve);
    child.once('exit', (code, signal) =>
      reject(code === SAID ? new Refusal('') : new Error(`the ${what} ended with ${signal ?? `code ${code}`}`)),
    );
  });
}

/** Starts the controller and waits until it serves. @param onSpawn is called with its process as soon as there is one. */
export async function startController(env, onSpawn = () => {}) {
  await makePrograms();
  const child = fork(PROGRAMS.controller, [], {
    cwd: root,
    execArgv: ARGS,
    env: { LATTICE_PORTAL_PORT: '0', ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true, // Ctrl-C reaches only the one who stops things in order
  });
  onSpawn(child);
  const { url, entryPort, portalUrl } = await ready(child, 'controller');
  return { child, url, entryPort, portalUrl };
}

/** Whom the RADIUS servers of the demo know. */
const DIRECTORY = join(root, 'demo/skerrow.radius.json');

/** Where the certificate of the authority stands by which the demo’s directory is believed. */
export const authorityOf = (data) => join(data, 'directory-authority.pem');

/** Starts a fleet of devices that call the controller, which was started before. */
export function startFleet({ world, controllerUrl, state, control, sweepPort = 0, radiusPort = 0, mailPort = 0 }) {
  const args = [
    ...ARGS,
    PROGRAMS.fleet,
    '--world',
    world,
    '--controller',
    controllerUrl.replace('http', 'ws'),
    '--control',
    String(control),
    '--sweep-port',
    String(sweepPort),
    '--radius',
    DIRECTORY,
    '--radius-port',
    String(radiusPort),
    '--mail-port',
    String(mailPort),
  ];
  if (state) args.push('--state', state);
  return spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit', 'ipc'], detached: true });
}

/** How long a child may take to end before it is killed, in milliseconds. */
const PATIENCE_MS = 15_000;

/** Ends a child process and waits for it. */
export function stopChild(child, signal = 'SIGTERM') {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    const late = setTimeout(() => child.kill('SIGKILL'), PATIENCE_MS);
    child.once('exit', () => {
      clearTimeout(late);
      resolve();
    });
    child.kill(signal);
  });
}

/**
 * Everything, not started yet. What `start` has begun can be stopped at any moment, also while it still starts.
 * @param data folder for all that is kept.
 * @param radiusPort first of those at which RADIUS servers of the fleet listen; 0: any.
 * @param mailPort TCP port at which the fleet takes mail; 0: any.
 * @param entryPort UDP port at which the controller answers who somebody is; 0: any.
 * @param portalPort at which guests sign in; 0: any.
 * @param empty whether the controller starts without an estate, for the first start.
 * @param env further settings of the controller.
 * @param controllers how many there are; more than one have a balancer in front, on the port.
 */
export function makeStack({
  data,
  port,
  controlPort,
  radiusPort = 0,
  mailPort = 0,
  entryPort = 0,
  portalPort = 0,
  fast = false,
  empty = false,
  env = {},
  controllers = 1,
}) {
  let starting = Promise.resolve();
  let stopped = null;
  const goOn = () => {
    if (stopped) throw new Refusal('');
  };
  const stack = {
    postgres: null,
    settings: null,
    ports: [],
    controller: null,
    /** All of them, the first one among them. */
    controllers: [],
    balancer: null,
    fleet: null,
    /** RADIUS servers of the fleet, with the ports at which they really listen. */
    radius: [],
    /** UDP port at which servers end and change sessions at any of its devices. */
    changes: null,
    /** TCP port at which the fleet takes mail. */
    mail: null,
    url: '',
    /** UDP port at which the controller answers who somebody is; null: it does not. */
    entryPort: null,
    /** Where guests sign in. */
    portalUrl: null,
    start() {
      starting = (async () => {
        stack.postgres = await startPostgres(data, { fast });
        goOn();
        await ensureDatabase(stack.postgres.urlOf, 'lattice');
        goOn();
        stack.settings = {
          DATABASE_URL: stack.postgres.urlOf('lattice'),
          LATTICE_PORT: String(port),
          LATTICE_SECRET_KEY: join(data, 'secret.key'),
          ...(empty ? {} : { LATTICE_SEED: join(root, 'demo/skerrow.estate.json') }),
          LATTICE_ENTRY_PORT: String(entryPort),
          LATTICE_PORTAL_PORT: String(portalPort),
          LATTICE_LOG: 'info',
          LATTICE_LOG_FILE: join(data, 'controller.log'),
          ...env,
        };
        if (controllers === 1) await stack.startController();
        else await stack.startSeveral();
        goOn();
        await stack.startFleet();
        goOn();
      })();
      return starting;
    },
    async startController() {
      const {
        url,
        entryPort: answers,
        portalUrl,
      } = await startController(stack.settings, (child) => {
        stack.controller = child;
        stack.controllers = [child];
      });
      stack.url = url;
      stack.entryPort = answers;
      stack.portalUrl = portalUrl;
    },
    /** Several on one database, and a balancer in front. The first one founds what is not there yet. */
    async startSeveral() {
      const [at, ...ports] = await freePorts(controllers + 1);
      const front = port === 0 ? at : port;
      stack.settings.LATTICE_PUBLIC_URL = `http://127.0.0.1:${front}`;
      stack.settings.LATTICE_PROXIES = '127.0.0.1';
      stack.ports = ports;
      await stack.startOne(0);
      goOn();
      await Promise.all(ports.slice(1).map((_, i) => stack.startOne(i + 1)));
      goOn();
      const { child, url } = await startBalancer({ port: front, servers: ports, folder: data });
      stack.balancer = child;
      stack.url = url;
    },
    /** Starts one of several, the first time or again. */
    async startOne(i) {
      const { LATTICE_LOG_FILE: log, ...settings } = stack.settings;
      // Each answers at a port of its own, which it tells the devices whose lines it holds.
      const own = {
        LATTICE_ENTRY_PORT: '0',
        LATTICE_PORTAL_PORT: '0',
        LATTICE_PORT: String(stack.ports[i]),
        LATTICE_LOG_FILE: log.replace(/\.log$/, `-${i + 1}.log`),
      };
      await startController({ ...settings, ...own }, (child) => {
        stack.controllers[i] = child;
        if (i === 0) stack.controller = child;
      });
    },
    async startFleet() {
      stack.fleet = startFleet({
        world: join(root, 'demo/skerrow.world.json'),
        controllerUrl: stack.url,
        state: join(data, 'devices'),
        control: controlPort,
        radiusPort,
        mailPort,
        sweepPort: Number(stack.settings.LATTICE_SWEEP_PORT ?? process.env.LATTICE_SWEEP_PORT ?? 8622),
      });
      ({
        radius: stack.radius,
        changes: stack.changes,
        directory: stack.directory,
        mail: stack.mail,
      } = await ready(stack.fleet, 'fleet'));
      if (stack.directory) writeFileSync(authorityOf(data), stack.directory.authority);
    },
    /** Stops whatever was started; once. */
    stop() {
      stopped ??= (async () => {
        const all = async () => {
          if (stack.fleet) await stopChild(stack.fleet);
          if (stack.balancer) await stopChild(stack.balancer);
          await Promise.all(stack.controllers.map((child) => stopChild(child)));
        };
        await all();
        await starting.catch(() => {}); // it may be in the middle of the next thing
        await all();
        stack.postgres?.stop();
      })();
      return stopped;
    },
  };
  return stack;
}

/** Starts everything; when that fails, nothing of it is left. */
export async function startStack(options) {
  const stack = makeStack(options);
  try {
    await stack.start();
  } catch (error) {
    await stack.stop();
    throw error;
  }
  return stack;
}
