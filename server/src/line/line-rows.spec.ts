import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { pino } from 'pino';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Bus, LISTENER_NAME } from '../platform/bus';
import { TestController } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';
import { LineRows } from './line-rows';

interface Row {
  id: string;
  online: boolean;
  owner: number | null;
  line: string | null;
}
let setting: TestController;
let pool: pg.Pool;
/** Another controller of the same database, as far as anybody can see it. */
let other: Bus;
beforeAll(async () => {
  setting = await TestController.start(1000, false, { beatSeconds: 0.2 });
  pool = new pg.Pool({ connectionString: setting.databaseUrl, max: 2 });
  other = new Bus(setting.databaseUrl, pool, pino({ level: 'silent' }));
  await other.open();
});
afterAll(async () => {
  await other.close();
  await pool.end();
  await setting.end();
});

const rowOf = async (serial: string): Promise<Row> => {
  const sql = `SELECT id, online, line_owner AS owner, line_id AS line FROM device WHERE serial = $1`;
  return (await pool.query<Row>(sql, [serial])).rows[0]!;
};
const say = (serial: string, what: string, ...values: unknown[]): Promise<unknown> =>
  pool.query(`UPDATE device SET ${what} WHERE serial = $1`, [serial, ...values]);
async function called(serial: string): Promise<{ box: TestDevice; row: Row }> {
  const end = serial.slice(-2);
  const box = new TestDevice(setting.controller.url, serial, 'AP-6', `02:00:00:00:06:${end}`);
  await box.call();
  return { box, row: await rowOf(serial) };
}

test.each([
  ['another controller took its line for dead while it could not see us', '10', 'online = false, line_owner = NULL'],
  ['a call that was answered late was written over it', '11', 'online = false, line_owner = NULL, line_id = $2'],
  ['whoever the database says has it is no more', '12', 'line_owner = -1, line_id = $2'],
])('a device whose line stands is there again with the next beat where %s', async (_, end, lie) => {
  const { box, row } = await called(`HELD-${end}`);
  expect(row).toMatchObject({ online: true, owner: expect.any(Number), line: expect.any(String) });
  await say(box.serial, lie, ...(lie.includes('$2') ? [randomUUID()] : []));
  await expect.poll(() => rowOf(box.serial), { timeout: 5000 }).toEqual(row);
  box.hangUp();
  await expect.poll(async () => (await rowOf(box.serial)).online, { timeout: 5000 }).toBe(false);
});

test('the connection that hears is lost, and what should be written then cannot be: it is written soon after', async () => {
  const { box, row } = await called('HELD-13');
  const { database } = setting.controller;
  const query = database.query.bind(database);
  let failed = 0;
  database.query = ((sql: unknown, ...more: unknown[]) => {
    if (typeof sql === 'string' && sql.includes('SET line_owner') && failed < 2) {
      failed++;
      return Promise.reject(new Error('no database'));
    }
    return (query as (...all: unknown[]) => unknown)(sql, ...more);
  }) as typeof database.query;
  await pool.query(`SELECT pg_terminate_backend($1)`, [row.owner]);
  const listening = `SELECT 1 FROM pg_stat_activity WHERE application_name = $1 AND pid = $2`;
  await expect
    .poll(async () => (await pool.query(listening, [LISTENER_NAME, (await rowOf(box.serial)).owner])).rowCount, {
      timeout: 10_000,
    })
    .toBe(1);
  database.query = query;
  expect(failed).toBe(2);
  expect(await rowOf(box.serial)).toMatchObject({ online: true, line: row.line });
  box.hangUp();
});

test('what another controller that is there holds is left to it, until it is no more; of many, each is looked at', async () => {
  const third = new Bus(setting.databaseUrl, pool, pino({ level: 'silent' }));
  await third.open();
  const rows = new LineRows(setting.controller.database, third);
  const { box, row } = await called('HELD-14');
  box.hangUp();
  await expect.poll(async () => (await rowOf(box.serial)).online, { timeout: 5000 }).toBe(false);
  const there = randomUUID();
  await say(box.serial, 'online = true, line_owner = $2, line_id = $3', other.processId, there);
  const mine = { id: randomUUID(), deviceId: row.id };
  const strangers = Array.from({ length: 1200 }, () => ({ id: randomUUID(), deviceId: randomUUID() }));
  expect(await rows.hold([...strangers, mine])).toEqual([]);
  expect(await rowOf(box.serial)).toEqual({ id: row.id, online: true, owner: other.processId, line: there });
  await other.close();
  expect(await rows.hold([...strangers, mine])).toEqual([{ id: row.id, siteId: null }]);
  expect(await rowOf(box.serial)).toEqual({ id: row.id, online: true, owner: third.processId, line: mine.id });
  expect(await rows.hold([mine])).toEqual([]);
  await rows.left([{ id: there, deviceId: row.id }]); // an earlier line says nothing of the present one
  expect((await rowOf(box.serial)).online).toBe(true);
  await rows.left([mine]);
  expect(await rowOf(box.serial)).toEqual({ id: row.id, online: false, owner: null, line: null });
  await third.close();
});

test('a controller that ends says nothing of devices that have called elsewhere meanwhile', async () => {
  const ending = await TestController.start();
  const looks = new pg.Client({ connectionString: ending.databaseUrl });
  await looks.connect();
  for (const end of ['20', '21'])
    await new TestDevice(ending.controller.url, `ENDS-${end}`, 'AP-6', `02:00:00:00:07:${end}`).call();
  const elsewhere = randomUUID();
  await looks.query(`UPDATE device SET line_id = $1, line_owner = 1 WHERE serial = 'ENDS-20'`, [elsewhere]);
  await ending.controller.close();
  const { rows } = await looks.query(`SELECT serial, online FROM device WHERE serial LIKE 'ENDS-%' ORDER BY serial`);
  await looks.end();
  expect(rows).toEqual([
    { serial: 'ENDS-20', online: true },
    { serial: 'ENDS-21', online: false },
  ]);
  await ending.forget();
});
