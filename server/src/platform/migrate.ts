import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { Umzug, type UmzugStorage } from 'umzug';
import { StartRefusal } from './start-refusal';
import { VERSION } from './version';

/** One step of the schema, in the language of PostgreSQL. */
export interface Migration {
  /** Four digits that say when it is its turn, and words: no two have the same number. */
  readonly name: string;
  readonly sql: string;
}

/** Advisory lock that keeps two starting controllers from migrating at once. */
const MIGRATION_LOCK = 8_620_001;

/**
 * Brings the schema up to date, alone among all controllers of the database.
 * @param all those of every part of the controller, in any order.
 * @throws StartRefusal when the data was written by a newer version.
 */
export async function migrate(database: Sequelize, all: readonly Migration[]): Promise<void> {
  const migrations = [...all].sort((a, b) => (a.name < b.name ? -1 : 1));
  const twice = migrations.find(({ name }, i) => name.slice(0, 4) === migrations[i - 1]?.name.slice(0, 4));
  if (twice) throw new Error(`two migrations have the number of ${twice.name}`);
  await database.transaction(async (transaction) => {
    await database.query(`SELECT pg_advisory_xact_lock(${MIGRATION_LOCK})`, { transaction });
    const storage = await storageIn(database, migrations, transaction);
    const umzug = new Umzug({
      migrations: migrations.map(({ name, sql }) => ({ name, up: () => database.query(sql, { transaction }) })),
      storage,
      logger: undefined,
    });
    await umzug.up();
  });
}

/** Keeps the list of done migrations, and by which version, in the same transaction as the migrations. */
async function storageIn(
  database: Sequelize,
  migrations: readonly Migration[],
  transaction: Transaction,
): Promise<UmzugStorage> {
  await database.query(
    `CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, at timestamptz DEFAULT now());
     ALTER TABLE migration ADD COLUMN IF NOT EXISTS version text`,
    { transaction },
  );
  const done = await database.query<{ name: string; version: string | null }>(
    'SELECT name, version FROM migration ORDER BY name',
    { transaction, type: QueryTypes.SELECT },
  );
  const known = new Set<string>(migrations.map(({ name }) => name));
  const newer = done.filter(({ name }) => !known.has(name)).at(-1);
  if (newer)
    throw new StartRefusal(
      `This data was written by a newer version of Iron Lattice: it needs ${newer.version ? `version ${newer.version}` : `one that knows “${newer.name}”`}, and this is ${VERSION}. Nothing was changed; start that version, or restore a backup made by this one.`,
    );
  const note = async (sql: string, name: string): Promise<void> => {
    await database.query(sql, { transaction, replacements: { name, version: VERSION } });
  };
  return {
    logMigration: ({ name }) => note('INSERT INTO migration (name, version) VALUES (:name, :version)', name),
    unlogMigration: ({ name }) => note('DELETE FROM migration WHERE name = :name', name),
    executed: () => Promise.resolve(done.map((row) => row.name)),
  };
}
