import { fileURLToPath } from 'node:url';
import { startController, type Controller } from './controller';
import { seedFrom } from './demo/demo-seed';
import { configFromEnv } from './platform/config';
import { isDiskFull } from './platform/connection-loss';
import { StartRefusal } from './platform/start-refusal';

/** Exit code of a process that has said itself why it does not start (EX_CONFIG of sysexits.h). */
const SAID = 78;
/** How long the controller may take to end, in milliseconds. */
const LEAVE_MS = 10_000;
const root = fileURLToPath(new URL('../..', import.meta.url));
const controller = await start().catch((error: unknown) => {
  const why = whyNot(error);
  process.stderr.write(`${why ?? stackOf(error)}\n`);
  process.exit(why === null ? 1 : SAID);
});
const { entry: entryPort = null, portal: portalUrl = null } = controller.lines.answers;
process.send?.({ ready: true, url: controller.url, entryPort, portalUrl });

// Whoever started us is gone: nobody would ever stop us.
const leave = (): void => {
  // What does not end by then is in the database, and is gone on with at the next start.
  setTimeout(() => process.exit(0), LEAVE_MS).unref();
  void controller.close().finally(() => process.exit(0));
};
process.once('disconnect', leave);
if (process.connected === false) leave(); // gone before we listened

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, leave);

async function start(): Promise<Controller> {
  const config = configFromEnv(process.env, root);
  const seed = process.env['LATTICE_SEED'];
  return startController(config, seed ? seedFrom(seed) : undefined);
}

/** One sentence for what people can set right; null for what is a fault of ours. */
function whyNot(error: unknown): string | null {
  if (error instanceof StartRefusal) return error.message;
  if ((error as NodeJS.ErrnoException).code === 'EADDRINUSE')
    return `Port ${process.env['LATTICE_PORT'] ?? 8620} is taken. Stop what listens there, or set LATTICE_PORT to another one.`;
  if ((error as NodeJS.ErrnoException).code === 'EACCES' && (error as { syscall?: string }).syscall === 'listen')
    return `Port ${process.env['LATTICE_PORT'] ?? 8620} may not be used by this user. Set LATTICE_PORT to one above 1023.`;
  if (isDiskFull(error)) return 'The disk is full. Make room, then start again: nothing is lost.';
  return null;
}

// Declared as such, so that it is there for what fails before this line.
function stackOf(error: unknown): string {
  return error instanceof Error ? (error.stack ?? error.message) : String(error);
}
