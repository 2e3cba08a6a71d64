import { randomUUID } from 'node:crypto';
import type { Report } from '@iron-lattice/core/line';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Device } from '../roster/device.model';
import { TestController } from '../testing/test-controller';
import { ReportBook, type ReportedDevice } from './report-book';

let setting: TestController;
beforeAll(async () => {
  setting = await TestController.start();
});
afterAll(() => setting.end());

const report = (more: Partial<Report> = {}): Report => ({
  address: '10.5.1.20',
  uptime: 60,
  neighbours: [],
  uplinks: [],
  clients: [],
  leases: [],
  counters: [],
  ...more,
});
const open = () => {
  const told: ReportedDevice[] = [];
  const failures: unknown[] = [];
  const bad: string[] = [];
  const book = new ReportBook(
    setting.controller.database,
    (devices) => told.push(...devices),
    (id) => bad.push(id),
    (error) => failures.push(error),
  );
  return { book, told, failures, bad };
};
const row = () => Device.findOne({ where: { serial: 'SW-0001' }, rejectOnEmpty: true });

test('what says something new is written and told once; what does not is only a sign of life', async () => {
  const { book, told } = open();
  const { id } = await row();
  const now = Date.now();
  book.take(id, report(), now);
  book.take(id, report({ uptime: 61, counters: [{ port: '1', inOctets: 5, outOctets: 5 }] }), now + 1000);
  await book.flush();
  expect(told).toMatchObject([{ id, cabling: true }]);
  const first = await row();
  expect([first.address, Math.round((now - first.bootedAt!.getTime()) / 1000)]).toEqual(['10.5.1.20', 60]);

  const again = open();
  again.book.take(id, report(), now);
  await again.book.flush();
  again.told.length = 0;
  again.book.take(id, report({ uptime: 90 }), now + 30_000);
  await again.book.flush();
  expect(again.told).toEqual([]);
  expect((await row()).heardAt!.getTime()).toBeGreaterThanOrEqual(first.heardAt!.getTime());
});

test('another start, another address and other cables are told apart', async () => {
  const { book, told } = open();
  const { id } = await row();
  const now = Date.now();
  book.take(id, report({ uptime: 600 }), now);
  await book.flush();
  told.length = 0;
  book.take(id, report({ uptime: 1 }), now + 5000);
  await book.flush();
  expect(told).toMatchObject([{ cabling: false }]);
  expect(Math.abs((await row()).bootedAt!.getTime() - now - 4000)).toBeLessThan(50);
  told.length = 0;
  book.take(id, report({ uptime: 2, neighbours: [{ port: '1', chassis: 'x', theirPort: 'y' }] }), now + 6000);
  await book.flush();
  expect(told).toMatchObject([{ cabling: true }]);
});

test('a row that somebody else is writing is not waited for, and is written when it is free', async () => {
  const { book, told, failures } = open();
  const { id } = await row();
  const other = new pg.Client({ connectionString: setting.databaseUrl });
  await other.connect();
  await other.query('BEGIN');
  await other.query('SELECT 1 FROM device WHERE id = $1 FOR UPDATE', [id]);
  book.take(id, report({ address: '10.5.1.77' }), Date.now());
  await book.flush();
  expect(told).toEqual([]);
  await other.query('COMMIT');
  await other.end();
  await expect.poll(async () => (await row()).address).toBe('10.5.1.77');
  expect([told.length, failures]).toEqual([1, []]);
});

test('of a device that is gone nothing is written, and nothing fails', async () => {
  const { book, told, failures } = open();
  book.take('00000000-0000-4000-8000-000000000000', report(), Date.now());
  await book.flush();
  expect([told, failures]).toEqual([[], []]);
});

test('one report that cannot be written stops nobody else’s, is told, and is taken anew', async () => {
  const { book, told, bad, failures } = open();
  const { id } = await row();
  const ids = Array.from({ length: 9 }, () => randomUUID());
  for (const [i, each] of ids.entries())
    await Device.create({ id: each, serial: `BAD-${i}`, model: 'AP-6', mac: '', firmware: '' });
  for (const each of ids) book.take(each, report(), Date.now());
  book.take(id, report({ address: 'a\0b' }), Date.now()); // PostgreSQL keeps no NUL
  await book.flush();
  expect([told.map((each) => each.id).sort(), bad, failures]).toEqual([[...ids].sort(), [id], []]);
  book.take(id, report({ address: '10.5.1.78' }), Date.now());
  book.take(id, report({ address: '10.5.1.78' }), Date.now());
  await book.flush();
  expect((await row()).address).toBe('10.5.1.78');
  await Device.destroy({ where: { id: ids } });
});
