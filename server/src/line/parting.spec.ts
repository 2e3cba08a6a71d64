import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

const MANY = 60;
let setting: TestController;
beforeAll(async () => {
  setting = await TestController.start();
});
afterAll(() => setting.end());

test('lines that end at once, as when a network fails, are written down in a few statements, and come back', async () => {
  const { database } = setting.controller;
  const boxes = Array.from({ length: MANY }, (_, i) => {
    const end = String(i).padStart(2, '0');
    return new TestDevice(setting.controller.url, `MANY-${end}`, 'AP-6', `02:00:00:00:05:${end}`);
  });
  for (const box of boxes) await box.call();
  const online = async (): Promise<number> => {
    const sql = `SELECT count(*)::int AS n FROM device WHERE online`;
    return (await database.query<{ n: number }>(sql, { type: QueryTypes.SELECT }))[0]!.n;
  };
  expect(await online()).toBe(MANY);
  let statements = 0;
  const query = database.query.bind(database);
  database.query = ((sql: unknown, ...more: unknown[]) => {
    const text = typeof sql === 'string' ? sql : (sql as { query: string }).query;
    if (/^UPDATE "?device/.test(text) && text.includes('online')) statements++;
    return (query as (...all: unknown[]) => unknown)(sql, ...more);
  }) as typeof database.query;
  for (const box of boxes) box.hangUp();
  await expect.poll(online, { timeout: 20_000 }).toBe(0);
  database.query = query;
  expect(statements).toBeGreaterThan(0);
  expect(statements).toBeLessThan(MANY);
  for (const box of boxes.slice(0, 5)) await box.call();
  expect(await online()).toBe(5);
  for (const box of boxes.slice(0, 5)) box.hangUp();
});
