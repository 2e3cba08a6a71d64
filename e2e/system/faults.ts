import type { ChildProcess } from 'node:child_process';
import { randomFrom } from '@iron-lattice/core/base';
import { readFileSync, rmSync, mkdtempSync, chmodSync } from 'node:fs';
import { connect, createServer, type Server, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { freePorts, startBalancer } from '../../tools/balancer.mjs';
import { ensureDatabase, startPostgres, type Postgres } from '../../tools/pg.mjs';
import { startController, startFleet, stopChild } from '../../tools/stack.mjs';
import { AN_HOUR_AHEAD, freePort } from './estate';

const root = fileURLToPath(new URL('../..', import.meta.url));
type Json = any; // answers of the API are judged by what the tests expect of them

/** Numbers by a seed, the same on every machine. */
export function randomBy(seed: number): { below: (n: number) => number; pick: <T>(list: readonly T[]) => T } {
  const below = randomFrom(seed);
  return { below, pick: (list) => list[below(list.length)]! };
}

export const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** A way between devices and controller that can be cut, slowed, and torn in the middle of a frame. */
export class BadWire {
  private readonly sockets = new Set<Socket>();
  private server!: Server;
  port = 0;
  /** What happens to the bytes that pass. */
  mood: 'fine' | 'slow' | 'torn' = 'fine';

  constructor(
    private readonly target: () => number,
    private readonly random: ReturnType<typeof randomBy>,
  ) {}

  async open(): Promise<void> {
    this.server = createServer((near) => {
      const far = connect(this.target(), '127.0.0.1');
      for (const [from, to] of [
        [near, far],
        [far, near],
      ] as const) {
        this.sockets.add(from);
        from.on('data', (data: Buffer) => this.pass(data, from, to));
        from.on('error', () => {});
        from.on('close', () => {
          this.sockets.delete(from);
          to.destroy();
        });
      }
    });
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', resolve));
    this.port = (this.server.address() as { port: number }).port;
  }

  /** Ends every line at once. */
  cut(): void {
    for (const socket of this.sockets) socket.destroy();
  }

  close(): void {
    this.cut();
    this.server.close();
  }

  private pass(data: Buffer, from: Socket, to: Socket): void {
    if (this.mood === 'torn' && this.random.below(40) === 0) {
      to.write(data.subarray(0, Math.floor(data.length / 2)), () => to.destroy());
      from.destroy();
    } else if (this.mood === 'slow') {
      from.pause();
      setTimeout(() => {
        const half = Math.floor(data.length / 2);
        to.write(data.subarray(0, half));
        to.write(data.subarray(half));
        from.resume();
      }, this.random.below(60));
    } else to.write(data);
  }
}

/** The demo on a PostgreSQL of its own, each part of which can be killed at any moment. */
export class TornEstate {
  private postgres!: Postgres;
  private readonly controllers: ChildProcess[] = [];
  private balancer: ChildProcess | null = null;
  private ports: number[] = [];
  private fleet: ChildProcess | null = null;
  private port = 0;
  private control = 0;
  cookie = '';
  readonly wire: BadWire;
  /** Statuses that the API answered with, and how often. */
  readonly statuses = new Map<number, number>();
  private readonly folder = mkdtempSync(join(tmpdir(), 'lattice-torn-'));

  private constructor(readonly random: ReturnType<typeof randomBy>) {
    this.wire = new BadWire(() => this.port, random);
  }

  /** @param controllers how many share it; more than one have a balancer in front. */
  static async start(seed: number, controllers = 1): Promise<TornEstate> {
    const estate = new TornEstate(randomBy(seed));
    chmodSync(estate.folder, 0o711);
    estate.postgres = await startPostgres(join(estate.folder, 'data')); // durable: what is answered is there
    await ensureDatabase(estate.postgres.urlOf, 'lattice');
    [estate.port, estate.control] = [await freePort(), await freePort()];
    estate.ports = controllers === 1 ? [estate.port] : await freePorts(controllers);
    await estate.wire.open();
    for (const [i] of estate.ports.entries()) await estate.startController(i);
    if (controllers > 1) {
      const of = { port: estate.port, servers: estate.ports, folder: estate.folder };
      estate.balancer = (await startBalancer(of)).child;
    }
    estate.startFleet();
    await estate.signIn();
    return estate;
  }

  async end(): Promise<void> {
    if (this.fleet) await stopChild(this.fleet);
    if (this.balancer) await stopChild(this.balancer);
    await Promise.all(this.controllers.map((child) => stopChild(child)));
    this.wire.close();
    this.postgres.stop();
    rmSync(this.folder, { recursive: true, force: true });
  }

  async startController(i = 0): Promise<void> {
    const { child } = await startController({
      DATABASE_URL: this.postgres.urlOf('lattice'),
      LATTICE_PORT: String(this.ports[i]),
      LATTICE_PROXIES: '127.0.0.1',
      LATTICE_SECRET_KEY: join(this.folder, 'secret.key'),
      LATTICE_SEED: join(root, 'demo/skerrow.estate.json'),
      LATTICE_KEEP_WITHIN: '3',
      LATTICE_REPORT_SECONDS: '2',
      LATTICE_SIGN_INS: '1000',
      LATTICE_SWEEP_PORT: '0',
      LATTICE_LOG_FILE: join(this.folder, 'controller.log'),
      ...(i === 1 ? AN_HOUR_AHEAD : {}),
    });
    this.controllers[i] = child;
  }

  startFleet(): void {
    this.fleet = startFleet({
      world: join(root, 'demo/skerrow.world.json'),
      controllerUrl: `http://127.0.0.1:${this.wire.port}`,
      state: join(this.folder, 'devices'),
      control: this.control,
    });
  }

  /** Whether the controller still runs by itself. */
  get lives(): boolean {
    return this.controllers.every(({ exitCode, signalCode }) => exitCode === null && signalCode === null);
  }

  /** Kills one part, as power cuts and faulty memory do, and has it come back as an operator would. */
  async kill(what: 'controller' | 'fleet' | 'backend' | 'postmaster'): Promise<void> {
    if (what === 'controller') {
      const i = this.random.below(this.controllers.length);
      await stopChild(this.controllers[i]!, 'SIGKILL');
      await pause(this.random.below(800));
      await this.startController(i);
    } else if (what === 'fleet') {
      await stopChild(this.fleet!, 'SIGKILL');
      await pause(this.random.below(800));
      this.startFleet();
    } else if (what === 'backend') {
      const pid = await this.backend();
      if (pid !== null) process.kill(pid, 'SIGKILL');
    } else {
      process.kill(Number(readFileSync(join(this.postgres.data, 'postmaster.pid'), 'utf8').split('\n')[0]), 'SIGKILL');
      await pause(200 + this.random.below(1500));
      this.postgres.revive();
    }
  }

  private async backend(): Promise<number | null> {
    const client = new pg.Client({ connectionString: this.postgres.urlOf('lattice') });
    client.on('error', () => {}); // whoever asks it is told
    try {
      await client.connect();
      const { rows } = await client.query<{ pid: number }>(
        `SELECT pid FROM pg_stat_activity WHERE datname = 'lattice' AND pid <> pg_backend_pid()`,
      );
      return rows.length > 0 ? this.random.pick(rows).pid : null;
    } catch {
      return null; // it recovers from the last one
    } finally {
      await client.end().catch(() => {});
    }
  }

  async signIn(): Promise<void> {
    const { response } = await this.ask('POST', '/api/session', {
      email: 'ida@skerrow.example',
      password: 'lattice-demo-26',
    });
    this.cookie = response!.headers.get('set-cookie')!.split(';')[0]!;
  }

  /** @returns null where nobody answered, as while the controller is being killed. */
  async ask(
    method: string,
    path: string,
    body?: unknown,
  ): Promise<{ status: number; json: Json; response: Response | null }> {
    const headers: Record<string, string> = { cookie: this.cookie };
    if (body !== undefined) headers['content-type'] = 'application/json';
    try {
      const response = await fetch(`http://127.0.0.1:${this.port}${path}`, {
        method,
        headers,
        signal: AbortSignal.timeout(30_000),
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      const text = await response.text();
      // The balancer says so of a controller that was killed while it answered (RFC 9110 §15.6.3): that answer is lost, as it is without one.
      if (response.status === 502 && this.balancer) return { status: 0, json: null, response: null };
      this.statuses.set(response.status, (this.statuses.get(response.status) ?? 0) + 1);
      const isJson = /json/.test(response.headers.get('content-type') ?? '');
      return { status: response.status, json: isJson && text !== '' ? JSON.parse(text) : text, response };
    } catch {
      return { status: 0, json: null, response: null };
    }
  }

  /** Asks again until it is answered with success. */
  async sure(method: string, path: string, body?: unknown, withinMs = 60_000): Promise<Json> {
    for (const deadline = Date.now() + withinMs; ;) {
      const { status, json } = await this.ask(method, path, body);
      if (status >= 200 && status < 300) return json;
      if (Date.now() > deadline)
        throw new Error(`${method} ${path} was answered ${status} to the end: ${JSON.stringify(json)}`);
      await pause(100);
    }
  }

  async until(what: string, look: () => Promise<boolean>, withinMs = 120_000): Promise<void> {
    for (const deadline = Date.now() + withinMs; !(await look());) {
      if (Date.now() > deadline) throw new Error(`gave up waiting until ${what}`);
      await pause(100);
    }
  }

  /** Asks the database itself, again until it answers. */
  async query<T extends object>(sql: string, withinMs = 60_000): Promise<T[]> {
    for (const deadline = Date.now() + withinMs; ;) {
      const client = new pg.Client({ connectionString: this.postgres.urlOf('lattice') });
      client.on('error', () => {}); // whoever asks it is told
      try {
        await client.connect();
        return (await client.query<T>(sql)).rows;
      } catch (error) {
        if (Date.now() > deadline) throw error;
        await pause(100);
      } finally {
        await client.end().catch(() => {});
      }
    }
  }

  /** What each made-up device really runs, by serial number. */
  async running(): Promise<Map<string, string | null>> {
    const response = await fetch(`http://127.0.0.1:${this.control}/`);
    const devices = (await response.json()) as { serial: string; runs: string | null }[];
    return new Map(devices.map(({ serial, runs }) => [serial, runs]));
  }

  /** Lines of the log that tell of a fault of ours. */
  faultsLogged(): string[] {
    return readFileSync(join(this.folder, 'controller.log'), 'utf8')
      .split('\n')
      .filter((line) => line.includes('"msg":"failed"'));
  }
}
