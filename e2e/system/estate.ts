import type { ChildProcess } from 'node:child_process';
import type { RadioReport } from '@iron-lattice/core/line';
import { randomInt } from 'node:crypto';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startController, startFleet, stopChild } from '../../tools/stack.mjs';
import { freshDatabase } from '../../tools/test-database.mjs';
import { wholeEstate, type WholeEstate } from './whole-estate';

const root = fileURLToPath(new URL('../..', import.meta.url));
type Json = any; // answers of the API are judged by what the tests expect of them

/** Settings of a process whose machine's clock is an hour ahead of all others. */
export const AN_HOUR_AHEAD = {
  NODE_OPTIONS: `--import=${new URL('clock-ahead.mjs', import.meta.url).href}`,
  CLOCK_AHEAD_MS: String(3_600_000),
};

type Database = Awaited<ReturnType<typeof freshDatabase>>;

export interface FleetDevice {
  serial: string;
  powered: boolean;
  reaches: boolean;
  runs: string | null;
  firmware: string;
  fingerprint: string;
  address: string | null;
  clients: { mac: string; ssid: string; vlan: number; address: string | null }[];
  radios: readonly RadioReport[];
}

/** A port that nobody listens on, and below those that outgoing connections of suites alongside are given (Linux: from 32768). */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = randomInt(20_000, 32_000);
    const server = createServer();
    const free = await new Promise<boolean>((resolve) => {
      server.once('error', () => resolve(false)).listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
    });
    if (free) return port;
  }
}

/** The demo as processes: a controller, a fleet, a database, each of which a test can end as it likes. */
export class Estate {
  private controller: ChildProcess | null = null;
  private fleet: ChildProcess | null = null;
  /** The session, once signed in. */
  cookie = '';
  private url = '';
  /** Where the controller serves. */
  get address(): string {
    return this.url;
  }

  private constructor(
    private database: Database,
    readonly folder: string,
    private readonly whole: WholeEstate | null,
    private readonly port: number,
    private readonly control: number,
    private readonly empty: boolean,
    private readonly keepWithin: number,
  ) {}

  /**
   * @param empty whether the controller waits for its first start.
   * @param anew whether the demo is founded here and now; else it is a copy of one that is in step.
   * @param keepWithin after how many seconds devices go back that nobody told to keep a document: of two cores a test may have little.
   */
  static async start({ empty = false, anew = false, keepWithin = 40 } = {}): Promise<Estate> {
    const whole = empty || anew ? null : await wholeEstate(() => Estate.makeWhole());
    const [database, port, control] = await Promise.all([freshDatabase(whole?.template), freePort(), freePort()]);
    const folder = mkdtempSync(join(tmpdir(), 'lattice-'));
    if (whole) cpSync(whole.folder, folder, { recursive: true });
    const estate = new Estate(database, folder, whole, port, control, empty, keepWithin);
    await estate.startController();
    estate.startFleet();
    return estate;
  }

  private static async makeWhole(): Promise<{ database: string; folder: string }> {
    const estate = await Estate.start({ anew: true });
    await estate.signIn();
    await estate.allInStep();
    await estate.stopFleet();
    await estate.stopController();
    return { database: estate.database.name, folder: estate.folder };
  }

  /** Everything as it was when it began, for the next file of tests: its database, and what controller and devices keep. */
  async putBack(): Promise<void> {
    if (!this.whole) throw new Error('this estate was founded by a test of its own');
    await Promise.all([this.stopFleet(), this.stopController()]);
    const [before] = [this.database, rmSync(this.folder, { recursive: true })];
    this.database = await freshDatabase(this.whole.template);
    await before.drop();
    cpSync(this.whole.folder, this.folder, { recursive: true });
    await this.startController();
    this.startFleet();
    await this.signIn();
    await this.allInStep();
  }

  /** What a controller of this estate is started with. */
  get settings(): Record<string, string> {
    return {
      DATABASE_URL: this.database.url,
      LATTICE_PORT: String(this.port),
      LATTICE_SECRET_KEY: join(this.folder, 'secret.key'),
      ...(this.empty ? {} : { LATTICE_SEED: join(root, 'demo/skerrow.estate.json') }),
      LATTICE_KEEP_WITHIN: String(this.keepWithin),
      LATTICE_REPORT_SECONDS: '5',
      LATTICE_SIGN_INS: '1000',
      LATTICE_SWEEP_PORT: String(this.control), // UDP beside TCP
      LATTICE_ENTRY_PORT: '0',
    };
  }

  /** @param more that it is started with besides. */
  async startController(more: Record<string, string> = {}): Promise<void> {
    const { child, url } = await startController({ ...this.settings, ...more });
    this.controller = child;
    this.url = url;
  }

  startFleet(): void {
    const world = join(root, 'demo/skerrow.world.json');
    this.fleet = startFleet({
      world,
      controllerUrl: this.url,
      state: join(this.folder, 'devices'),
      control: this.control,
      sweepPort: this.control,
    });
  }

  /** What the fleet's RADIUS servers were asked. */
  async radiusSeen(): Promise<string> {
    return (await fetch(`http://127.0.0.1:${this.control}/radius`)).text();
  }

  /** Where the fleet’s directory listens, and by which authority it is believed. */
  async directory(): Promise<{ ldap: number; ldaps: number; authority: string }> {
    return (await fetch(`http://127.0.0.1:${this.control}/directory`)).json() as never;
  }

  /** UDP port at which servers end and change sessions at any device. */
  async changesPort(): Promise<number> {
    return ((await (await fetch(`http://127.0.0.1:${this.control}/changes`)).json()) as { port: number }).port;
  }

  /** What serves it now stands elsewhere, such as a balancer. */
  servedAt(url: string): void {
    this.url = url;
  }

  /** Every device that is ours, as its sheet shows it. */
  async ours(): Promise<Json[]> {
    const { sites } = await this.call('GET', '/api/estate');
    const of = await Promise.all(sites.map(({ id }: Json) => this.call('GET', `/api/sites/${id}/devices`)));
    return of.flat();
  }

  stopController = (signal: NodeJS.Signals = 'SIGTERM'): Promise<void> => stopChild(this.controller!, signal);
  stopFleet = (): Promise<void> => stopChild(this.fleet!);

  async end(): Promise<void> {
    await this.stopFleet();
    await this.stopController();
    await this.database.drop();
    rmSync(this.folder, { recursive: true });
  }

  async signIn(email = 'ida@skerrow.example', password = 'lattice-demo-26'): Promise<void> {
    const response = await this.fetch('POST', '/api/session', { email, password });
    this.cookie = response.headers.get('set-cookie')!.split(';')[0]!;
  }

  fetch(method: string, path: string, body?: unknown): Promise<Response> {
    const headers: Record<string, string> = { cookie: this.cookie };
    if (body !== undefined) headers['content-type'] = 'application/json';
    return fetch(`${this.url}${path}`, {
      method,
      headers,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  }

  /** @returns the answer's JSON. @throws Error with the problem when it is none of success. */
  async call(method: string, path: string, body?: unknown): Promise<Json> {
    const response = await this.fetch(method, path, body);
    const text = await response.text();
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${text}`);
    return text === '' ? undefined : JSON.parse(text);
  }

  /** Sends a file. @returns the answer's JSON. */
  async upload(path: string, file: string | Uint8Array): Promise<Json> {
    const response = await fetch(`${this.url}${path}`, {
      method: 'POST',
      headers: { cookie: this.cookie, 'content-type': 'application/octet-stream' },
      body: typeof file === 'string' ? file : new Uint8Array(file),
    });
    const body = await response.json();
    if (!response.ok) throw new Error(`POST ${path}: ${response.status} ${JSON.stringify(body)}`);
    return body;
  }

  /** A device as its sheet shows it, by serial number. */
  async view(serial: string): Promise<Json> {
    const { rows } = await this.call('GET', '/api/devices');
    const row = rows.find((each: Json) => each.serial === serial);
    return row ? this.call('GET', `/api/devices/${row.id}`) : undefined;
  }

  hitches = async (code?: string): Promise<Json[]> =>
    (await this.call('GET', '/api/hitches')).hitches.filter((each: Json) => code === undefined || each.code === code);

  /** @returns the problem document of a refusal. */
  async refused(method: string, path: string, body?: unknown): Promise<Json> {
    const response = await this.fetch(method, path, body);
    if (response.ok) throw new Error(`${method} ${path} was not refused`);
    return response.json();
  }

  async devices(): Promise<FleetDevice[]> {
    return (await fetch(`http://127.0.0.1:${this.control}/`)).json() as Promise<FleetDevice[]>;
  }

  async device(serial: string): Promise<FleetDevice> {
    return (await this.devices()).find((device) => device.serial === serial)!;
  }

  /** How many clients are on an SSID, wherever. */
  async clientsOn(ssid: string): Promise<number> {
    const devices = await this.devices();
    return devices.flatMap(({ clients }) => clients).filter((client) => client.ssid === ssid).length;
  }

  /** The fleet’s own switchboard. */
  get controlUrl(): string {
    return `http://127.0.0.1:${this.control}`;
  }

  async tell(command: object): Promise<void> {
    const response = await fetch(`${this.controlUrl}/`, {
      method: 'POST',
      body: JSON.stringify(command),
    });
    if (!response.ok) throw new Error(await response.text());
  }

  /** Looks again until `read` gives something true. */
  async until<T>(what: string, read: () => Promise<T | false | undefined | null>, withinMs = 60_000): Promise<T> {
    const deadline = Date.now() + withinMs;
    for (;;) {
      const value = await read();
      if (value) return value;
      if (Date.now() > deadline) throw new Error(`gave up waiting: ${what}`);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  }

  /** Waits until every claimed device of a site, or of the estate, is in step. @throws Error that says which are not, and why. */
  async allInStep(siteId?: string): Promise<void> {
    const left = async (): Promise<Json[]> => {
      const { sites } = await this.call('GET', '/api/estate');
      return sites.filter(
        ({ id, devices: { behind, silent, stuck } }: Json) => (!siteId || id === siteId) && behind + silent + stuck > 0,
      );
    };
    await this.until('all in step', async () => (await left()).length === 0, 150_000).catch(async (error: Error) => {
      const rows = await Promise.all((await left()).map(({ id }) => this.call('GET', `/api/sites/${id}/devices`)));
      const late = rows.flat().filter(({ state }) => state !== 'in step');
      const words = late.map(({ name, state, trouble }) => `${name} is ${state} (${trouble})`);
      throw new Error(`${error.message}: ${words.join(', ')}`);
    });
  }

  site = (name: string): Promise<Json> =>
    this.call('GET', '/api/estate').then(({ sites }) => sites.find((site: Json) => site.name === name));

  draft = (): Promise<Json> => this.call('GET', '/api/drafts/current');
  siteDraft = async (siteId: string): Promise<Json> =>
    this.call('GET', `/api/drafts/${(await this.draft()).id}/sites/${siteId}`);

  async edit(operations: Json[], secrets: Record<string, string> = {}): Promise<Json> {
    const { id, head } = await this.draft();
    return this.call('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
  }

  async rollOut(despiteErrors = false): Promise<Json> {
    const rollout = await this.call('POST', '/api/rollouts', { draftId: (await this.draft()).id, despiteErrors });
    return this.rolloutOver(rollout.id);
  }

  rolloutOver = (id: string): Promise<Json> =>
    this.until(
      'rollout over',
      async () => {
        const rollout = await this.call('GET', `/api/rollouts/${id}`);
        return rollout.endedAt !== null && rollout;
      },
      90_000,
    );
}
