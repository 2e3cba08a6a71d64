// The processes of a running Iron Lattice: PostgreSQL, controller, fleet. Used by start, end-to-end tests and benchmarks.
import { fork, spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureDatabase, startPostgres } from './pg.mjs';
import { root } from './setup.mjs';

const TSX = ['--import', 'tsx'];

/** Starts the controller and waits until it serves. */
export function startController(env) {
  const child = fork(join(root, 'server/src/main.ts'), [], {
    cwd: root,
    execArgv: TSX,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true, // Ctrl-C reaches only the one who stops things in order
  });
  return new Promise((resolve, reject) => {
    child.once('message', (message) => resolve({ child, url: message.url }));
    child.once('exit', (code) => reject(new Error(`the controller ended with code ${code}`)));
  });
}

/** Starts a fleet of devices that call the controller. */
export function startFleet({ world, controllerUrl, state, control, sweepPort = 0 }) {
  const args = [
    ...TSX,
    join(root, 'fleet/src/main.ts'),
    '--world',
    world,
    '--controller',
    controllerUrl.replace('http', 'ws'),
    '--control',
    String(control),
    '--sweep-port',
    String(sweepPort),
  ];
  if (state) args.push('--state', state);
  return spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit', 'ipc'], detached: true });
}

/** Ends a child process and waits for it. */
export function stopChild(child, signal = 'SIGTERM') {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    child.once('exit', resolve);
    child.kill(signal);
  });
}

/**
 * Starts everything.
 * @param data folder for all that is kept.
 * @param empty whether the controller starts without an estate, for the first start.
 * @param env further settings of the controller.
 */
export async function startStack({ data, port, controlPort, fast = false, empty = false, env = {} }) {
  const postgres = await startPostgres(data, { fast });
  await ensureDatabase(postgres.urlOf, 'lattice');
  const settings = {
    DATABASE_URL: postgres.urlOf('lattice'),
    LATTICE_PORT: String(port),
    LATTICE_SECRET_KEY: join(data, 'secret.key'),
    ...(empty ? {} : { LATTICE_SEED: join(root, 'demo/skerrow.estate.json') }),
    LATTICE_LOG: 'info',
    LATTICE_LOG_FILE: join(data, 'controller.log'),
    ...env,
  };
  const stack = {
    postgres,
    settings,
    controller: null,
    fleet: null,
    url: '',
    async startController() {
      const { child, url } = await startController(settings);
      stack.controller = child;
      stack.url = url;
    },
    startFleet() {
      stack.fleet = startFleet({
        world: join(root, 'demo/skerrow.world.json'),
        controllerUrl: stack.url,
        state: join(data, 'devices'),
        control: controlPort,
        sweepPort: Number(settings.LATTICE_SWEEP_PORT ?? process.env.LATTICE_SWEEP_PORT ?? 8622),
      });
    },
    async stop() {
      if (stack.fleet) await stopChild(stack.fleet);
      if (stack.controller) await stopChild(stack.controller);
      postgres.stop();
    },
  };
  try {
    await stack.startController();
    stack.startFleet();
  } catch (error) {
    await stack.stop();
    throw error;
  }
  return stack;
}
