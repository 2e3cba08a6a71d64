import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { freshDatabase } from '../../../tools/test-database.mjs';
import { changeIntent, connect, guardPool } from './database';
import { later } from './held-connection';

let database: ReturnType<typeof connect>;
let pool: pg.Pool;
let drop: () => Promise<void>;
beforeAll(async () => {
  const fresh = await freshDatabase();
  drop = fresh.drop;
  database = connect(fresh.url);
  pool = guardPool(new pg.Pool({ connectionString: fresh.url, max: 2 }));
});
afterAll(async () => {
  await pool.end();
  await database.close();
  await drop();
});

test.each([
  ['another query', () => database.query('SELECT 1')],
  ['another transaction', () => database.transaction(async () => {})],
  ['a change of intent', async () => changeIntent(database, async () => {})],
  ['a connection of the pool', async () => pool.query('SELECT 1')],
  ['a query somewhere below', () => Promise.resolve().then(() => database.query('SELECT 1'))],
])('inside a transaction %s fails at once', async (_name, ask) => {
  await expect(database.transaction(() => ask().then(() => undefined))).rejects.toThrow('second connection');
  await expect(changeIntent(database, () => ask().then(() => undefined))).rejects.toThrow('second connection');
});

test('what a transaction asks of itself, what comes after it, and what it leaves for later may ask', async () => {
  let late: Promise<unknown> = Promise.resolve();
  await database.transaction(async (transaction) => {
    await database.query('SELECT 1', { transaction });
    await new Promise<void>((resolve) =>
      later(1, () => {
        late = database.query('SELECT 1');
        resolve();
      }),
    );
  });
  await late;
  await database.query('SELECT 1');
  await pool.query('SELECT 1');
});

test('writers wait without a connection, so that readers find one; too many are refused', async () => {
  let open = (): void => {};
  const held = new Promise<void>((resolve) => (open = resolve));
  const first = changeIntent(database, () => held);
  const others = Array.from({ length: 200 }, (_, i) => changeIntent(database, async () => i));
  await database.query('SELECT 1'); // twelve connections, one writer
  await expect(changeIntent(database, async () => {})).rejects.toMatchObject({ code: 'controller.busy', status: 503 });
  open();
  await first;
  expect(await Promise.all(others)).toEqual(Array.from({ length: 200 }, (_, i) => i));
});
