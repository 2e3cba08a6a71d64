import { fileURLToPath } from 'node:url';
import { startController } from './controller';
import { seedFrom } from './demo/demo-seed';
import { configFromEnv } from './platform/config';

const root = fileURLToPath(new URL('../..', import.meta.url));
const config = configFromEnv(process.env, root);
const seed = process.env['LATTICE_SEED'];
const controller = await startController(config, seed ? seedFrom(seed) : undefined);
process.send?.({ ready: true, url: controller.url });

// Whoever started us is gone: nobody would ever stop us.
process.once('disconnect', () => void controller.close().finally(() => process.exit(0)));

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    void controller.close().finally(() => process.exit(0));
  });
}
