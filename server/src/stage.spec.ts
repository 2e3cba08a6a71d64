import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Joi } from '@iron-lattice/core/schema';
import { DataTypes, Model } from 'sequelize';
import { afterAll, expect, test } from 'vitest';
import { pino } from 'pino';
import { offer, Offers } from './platform/offers';
import { httpApp } from './platform/http';
import { listen } from './platform/listen';
import { CHANGERS, EVERYONE, route } from './platform/route';
import type { Stage } from './stage';
import { Device } from './roster/device.model';
import { STAGES } from './stages';
import { TestController } from './testing/test-controller';
import { TestDevice } from './testing/test-device';

declare module './platform/bus' {
  interface BusMessages {
    'toy-rang': { note: string };
  }
}
declare module './platform/heavy' {
  interface HeavyTasks {
    'toy-length': (note: string) => number;
  }
}

const folder = mkdtempSync(join(tmpdir(), 'toy-'));
const heavy = join(folder, 'toy.heavy.mjs');
writeFileSync(heavy, `export const tasks = { 'toy-length': (note) => note.length };`);

class Bell extends Model {
  declare note: string;
}
const done: string[] = [];
const online = (): Promise<number> => Device.count({ where: { online: true } });
const LOUDNESS = offer<(note: string) => string>('how loud a note is');

/** All that a stage can bring, by the list of CONTRIBUTING. */
const bells: Stage = {
  name: 'bells',
  models: [
    (database) =>
      void Bell.init({ note: { type: DataTypes.TEXT, primaryKey: true } }, { sequelize: database, tableName: 'bell' }),
  ],
  migrations: [
    { name: '9001-bells', sql: `CREATE TABLE bell (note text PRIMARY KEY); INSERT INTO bell VALUES ('old')` },
  ],
  heavy: pathToFileURL(heavy),
  housekeeping: [`DELETE FROM bell WHERE note = 'old'`],
  open: ({ bus, heavy: threads, offers, lines }) => {
    lines.listen({ called: () => (done.push('heard a call'), Promise.resolve(true)) });
    const stop = bus.on('toy-rang', ({ note }) => void done.push(`rang ${note}`));
    return {
      routes: [
        route<{ note: string }>({
          method: 'post',
          path: '/api/bells',
          summary: 'Ring a bell',
          who: CHANGERS,
          body: Joi.object({ note: Joi.string().max(20).required() }),
          handle: async ({ body: { note } }) => {
            await Bell.create({ note });
            await bus.send('toy-rang', { note });
            const length = await threads.run('toy-length', note);
            return { length, loud: offers.take(LOUDNESS)(note) };
          },
        }),
      ],
      begin: () => void done.push('begun'),
      end: async () => {
        stop();
        done.push(`bells ended, ${await online()} on the line`);
      },
      settle: async () => void done.push(`settled, ${await online()} on the line`),
    };
  },
};
/** Offers what another asks for, and is opened after it. */
const ears: Stage = {
  name: 'ears',
  open: ({ offers }) => {
    offers.make(LOUDNESS, (note) => `${note}!`);
    return { routes: [], end: () => void done.push('ears ended') };
  },
};

let setting: TestController | null = null;
afterAll(() => setting?.end());

test('a stage of the list brings models, schema, routes, tasks, topics, what it offers, and ends in its turn', async () => {
  setting = await TestController.start(1000, false, {}, [...STAGES, bells, ears]);
  const ada = await setting.as('ada');
  expect(done).toEqual(['begun']);
  expect(await ada.post('/api/bells', { note: 'cis' })).toEqual({ length: 3, loud: 'cis!' });
  await expect.poll(() => done).toContain('rang cis');
  const oli = await setting.as('oli');
  expect((await oli.ask('POST', '/api/bells', { note: 'd' })).status).toBe(403);
  expect((await ada.ask('POST', '/api/bells', {})).status).toBe(400);
  const { paths } = await ada.get('/api/openapi.json');
  expect(Object.keys(paths)).toContain('/api/bells');
  await expect
    .poll(() => Bell.findAll().then((all) => all.map(({ note }) => note)), { timeout: 5000 })
    .toEqual(['cis']);
  await new TestDevice(setting.controller.url, 'SW-0001').call();
  await expect.poll(() => done).toContain('heard a call');
  await setting.end();
  setting = null;
  expect(done.slice(-3)).toEqual(['ears ended', 'bells ended, 1 on the line', 'settled, 0 on the line']);
});

test('what is offered twice, or by nobody, is said', () => {
  const offers = new Offers();
  expect(() => offers.take(LOUDNESS)).toThrow('nobody offers how loud a note is');
  offers.make(LOUDNESS, (note) => note);
  expect(() => offers.make(LOUDNESS, (note) => note)).toThrow('offered twice');
});

test('every stage has a name of its own, and no two steps of the schema the same number', () => {
  expect(new Set(STAGES.map(({ name }) => name)).size).toBe(STAGES.length);
  const numbers = STAGES.flatMap(({ migrations = [] }) => migrations.map(({ name }) => name.slice(0, 4)));
  expect(new Set(numbers).size).toBe(numbers.length);
});

test('a second origin answers with its own routes on a port of its own, and with nothing of the first', async () => {
  const hello = (text: string) =>
    route({ method: 'get', path: `/api/${text}`, summary: text, who: 'anyone', handle: () => ({ text }) });
  const closed = route({ method: 'get', path: '/api/closed', summary: 'closed', who: EVERYONE, handle: () => 1 });
  const of = (text: string) => ({
    routes: [hello(text), closed],
    findCaller: () => Promise.resolve(undefined),
    refused: () => undefined,
    webRoot: null,
    callerOf: () => ({ address: '127.0.0.1', secure: false }),
    isOurs: (host: string) => host.startsWith('127.0.0.1'),
    log: pino({ level: 'silent' }),
  });
  const at = { host: '127.0.0.1', port: 0 };
  const [one, other] = [
    await listen(httpApp(of('one')).callback(), at),
    await listen(httpApp(of('other')).callback(), at),
  ];
  const status = async (url: string): Promise<number> => (await fetch(url)).status;
  expect(await (await fetch(`${other.url}/api/other`)).json()).toEqual({ text: 'other' });
  expect(await status(`${one.url}/api/one`)).toBe(200);
  expect(await status(`${one.url}/api/other`)).toBe(404);
  expect(await status(`${other.url}/api/closed`)).toBe(401);
  await one.close();
  expect(await status(`${other.url}/api/other`)).toBe(200);
  await other.close();
});
