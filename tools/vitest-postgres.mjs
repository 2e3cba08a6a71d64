// One PostgreSQL for a whole test run, in which each test file makes databases of its own, and the programs that worker threads read.
import { join } from 'node:path';
import { startPostgres } from './pg.mjs';
import { makePrograms } from './programs.mjs';
import { root } from './setup.mjs';

export default async function setup() {
  await makePrograms();
  if (process.env.TEST_DATABASE) return () => {}; // whoever runs all suites has one already
  const postgres = await startPostgres(join(root, '.data', 'test'), { fast: true });
  process.env.TEST_DATABASE = postgres.urlOf('NAME');
  return () => postgres.stop();
}
