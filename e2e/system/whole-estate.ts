import { createHash } from 'node:crypto';
import { existsSync, readFileSync, renameSync, rmSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { makePrograms, PROGRAMS } from '../../tools/programs.mjs';

const root = fileURLToPath(new URL('../..', import.meta.url));
const kept = join(root, '.data', 'test-estates');
/** Whoever makes it keeps others waiting (a lock of PostgreSQL, by a number of our own). */
const LOCK = 260_712;

/** The demo in step: a database to copy, and what its controller and its devices keep. */
export interface WholeEstate {
  readonly template: string;
  readonly folder: string;
}

/**
 * The demo with every device in step, made once for a state of the programs and of the demo, and copied by whoever starts.
 * @param make makes it, and ends everything that uses it.
 */
export async function wholeEstate(
  make: () => Promise<{ readonly database: string; readonly folder: string }>,
): Promise<WholeEstate> {
  await makePrograms();
  const of = createHash('sha256');
  for (const file of [
    ...Object.values(PROGRAMS),
    ...['estate', 'world'].map((name) => join(root, `demo/skerrow.${name}.json`)),
  ])
    of.update(readFileSync(file));
  const template = `whole_${of.digest('hex').slice(0, 24)}`;
  const folder = join(kept, template);
  const admin = new pg.Client({ connectionString: process.env['TEST_DATABASE']!.replace('NAME', 'postgres') });
  admin.on('error', () => {}); // whoever asks it is told
  await admin.connect();
  try {
    await admin.query('SELECT pg_advisory_lock($1)', [LOCK]);
    const { rows } = await admin.query<{ datname: string }>(
      `SELECT datname FROM pg_database WHERE datname LIKE 'whole\\_%'`,
    );
    const names = rows.map(({ datname }) => datname);
    if (names.includes(template) && existsSync(folder)) return { template, folder };
    for (const name of names) await admin.query(`DROP DATABASE ${name} WITH (FORCE)`);
    rmSync(kept, { recursive: true, force: true });
    mkdirSync(kept, { recursive: true });
    const made = await make();
    renameSync(made.folder, folder);
    await admin.query(`ALTER DATABASE ${made.database} RENAME TO ${template}`);
    return { template, folder };
  } finally {
    await admin.end();
  }
}
