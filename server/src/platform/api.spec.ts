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
        expect([where, administrator]).not.toEqual([where, 403]);
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

test('sign-in is limited, and a wrong address costs the same as a wrong password', async () => {
  const limited = await TestController.start(3);
  try {
    const attempt = (email: string, password: string) =>
      limited.anyone().ask('POST', '/api/session', { email, password });
    expect((await attempt('nobody@test.example', 'x')).json.title).toBe('The address or the password is wrong.');
    expect((await attempt('ada@test.example', 'x')).json.title).toBe('The address or the password is wrong.');
    await attempt('ada@test.example', 'x');
    const refused = await attempt('ada@test.example', 'ada-password');
    expect(refused.status).toBe(429);
    expect(refused.json.title).toMatch(/^Too many attempts. Try again in \d+ s\.$/);
  } finally {
    await limited.end();
  }
});
