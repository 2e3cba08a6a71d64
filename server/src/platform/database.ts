import pg from 'pg';
import type { Logger } from 'pino';
import { QueryTypes, Sequelize, type Transaction } from 'sequelize';
import { AppError } from './app-error';
import { Gate } from './gate';
import { HeardClient } from './heard-client';
import { refuseSecond, whileHolding } from './held-connection';

/** Connections of a process; a request takes one at a time. */
const MOST_CONNECTIONS = 12;
/** Connections of a process for what is asked beside the models. */
const POOLED_CONNECTIONS = 8;
/** A request that gets no connection by then is answered that we are busy, in milliseconds. */
const ACQUIRE_MS = 10_000;
/** Changes of intent that may wait in one process. */
const MOST_WRITERS = 200;

/** Connects; nothing is read yet. Inside a transaction nothing can be asked outside of it. */
export function connect(url: string): Sequelize {
  const database = new Sequelize(url, {
    dialectModule: { ...pg, Client: HeardClient },
    logging: false,
    pool: { max: MOST_CONNECTIONS, idle: 30_000, acquire: ACQUIRE_MS },
    define: { underscored: true, timestamps: false, freezeTableName: true },
  });
  const query = database.query.bind(database) as (sql: unknown, options?: { transaction?: unknown }) => unknown;
  const guarded = async (sql: unknown, options?: { transaction?: unknown }): Promise<unknown> => {
    if (!options?.transaction) refuseSecond('A query');
    return query(sql, options);
  };
  database.query = guarded as unknown as Sequelize['query'];
  const begin = database.transaction.bind(database) as <T>(work: (held: Transaction) => Promise<T>) => Promise<T>;
  const held = async <T>(work: (transaction: Transaction) => Promise<T>): Promise<T> => {
    refuseSecond('A transaction');
    return begin((transaction) => whileHolding(() => work(transaction)));
  };
  database.transaction = held as unknown as Sequelize['transaction'];
  return database;
}

/** Connections beside the models', for what needs none of them. */
export function poolOf(url: string, log: Logger): pg.Pool {
  const pool = guardPool(
    new pg.Pool({
      connectionString: url,
      max: POOLED_CONNECTIONS,
      connectionTimeoutMillis: ACQUIRE_MS,
      Client: HeardClient,
    }),
  );
  pool.on('error', (error) => log.warn({ error: error.message }, 'database connection lost'));
  return pool;
}

/** Has a pool refuse whoever is inside a transaction. */
export function guardPool(pool: pg.Pool): pg.Pool {
  const connect = pool.connect.bind(pool) as (...args: unknown[]) => unknown;
  pool.connect = ((...args: unknown[]) => {
    refuseSecond('The pool');
    return connect(...args);
  }) as unknown as pg.Pool['connect'];
  return pool;
}

const writers = new WeakMap<Sequelize, Gate>();

/**
 * Changes intent: alone among all controllers, in one transaction. Those of this process wait in line before they take a
 * connection, so that whoever reads finds one.
 * @throws AppError `controller.busy` when too many wait.
 */
export function changeIntent<T>(database: Sequelize, work: (transaction: Transaction) => Promise<T>): Promise<T> {
  refuseSecond('A change of intent');
  let gate = writers.get(database);
  if (!gate) {
    gate = new Gate(1, MOST_WRITERS, () => {
      return new AppError('controller.busy', 'Too many changes wait to be made. Try again in a moment.');
    });
    writers.set(database, gate);
  }
  return gate.run(() =>
    database.transaction(async (transaction) => {
      await database.query('SELECT pg_advisory_xact_lock(8620002)', { transaction, type: QueryTypes.SELECT });
      return work(transaction);
    }),
  );
}
