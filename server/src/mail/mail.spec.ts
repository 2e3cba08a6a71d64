import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { MailFields } from '@iron-lattice/core/base';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestMailServer } from '../testing/test-mail-server';

let setting: TestController;
let ada: TestCaller;
const server = new TestMailServer();
const { came } = server;
let port: number;

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  port = await server.listen();
});
afterAll(async () => {
  server.close();
  await setting.end();
});
beforeEach(async () => {
  came.length = 0;
  await setting.controller.database.query('DELETE FROM sign_in_limit');
});

const fields = (more: Partial<MailFields> = {}): MailFields => ({
  ...{
    host: '127.0.0.1',
    port,
    security: 'none',
    user: '',
    from: 'guests@skerrow.example',
    fromName: 'Skerrow — Gäste',
  },
  ...{ authority: '', ...more },
});
const version = async (): Promise<number> => (await ada.get('/api/mail')).mail?.version ?? 0;
const say = async (more: Partial<MailFields> = {}, secret: string | null = null) =>
  ada.ask('POST', '/api/mail', { version: await version(), fields: fields(more), secret });
const tried = async (to = 'rin@skerrow.example') => (await ada.ask('POST', '/api/mail/try', { to })).json;

test('until it is said how, no mail is sent, and that is said', async () => {
  expect(await ada.get('/api/mail')).toEqual({ mail: null });
  expect(await ada.ask('POST', '/api/mail/try', { to: 'rin@skerrow.example' })).toMatchObject({ status: 409 });
});

test('a try is a mail that comes, from whom it is said, and its words stay as they are', async () => {
  expect((await say()).status).toBe(204);
  expect(await tried()).toMatchObject({ ok: true, words: '127.0.0.1 took the mail to rin@skerrow.example.' });
  expect(came).toEqual([
    expect.objectContaining({ from: 'guests@skerrow.example', to: 'rin@skerrow.example', by: '' }),
  ]);
  expect(came[0]!.text).toContain('Ada wanted to see whether mail goes.');
});

test('what is wrong is said at its field; nothing that ends a line gets into an address', async () => {
  const flawed = async (more: object, secret: string | null = null) =>
    (await say(more, secret)).json?.flaws?.map(({ field }: { field: string }) => field);
  expect(await flawed({ host: 'no host' })).toEqual(['host']);
  expect(await flawed({ port: 0 })).toEqual(['port']);
  expect(await flawed({ from: 'nobody' })).toEqual(['from']);
  expect(await flawed({ user: 'lattice' })).toEqual(['secret']);
  expect(await flawed({ security: 'tls', authority: 'none' })).toEqual(['authority']);
  for (const to of [
    'a@b.example, c@d.example',
    'a@b.example\r\nBcc: c@d.example',
    '<a@b.example>',
    'a b@c.example',
    'a@',
  ])
    expect([to, (await ada.ask('POST', '/api/mail/try', { to })).status >= 400]).toEqual([to, true]);
  expect(came).toEqual([]);
});

test('a password is kept sealed, is never told, and goes to no other server', async () => {
  await say({ user: 'lattice' }, 'gulls');
  expect(await tried()).toMatchObject({ ok: true });
  expect(came[0]!.by).toBe('lattice');
  const { mail } = await ada.get('/api/mail');
  expect([mail.hasSecret, JSON.stringify(mail).includes('gulls')]).toEqual([true, false]);
  const [rows] = await setting.controller.database.query('SELECT fields::text, sealed::text FROM mail_setting');
  expect(JSON.stringify(rows)).not.toContain('gulls');
  // Said anew without a password, for the same server: kept. For another: asked for.
  expect((await say({ user: 'lattice', fromName: 'Desk' })).status).toBe(204);
  expect(await tried()).toMatchObject({ ok: true });
  expect((await say({ user: 'lattice', host: 'localhost' })).json.flaws[0].field).toBe('secret');
});

test('why a mail was not taken is said in words, with what the server said', async () => {
  await say({ user: 'lattice' }, 'terns');
  expect(await tried()).toMatchObject({ ok: false, words: expect.stringContaining('does not let “lattice” sign in') });
  await say();
  const gone = await tried('gone@skerrow.example');
  expect(gone).toMatchObject({ ok: false, words: expect.stringContaining('takes no mail') });
  expect(gone.said).toContain('550 No such mailbox');
  await say({ port: 1 });
  expect(await tried()).toMatchObject({ ok: false, words: expect.stringContaining('Nothing listens at') });
  await say({ security: 'starttls' });
  expect((await tried()).ok).toBe(false);
  await say({ host: 'nowhere.invalid' });
  expect((await tried()).ok).toBe(false);
  expect(came).toEqual([]);
});

test('one who says how mail is sent at the same time as another is told; one who only looks may not', async () => {
  await say();
  const seen = await version();
  await say({ fromName: 'First' });
  const late = await ada.ask('POST', '/api/mail', {
    version: seen,
    fields: fields({ fromName: 'Second' }),
    secret: null,
  });
  expect([late.status, (await ada.get('/api/mail')).mail.fields.fromName]).toEqual([409, 'First']);
  const oli = await setting.as('oli');
  expect((await oli.get('/api/mail')).mail.fields.host).toBe('127.0.0.1');
  expect((await oli.ask('POST', '/api/mail/try', { to: 'rin@skerrow.example' })).status).toBe(403);
});

test('one person sends so many in ten minutes and no more', async () => {
  await say();
  for (let i = 0; i < 30; i++) expect((await tried()).ok).toBe(true);
  const answer = await ada.fetch('POST', '/api/mail/try', { to: 'rin@skerrow.example' });
  expect([answer.status, Number(answer.headers.get('retry-after')) > 0]).toEqual([429, true]);
  expect(came).toHaveLength(30);
  expect((await ada.ask('DELETE', '/api/mail')).status).toBe(204);
  expect(await ada.get('/api/mail')).toEqual({ mail: null });
});
