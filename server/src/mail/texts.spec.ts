import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { TextFields } from '@iron-lattice/core/guests';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestTextGateway } from '../testing/test-text-gateway';

let setting: TestController;
let ada: TestCaller;
const gateway = new TestTextGateway();
const { came } = gateway;
let url: string;

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  url = await gateway.listen();
});
afterAll(async () => {
  gateway.close();
  await setting.end();
});
beforeEach(async () => {
  came.length = 0;
  gateway.answer = null;
  await setting.controller.database.query('DELETE FROM sign_in_limit; DELETE FROM text_setting');
});

const fields = (more: Partial<TextFields> = {}): TextFields => ({
  ...{ url, form: 'json', to: 'number', text: 'words', more: 'sender=Skerrow', header: 'X-Key', ...more },
});
const say = async (more: Partial<TextFields> = {}, secret: string | null = 'gulls') => {
  const version = (await ada.get('/api/texts')).texts?.version ?? 0;
  return ada.ask('POST', '/api/texts', { version, fields: fields(more), secret });
};
const tried = async (to = '+353 1 555 0123') => (await ada.ask('POST', '/api/texts/try', { to })).json;

test('a try is a message that comes, as JSON or as a form, with what else the gateway wants', async () => {
  expect((await ada.ask('POST', '/api/texts/try', { to: '+35315550123' })).status).toBe(409);
  expect((await say()).status).toBe(204);
  expect(await tried()).toEqual({ ok: true, words: '127.0.0.1 took the message to +35315550123.', said: 'queued' });
  expect(came[0]!.type).toBe('application/json');
  expect(JSON.parse(came[0]!.body)).toEqual({
    ...{ number: '+35315550123', sender: 'Skerrow' },
    words: 'Ada wanted to see whether text messages go. They do.',
  });
  await say({ form: 'form', more: 'sender=A & B\nkind=t' }, null);
  expect(await tried()).toMatchObject({ ok: true });
  expect(Object.fromEntries(new URLSearchParams(came[1]!.body))).toMatchObject({
    ...{ number: '+35315550123', sender: 'A & B', kind: 't' },
  });
});

test('what is wrong is said at its field; only one number is taken', async () => {
  const flawed = async (more: object, secret: string | null = 'gulls') =>
    (await say(more, secret)).json?.flaws?.map(({ field }: { field: string }) => field);
  expect(await flawed({ url: 'gulls' })).toEqual(['url']);
  expect(await flawed({ url: 'https://a:b@texts.example/' })).toEqual(['url']);
  expect(await flawed({ to: 'a b' })).toEqual(['to']);
  expect(await flawed({ text: 'number' })).toEqual(['text']);
  expect(await flawed({ more: 'sender' })).toEqual(['more']);
  expect(await flawed({ more: 'number=1' })).toEqual(['more']);
  expect(await flawed({ header: 'Content-Length' })).toEqual(['header']);
  expect(await flawed({}, null)).toEqual(['secret']);
  await say();
  for (const to of ['0155501', '+35315550123,+35315550124', '+353\n1 5550123'])
    expect([to, (await ada.ask('POST', '/api/texts/try', { to })).status >= 400]).toEqual([to, true]);
  expect(came).toEqual([]);
});

test('the secret is kept sealed, never told, and goes to no other gateway', async () => {
  await say();
  const view = await ada.get('/api/texts');
  expect([view.texts.hasSecret, JSON.stringify(view).includes('gulls')]).toEqual([true, false]);
  const [rows] = await setting.controller.database.query('SELECT fields::text, sealed::text FROM text_setting');
  expect(JSON.stringify(rows)).not.toContain('gulls');
  expect((await say({ url: url.replace('127.0.0.1', 'localhost') }, null)).json.flaws[0].field).toBe('secret');
  expect((await say({ form: 'form' }, null)).status).toBe(204);
});

test('why a message was not taken is said in words; it is not sent on to anywhere else', async () => {
  await say({}, 'terns');
  expect(await tried()).toMatchObject({ ok: false, words: expect.stringContaining('does not know who asks (401)') });
  await say();
  gateway.answer = { status: 302, to: url };
  expect(await tried()).toMatchObject({ ok: false, words: expect.stringContaining('sends on to another address') });
  gateway.answer = { status: 500, text: 'x'.repeat(100_000) };
  const long = await tried();
  expect([long.ok, long.said.length]).toEqual([false, 300]);
  const closed = new TestTextGateway();
  await say({ url: await closed.listen() });
  closed.close();
  expect(await tried()).toMatchObject({ ok: false, words: expect.stringContaining('Nothing listens') });
  expect(came).toEqual([]);
});

test('who only looks sees how, and sends none; one person sends so many and no more', async () => {
  await say();
  const oli = await setting.as('oli');
  expect((await oli.get('/api/texts')).texts.fields.url).toBe(url);
  expect((await oli.ask('POST', '/api/texts/try', { to: '+35315550123' })).status).toBe(403);
  for (let i = 0; i < 30; i++) expect((await tried()).ok).toBe(true);
  expect((await ada.ask('POST', '/api/texts/try', { to: '+35315550123' })).status).toBe(429);
  expect((await ada.ask('DELETE', '/api/texts')).status).toBe(204);
  expect(await ada.get('/api/texts')).toEqual({ texts: null });
});
