import { QueryTypes, Sequelize, type Transaction } from 'sequelize';
import { Umzug, type UmzugStorage } from 'umzug';
import * as first from './migrations/0001-first';
import * as intake from './migrations/0002-intake';
import * as rules from './migrations/0003-rules';
import * as probes from './migrations/0004-probes';

/** In order; imported by name so that every way of running finds the same list. */
const MIGRATIONS = [first, intake, rules, probes];
/** Advisory lock that keeps two starting controllers from migrating at once. */
const MIGRATION_LOCK = 8_620_001;

/** Connects; nothing is read yet. */
export const connect = (url: string): Sequelize =>
  new Sequelize(url, {
    logging: false,
    pool: { max: 12, idle: 30_000 },
    define: { underscored: true, timestamps: false, freezeTableName: true },
  });

/** Brings the schema up to date, alone among all controllers of the database. */
export async function migrate(database: Sequelize): Promise<void> {
  await database.transaction(async (transaction) => {
    await database.query(`SELECT pg_advisory_xact_lock(${MIGRATION_LOCK})`, { transaction });
    const umzug = new Umzug({
      migrations: MIGRATIONS.map(({ name, sql }) => ({ name, up: () => database.query(sql, { transaction }) })),
      storage: storageIn(database, transaction),
      logger: undefined,
    });
    await umzug.up();
  });
}

/** Keeps the list of done migrations in the same transaction as the migrations. */
function storageIn(database: Sequelize, transaction: Transaction): UmzugStorage {
  const ready = database.query(
    'CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, at timestamptz DEFAULT now())',
    {
      transaction,
    },
  );
  const note = async (sql: string, name: string): Promise<void> => {
    await database.query(sql, { transaction, replacements: { name } });
  };
  return {
    logMigration: ({ name }) => note('INSERT INTO migration (name) VALUES (:name)', name),
    unlogMigration: ({ name }) => note('DELETE FROM migration WHERE name = :name', name),
    executed: async () => {
      await ready;
      const rows = await database.query<{ name: string }>('SELECT name FROM migration ORDER BY name', {
        transaction,
        type: QueryTypes.SELECT,
      });
      return rows.map((row) => row.name);
    },
  };
}

/** Makes the transaction wait for, then hold, the lock on the estate's intent: one writer at a time. */
export async function lockIntent(database: Sequelize, transaction: Transaction): Promise<void> {
  await database.query('SELECT pg_advisory_xact_lock(8620002)', { transaction });
}
