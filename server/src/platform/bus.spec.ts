import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { pino } from 'pino';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { freshDatabase } from '../../../tools/test-database.mjs';
import { Bus, LISTENER_NAME } from './bus';
import { connect } from './database';
import { migrationsOf } from '../controller';
import { migrate } from './migrate';

let url: string;
let drop: () => Promise<void>;
let pool: pg.Pool;
const log = pino({ level: 'silent' });
beforeAll(async () => {
  ({ url, drop } = await freshDatabase());
  const database = connect(url);
  await migrate(database, migrationsOf());
  await database.close();
  pool = new pg.Pool({ connectionString: url, max: 4 });
  pool.on('error', () => {});
});
afterAll(async () => {
  await pool.end();
  await drop();
});

async function pair(): Promise<{ one: Bus; other: Bus; end: () => Promise<void> }> {
  const [one, other] = [new Bus(url, pool, log), new Bus(url, pool, log)];
  await Promise.all([one.open(), other.open()]);
  return { one, other, end: async () => void (await Promise.all([one.close(), other.close()])) };
}
const listeners = async (): Promise<number> =>
  (
    await pool.query('SELECT 1 FROM pg_stat_activity WHERE application_name = $1 AND datname = current_database()', [
      LISTENER_NAME,
    ])
  ).rowCount!;

test('a message of any size is heard by all, once, and in order', async () => {
  const { one, other, end } = await pair();
  const heard: [string, number][][] = [[], []];
  for (const [i, bus] of [one, other].entries())
    bus.on('probe', ({ token, deviceIds }) => heard[i]!.push([token, deviceIds.length]));
  const sizes = [1, 5000, 2, 300, 10_000, 0];
  const ids = Array.from({ length: 10_000 }, () => randomUUID());
  for (const [i, size] of sizes.entries())
    await one.send('probe', { token: String(i), deviceIds: ids.slice(0, size), withinMs: 1 });
  await expect.poll(() => heard.map((each) => each.length), { timeout: 5000 }).toEqual([sizes.length, sizes.length]);
  const wanted = sizes.map((size, i) => [String(i), size]);
  expect(heard).toEqual([wanted, wanted]);
  await end();
});

test('a lost connection comes back as one, however often it is lost, and says so', async () => {
  const { one, other, end } = await pair();
  let reopened = 0;
  one.onReopened(() => reopened++);
  const kill = (): Promise<unknown> =>
    pool.query(
      `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = $1 AND datname = current_database()`,
      [LISTENER_NAME],
    );
  for (let i = 1; i <= 4; i++) {
    await kill();
    await expect.poll(() => [reopened, 0], { timeout: 5000 }).toEqual([i, 0]);
    await expect.poll(listeners, { timeout: 5000 }).toBe(2);
  }
  let heard = 0;
  one.on('answered', () => heard++);
  await other.send('answered', { id: 'x' });
  await other.send('answered', { id: 'y' });
  await expect.poll(() => heard).toBe(2);
  await end();
  expect(await listeners()).toBe(0);
});
