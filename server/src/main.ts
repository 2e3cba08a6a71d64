import { fileURLToPath } from 'node:url';
import { startController } from './controller';
import { seedFrom } from './demo/demo-seed';
import { configFromEnv } from './platform/config';

const root = fileURLToPath(new URL('../..', import.meta.url));
const config = configFromEnv(process.env, root);
const seed = process.env['LATTICE_SEED'];
const controller = await startController(config, seed ? seedFrom(seed) : undefined).catch((error: unknown) => {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  const text = taken ? `Port ${config.port} is taken. Set LATTICE_PORT to another one.` : error;
  process.stderr.write(`${text instanceof Error ? (text.stack ?? text.message) : String(text)}\n`);
  process.exit(1);
});
process.send?.({ ready: true, url: controller.url });

// Whoever started us is gone: nobody would ever stop us.
const leave = (): void => void controller.close().finally(() => process.exit(0));
process.once('disconnect', leave);
if (process.connected === false) leave(); // gone before we listened

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, leave);
