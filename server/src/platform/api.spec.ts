import { createHash } from 'node:crypto';
import { connect as connectTo } from 'node:net';
import { Validator } from '@seriousme/openapi-schema-validator';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let oli: TestCaller;
beforeAll(async () => {
  setting = await TestController.start();
  [ada, oli] = [await setting.as('ada'), await setting.as('oli')];
});
afterAll(() => setting.end());

const ID = '00000000-0000-4000-8000-000000000000';
const pathOf = (path: string): string => path.replace(':number', '1').replace(/:\w+/g, ID);

describe('who may call what', () => {
  test('every route turns away those it is not for, and nobody else', async () => {
    let checked = 0;
    for (const route of setting.controller.routes) {
      if (route.path === '/api/events' || (route.path === '/api/session' && route.method === 'delete')) continue;
      const method = route.method.toUpperCase();
      const status = async (caller: TestCaller) =>
        (await caller.fetch(method, pathOf(route.path), method === 'POST' ? {} : undefined)).status;
      const [anyone, observer, administrator] = [await status(setting.anyone()), await status(oli), await status(ada)];
      const where = `${method} ${route.path}`;
      if (route.who === 'anyone') expect([where, anyone]).not.toEqual([where, 401]);
      else {
        expect([where, anyone]).toEqual([where, 401]);
        expect([where, observer === 403]).toEqual([where, !route.who.includes('observer')]);
        expect([where, administrator === 403]).toEqual([where, !route.who.includes('administrator')]);
        expect(administrator).not.toBe(401);
      }
      expect([where, administrator]).not.toEqual([where, 500]);
      checked++;
    }
    expect(checked).toBeGreaterThan(20);
  });

  test('the event stream is for those who are signed in, and says what changed', async () => {
    expect((await setting.anyone().fetch('GET', '/api/events')).status).toBe(401);
    const response = await oli.fetch('GET', '/api/events');
    expect(response.headers.get('content-type')).toBe('text/event-stream');
    const reader = response.body!.getReader();
    const site = await ada.post('/api/sites', { name: 'Slip', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' });
    let text = '';
    while (!text.includes('"site"')) text += new TextDecoder().decode((await reader.read()).value);
    expect(text).toContain(`data: {"type":"site","siteId":"${site.id}"}`);
    await reader.cancel();
  });

  test('a session ends when it is signed out', async () => {
    const guest = await setting.as('oli');
    expect((await guest.get('/api/session')).person).toMatchObject({ name: 'Oli', role: 'observer' });
    expect((await guest.fetch('DELETE', '/api/session')).status).toBe(204);
    expect((await guest.fetch('GET', '/api/estate')).status).toBe(401);
  });

  test('another site’s page cannot make a browser change anything', async () => {
    const from = async (headers: Record<string, string>) => (await ada.fetch('POST', '/api/walks', {}, headers)).status;
    expect(await from({ 'sec-fetch-site': 'cross-site' })).toBe(403);
    expect(await from({ origin: 'http://elsewhere.example' })).toBe(403);
    expect(await from({ 'sec-fetch-site': 'same-origin' })).toBe(400);
  });
});

describe('answers', () => {
  test('faults are problem documents with what is wrong at each field', async () => {
    const response = await ada.fetch('POST', '/api/session', { email: 7 });
    expect(response.headers.get('content-type')).toContain('application/problem+json');
    const problem = (await response.json()) as { flaws: { field: string }[] };
    expect(problem).toMatchObject({
      type: 'about:lattice/input.invalid',
      status: 400,
      instance: response.headers.get('x-request-id'),
    });
    expect(problem.flaws.map((flaw) => flaw.field)).toEqual(['email', 'password']);
    expect((await ada.ask('POST', '/api/session', '{')).json).toMatchObject({ status: 400 });
    expect((await ada.ask('GET', '/api/nothing')).json).toMatchObject({
      status: 404,
      type: 'about:lattice/thing.unknown',
    });
    expect((await ada.ask('GET', '/api/devices/7')).status).toBe(400);
    expect((await ada.ask('GET', `/api/devices/${ID}`)).status).toBe(404);
  });

  test('the API describes itself in valid OpenAPI 3.1, every route of it', async () => {
    const document = await setting.anyone().get('/api/openapi.json');
    const result = await new Validator().validate(document);
    expect(result).toMatchObject({ valid: true });
    expect(document.openapi).toBe('3.1.0');
    const described = Object.values(document.paths as Record<string, object>).flatMap((path) =>
      Object.keys(path),
    ).length;
    expect(described).toBe(setting.controller.routes.length);
    const edit = document.paths['/api/drafts/{id}/operations'].post.requestBody.content['application/json'].schema;
    expect(JSON.stringify(edit)).toContain('segment.add');
  });

  test('health is told to anyone, scripts of others are not let in', async () => {
    const response = await setting.anyone().fetch('GET', '/healthz');
    expect(await response.json()).toMatchObject({ ok: true });
    expect(response.headers.get('content-security-policy')).toContain("script-src 'self'");
  });

  test('search finds by name, address and part of a MAC; what is typed is text, not a pattern', async () => {
    const titles = async (q: string) =>
      (await oli.get(`/api/search?q=${encodeURIComponent(q)}`)).map((hit: { title: string }) => hit.title);
    expect(await titles('pier')).toEqual(['Pier']);
    expect(await titles('10.5.10')).toEqual(['Crew']);
    expect(await titles('00:00:01')).toEqual(['pr-sw-01']);
    expect(await titles('%')).toEqual([]);
  });
});

test('the event stream ends when its session does', async () => {
  const leaving = await setting.as('oli');
  const staying = await setting.as('oli');
  const follow = async (who: TestCaller) => {
    const response = await who.fetch('GET', '/api/events');
    const reader = response.body!.getReader();
    await reader.read();
    return reader;
  };
  const [gone, kept] = [await follow(leaving), await follow(staying)];
  expect((await leaving.ask('DELETE', '/api/session')).status).toBe(204);
  while (!(await gone.read()).done);
  const site = (await ada.get('/api/estate')).sites[0];
  const { version, address, coordinates, purpose, tags, window } = site;
  await ada.ask('PATCH', `/api/sites/${site.id}`, { version, address, coordinates, purpose, tags, window });
  const { value } = await kept.read();
  expect(new TextDecoder().decode(value)).toContain('"type":"site"');
  await kept.cancel();
});

test('what happens in the very moment in which a session ends is told to all others, and harms nobody', async () => {
  const [leaving, staying] = [await setting.as('oli'), await setting.as('oli')];
  const readers = await Promise.all(
    [leaving, staying].map(async (who) => {
      const reader = (await who.fetch('GET', '/api/events')).body!.getReader();
      await reader.read();
      return reader;
    }),
  );
  const token = leaving.cookie.split('=')[1]!;
  const tokenHash = createHash('sha256').update(token).digest('hex');
  const { database } = setting.controller;
  expect(
    (await database.query('SELECT 1 FROM session WHERE token_hash = :tokenHash', { replacements: { tokenHash } }))[0],
  ).toHaveLength(1);
  // Both are heard at once, as when a balancer or a database comes back.
  const say = (topic: string, message: object): string => JSON.stringify({ topic, message });
  await database.query(`SELECT pg_notify(:channel, :first), pg_notify(:channel, :second)`, {
    replacements: {
      channel: 'lattice',
      first: say('signed-out', { tokenHash }),
      second: say('live', { type: 'users' }),
    },
  });
  while (!(await readers[0]!.read()).done);
  expect(new TextDecoder().decode((await readers[1]!.read()).value)).toContain('"type":"users"');
  await readers[1]!.cancel();
  expect((await staying.fetch('GET', '/api/estate')).status).toBe(200);
});

describe('limits', () => {
  test('bodies of anyone are short, those of callers longer, and nobody’s is read before they may', async () => {
    const long = { email: 'a'.repeat(20_000), password: 'x' };
    expect((await setting.anyone().ask('POST', '/api/session', long)).status).toBe(413);
    expect((await setting.anyone().ask('POST', '/api/walks', `{"x":"${'a'.repeat(2_000_000)}"}`)).status).toBe(401);
    expect((await ada.ask('POST', '/api/walks', `{"x":"${'a'.repeat(2_000_000)}"}`)).status).toBe(413);
    const document = await setting.anyone().get('/api/openapi.json');
    expect(document.paths['/api/session'].post.requestBody.description).toBe('At most 16384 octets.');
    expect(document.paths['/api/drafts/{id}/operations'].post.requestBody.description).toBe('At most 1000000 octets.');
  });

  test.each([
    ['senseless operations', '/api/drafts/ID/operations', { head: 0, operations: Array(75_000).fill({ a: 1 }) }],
    ['unknown keys', '/api/walks', Object.fromEntries(Array.from({ length: 70_000 }, (_, i) => [`k${i}`, 1]))],
    ['empty names', '/api/firmware/plan', { mode: 'now', deviceIds: Array(300_000).fill('') }],
    ['numbers', '/api/drafts/ID/recipes/ID/stamp', { siteIds: Array(450_000).fill(7) }],
    [
      'operations that are almost right',
      '/api/drafts/ID/operations',
      { head: 0, operations: Array(2000).fill({ type: 'ssid.set', ssidId: ID, from: {}, to: { name: 7 } }) },
    ],
  ])('a megabyte of %s is refused at once, in few words', async (_name, path, body) => {
    const started = performance.now();
    const other = setting
      .anyone()
      .ask('GET', '/healthz')
      .then(() => performance.now() - started);
    const response = await ada.fetch('POST', path.replaceAll('ID', ID), body);
    const text = await response.text();
    expect(response.status).toBe(400);
    expect(text.length).toBeLessThan(4000);
    expect(performance.now() - started).toBeLessThan(5000);
    expect(await other).toBeLessThan(5000);
  });

  test('every list, text and open object that a route takes has a stated limit', () => {
    const open: string[] = [];
    type Described = Record<string, any>;
    const look = (schema: Described, at: string): void => {
      const rules = (schema['rules'] ?? []) as { name: string }[];
      const has = (...names: string[]) => rules.some((rule) => names.includes(rule.name));
      const bound = has('max', 'length') || schema['flags']?.only || has('guid', 'ip', 'hex', 'hostname');
      if ((schema['type'] === 'array' || schema['type'] === 'string') && !bound && !has('pattern')) open.push(at);
      if (schema['patterns'] && !has('max')) open.push(`${at} (keys)`);
      for (const [key, each] of Object.entries((schema['keys'] ?? {}) as Described)) look(each, `${at}.${key}`);
      for (const each of schema['items'] ?? []) look(each, `${at}[]`);
      for (const each of schema['patterns'] ?? []) look(each.rule, `${at}.*`);
      for (const each of schema['matches'] ?? []) if (each.schema) look(each.schema, at);
    };
    for (const { method, path, params, query, body } of setting.controller.routes) {
      for (const [name, schema] of Object.entries({ ...params, ...query })) look(schema.describe(), `${path}:${name}`);
      if (body) look(body.describe(), `${method} ${path}`);
    }
    expect(open).toEqual([]);
  });

  test('a request line that names no address, another host and another page’s line are turned away', async () => {
    const { port } = new URL(setting.controller.url);
    const raw = (text: string): Promise<string> =>
      new Promise((resolve, reject) => {
        const socket = connectTo(Number(port), '127.0.0.1', () => socket.write(text));
        let heard = '';
        socket.on('data', (data) => (heard += data.toString()));
        socket.on('close', () => resolve(heard));
        socket.on('error', reject);
      });
    const end = 'Connection: close\r\n\r\n';
    expect(await raw(`GET http://[ HTTP/1.1\r\nHost: x\r\n${end}`)).toMatch(/^HTTP\/1\.1 400 /);
    expect(await raw(`GET http://127.0.0.1/healthz HTTP/1.1\r\nHost: 127.0.0.1\r\n${end}`)).toMatch(/^HTTP\/1\.1 200 /);
    expect(await raw(`GET /healthz HTTP/1.1\r\nHost: rebound.example\r\n${end}`)).toMatch(/^HTTP\/1\.1 421 /);
    const upgrade = (more: string) =>
      `GET /line HTTP/1.1\r\nHost: 127.0.0.1\r\nUpgrade: websocket\r\nConnection: Upgrade\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n${more}\r\n`;
    expect(await raw(upgrade('Origin: http://elsewhere.example\r\n'))).toBe('');
    expect(await raw(upgrade('').replace('Host: 127.0.0.1', 'Host: rebound.example'))).toBe('');
  });

  test.each([
    ['a sweep of an unknown site', 'POST', '/api/sweeps', { prefix: '10.5.1.0/24', deviceId: null, siteId: ID }, 404],
    ['a NUL in a path', 'GET', '/api/site-code?name=a%00b', undefined, 400],
    ['half a surrogate pair', 'POST', '/api/sites', { name: '\ud800', code: '', country: '', timeZone: '' }, 400],
    ['a path that is no text', 'GET', '/api/sites/%E0%A4%A/devices', undefined, 400],
  ])('%s is the caller’s fault', async (_name, method, path, body, status) => {
    expect((await ada.ask(method, path, body)).status).toBe(status);
  });

  test('a reader’s look makes nothing', async () => {
    const count = async () => (await setting.controller.database.query('SELECT count(*) FROM draft'))[0];
    const before = await count();
    for (const path of ['/api/drafts/current', '/api/drafts']) expect((await oli.ask('GET', path)).status).toBe(200);
    expect(await count()).toEqual(before);
  });
});

test('an answer that somebody has is named and not sent again; a change gives it another name', async () => {
  const path = '/api/estate';
  const first = await ada.fetch('GET', path);
  const etag = first.headers.get('etag')!;
  expect([first.status, first.headers.get('cache-control')]).toEqual([200, 'private, no-cache']);
  const { sites } = (await first.json()) as { sites: { id: string; version: number; tags: string[]; window: null }[] };
  const again = await oli.fetch('GET', path, undefined, { 'if-none-match': etag });
  expect([again.status, (await again.text()).length]).toEqual([304, 0]);
  const { id, version } = sites[0]!;
  await ada.ask('PATCH', `/api/sites/${id}`, {
    version,
    address: '2 Pier Head',
    coordinates: null,
    purpose: '',
    tags: [],
    window: null,
  });
  const changed = await oli.fetch('GET', path, undefined, { 'if-none-match': etag });
  expect(changed.status).toBe(200);
  expect(await changed.text()).toContain('2 Pier Head');
  expect((await setting.anyone().fetch('GET', path, undefined, { 'if-none-match': etag })).status).toBe(401);
});
