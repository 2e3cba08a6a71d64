// Loaded into a measured process: on SIGUSR2 it collects its garbage and writes what it keeps into BENCH_MEMORY_FILE.
import { writeFileSync } from 'node:fs';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc');
process.on('SIGUSR2', () => {
  collect();
  const { heapUsed, external } = process.memoryUsage();
  writeFileSync(process.env.BENCH_MEMORY_FILE, String(heapUsed + external));
});
