import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freshDatabase } from '../../../tools/test-database.mjs';
import { startController, type Controller } from '../controller';
import type { Stage } from '../stage';
import type { Config } from '../platform/config';
import { seedFrom } from '../demo/demo-seed';

type Json = any; // answers of the API are judged by what the tests expect of them

/** A small estate: one site with nothing but management and one segment more, an administrator and an observer. */
const ESTATE = {
  name: 'Test estate',
  people: [
    { name: 'Ada', email: 'ada@test.example', role: 'administrator', password: 'ada-password' },
    { name: 'Oli', email: 'oli@test.example', role: 'observer', password: 'oli-password' },
  ],
  ssids: [],
  classes: [
    { name: 'Tills', segment: 'Crew', members: [{ mac: '02:1a:00:00:00:09', name: 'Front desk' }], sites: ['Pier'] },
  ],
  sites: [
    {
      name: 'Pier',
      code: 'pr',
      country: 'IE',
      timeZone: 'Europe/Dublin',
      segments: [
        { name: 'Management', vlan: 1, subnet: '10.5.1.0/24', gateway: '10.5.1.1', addresses: null },
        { name: 'Crew', vlan: 10, subnet: '10.5.10.0/24', gateway: '10.5.10.1', addresses: null },
      ],
      devices: [{ name: 'pr-sw-01', serial: 'SW-0001', model: 'SW-8P', mac: '02:00:00:00:00:01', firmware: '1.0.0' }],
      ports: [],
    },
  ],
};

/** A controller in this process on a database of its own. */
export class TestController {
  private constructor(
    readonly controller: Controller,
    private readonly database: { url: string; drop: () => Promise<void> },
    private readonly folder: string,
  ) {}

  /** @param empty whether it waits for its first start. */
  static async start(
    signInsPerMinute = 1000,
    empty = false,
    more: Partial<Config> = {},
    stages?: readonly Stage[],
  ): Promise<TestController> {
    const database = await freshDatabase();
    const folder = mkdtempSync(join(tmpdir(), 'lattice-'));
    writeFileSync(join(folder, 'estate.json'), JSON.stringify(ESTATE));
    const config = {
      databaseUrl: database.url,
      host: '127.0.0.1',
      port: 0,
      secretKeyFile: join(folder, 'secret.key'),
      webRoot: null,
      logLevel: 'silent',
      logFile: null,
      keepWithinSeconds: 1,
      reportSeconds: 5,
      beatSeconds: 15,
      sweepPort: 0,
      entryPort: 0,
      portalPort: 0,
      ...{ portalUrl: null, portalTls: null },
      publicUrl: null,
      proxies: [],
      signInsPerMinute,
      strangersAnAddress: 256,
      ...more,
    };
    const seed = empty ? undefined : seedFrom(join(folder, 'estate.json'));
    return new TestController(await startController(config, seed, stages), database, folder);
  }

  /** Its database, for whoever looks past it. */
  get databaseUrl(): string {
    return this.database.url;
  }

  async end(): Promise<void> {
    await this.controller.close();
    await this.forget();
  }

  /** Clears up after a controller that has been closed. */
  async forget(): Promise<void> {
    await this.database.drop();
    rmSync(this.folder, { recursive: true });
  }

  /** Signs in. @returns a caller with the session. */
  async as(who: 'ada' | 'oli'): Promise<TestCaller> {
    const anyone = new TestCaller(this.controller.url, '');
    const response = await anyone.fetch('POST', '/api/session', {
      email: `${who}@test.example`,
      password: `${who}-password`,
    });
    return new TestCaller(this.controller.url, response.headers.get('set-cookie')!.split(';')[0]!);
  }

  anyone(): TestCaller {
    return new TestCaller(this.controller.url, '');
  }
}

/** Somebody who calls the API. */
export class TestCaller {
  constructor(
    private readonly url: string,
    readonly cookie: string,
  ) {}

  fetch(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
    signal: AbortSignal | null = null,
  ): Promise<Response> {
    return fetch(`${this.url}${path}`, {
      method,
      signal,
      headers: {
        cookie: this.cookie,
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
  }

  /** The same caller with a session. */
  with = (cookie: string): TestCaller => new TestCaller(this.url, cookie);

  /** @returns status and JSON of the answer. */
  async ask(method: string, path: string, body?: unknown): Promise<{ status: number; json: Json }> {
    const response = await this.fetch(method, path, body);
    const text = await response.text();
    return { status: response.status, json: text === '' ? null : JSON.parse(text) };
  }

  /** Sends a file. @returns status and JSON of the answer. */
  async upload(path: string, file: string | Uint8Array): Promise<{ status: number; json: Json }> {
    const response = await fetch(`${this.url}${path}`, {
      method: 'POST',
      headers: { cookie: this.cookie, 'content-type': 'application/octet-stream' },
      body: typeof file === 'string' ? file : new Uint8Array(file),
    });
    return { status: response.status, json: await response.json() };
  }

  /** Looks again until what is read is good. */
  async until<T = Json>(path: string, good: (value: T) => boolean, withinMs = 8000): Promise<T> {
    for (const deadline = Date.now() + withinMs; ;) {
      const value = (await this.get(path)) as T;
      if (good(value)) return value;
      if (Date.now() > deadline) throw new Error(`${path} never became what was waited for: ${JSON.stringify(value)}`);
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }

  get = async (path: string): Promise<Json> => (await this.ask('GET', path)).json;
  post = async (path: string, body: unknown = {}): Promise<Json> => (await this.ask('POST', path, body)).json;
}
