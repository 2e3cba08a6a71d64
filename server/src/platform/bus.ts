import { EventEmitter } from 'node:events';
import type { LiveEvent } from '@iron-lattice/core/base';
import type { CommandName, ProbeTry } from '@iron-lattice/core/line';
import pg from 'pg';
import type { Logger } from 'pino';

/** What controllers of one database tell each other. */
export interface BusMessages {
  /** Something people may be looking at changed. */
  live: LiveEvent;
  /** Whoever holds the device's line: bring it into step. */
  sync: { deviceId: string; urgent?: true };
  /** Whoever holds the device's line: it may keep the document. */
  keep: { deviceId: string; hash: string };
  /** Whoever holds lines of these devices: see which still answer. */
  probe: { token: string; deviceIds: string[]; withinMs: number };
  probed: { token: string; deviceIds: string[] };
  command: {
    id: string;
    deviceId: string;
    name: CommandName;
    target: string;
    seconds?: number;
    probe?: ProbeTry;
  };
  /** Whoever holds the device's line: it may stop. */
  cancel: { id: string; deviceId: string };
  /** A command was answered; the answer is a row. */
  answered: { id: string };
  /** Whoever holds the device's line: have it fetch and start a release. */
  firmware: { deviceId: string; updateId: string };
  /** Whoever holds the device's line: end it, the device calls again. */
  drop: { deviceId: string };
  /** Updates may be due; with `policies` because what devices do by themselves changed. */
  'firmware-due': { policies?: true };
  sweep: { id: string; stop: boolean };
}
type Topic = keyof BusMessages;

/** Identifies our listening connections among all of the database's. */
export const LISTENER_NAME = 'iron-lattice line';
const CHANNEL = 'lattice';
const RECONNECT_MS = 500;
/** Changes of devices are told together when they come this close, so that ten thousand lines stay cheap. */
const GATHER_MS = 25;
/** A notification holds 8,000 octets; an id takes 39 and its site's as many. */
const MOST_TOLD = 90;

/**
 * Carries messages between all controller processes over PostgreSQL (LISTEN/NOTIFY); every process, the sender
 * included, hears each once. Lost while the connection is away: receivers treat a message as a hint to look.
 */
export class Bus {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private client: pg.Client | null = null;
  private readonly gathered = new Map<string, string | null>();
  private telling: NodeJS.Timeout | null = null;
  private closed = false;
  /** Backend process id of the listening connection: unique among live controllers. */
  processId = 0;

  constructor(
    private readonly url: string,
    private readonly sender: pg.Pool,
    private readonly log: Logger,
  ) {}

  async open(): Promise<void> {
    const client = new pg.Client({ connectionString: this.url, application_name: LISTENER_NAME });
    client.on('notification', (notice) => this.deliver(notice.payload ?? ''));
    client.on('error', (error) => this.log.warn({ error: error.message }, 'bus connection lost'));
    client.on('end', () => {
      if (!this.closed) setTimeout(() => void this.open().catch(() => client.emit('end')), RECONNECT_MS);
    });
    await client.connect();
    await client.query(`LISTEN ${CHANNEL}`);
    const { rows } = await client.query<{ pid: number }>('SELECT pg_backend_pid() AS pid');
    this.client = client;
    this.processId = rows[0]!.pid;
  }

  async close(): Promise<void> {
    this.closed = true;
    if (this.telling) clearTimeout(this.telling);
    await this.client?.end();
  }

  async send<T extends Topic>(topic: T, message: BusMessages[T]): Promise<void> {
    await this.sender.query('SELECT pg_notify($1, $2)', [CHANNEL, JSON.stringify({ topic, message })]);
  }

  /** Says that a device changed; many at the same time are told in one message. */
  changed(device: { readonly id: string; readonly siteId: string | null }): void {
    this.gathered.set(device.id, device.siteId);
    this.telling ??= setTimeout(() => {
      this.telling = null;
      const all = [...this.gathered];
      this.gathered.clear();
      for (let i = 0; i < all.length; i += MOST_TOLD) {
        const part = all.slice(i, i + MOST_TOLD);
        const message = {
          type: 'device' as const,
          siteIds: [...new Set(part.map(([, siteId]) => siteId))],
          deviceIds: part.map(([id]) => id),
        };
        this.send('live', message).catch((error: Error) => {
          if (!this.closed) this.log.warn({ error: error.message }, 'a change was not told');
        });
      }
    }, GATHER_MS);
  }

  /** @returns a function that stops listening. */
  on<T extends Topic>(topic: T, listener: (message: BusMessages[T]) => void): () => void {
    this.emitter.on(topic, listener);
    return () => this.emitter.off(topic, listener);
  }

  private deliver(payload: string): void {
    const { topic, message } = JSON.parse(payload) as { topic: Topic; message: unknown };
    this.emitter.emit(topic, message);
  }
}
