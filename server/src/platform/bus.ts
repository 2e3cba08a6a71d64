import { EventEmitter } from 'node:events';
import type { LiveEvent } from '@iron-lattice/core/base';
import pg from 'pg';
import type { Logger } from 'pino';

/** What controllers of one database tell each other. */
export interface BusMessages {
  /** Something people may be looking at changed. */
  live: LiveEvent;
  /** Whoever holds the device's line: bring it into step. */
  sync: { deviceId: string };
  /** Whoever holds the device's line: it may keep the document. */
  keep: { deviceId: string; hash: string };
  /** Whoever holds lines of these devices: see which still answer. */
  probe: { token: string; deviceIds: string[]; withinMs: number };
  probed: { token: string; deviceIds: string[] };
  command: { id: string; deviceId: string; name: 'locate' | 'ping'; target: string };
  answer: { id: string; ok: boolean; text: string };
}
type Topic = keyof BusMessages;

/** Identifies our listening connections among all of the database's. */
export const LISTENER_NAME = 'iron-lattice line';
const CHANNEL = 'lattice';
const RECONNECT_MS = 500;

/**
 * Carries messages between all controller processes over PostgreSQL (LISTEN/NOTIFY); every process, the sender
 * included, hears each once. Lost while the connection is away: receivers treat a message as a hint to look.
 */
export class Bus {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private client: pg.Client | null = null;
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
    await this.client?.end();
  }

  async send<T extends Topic>(topic: T, message: BusMessages[T]): Promise<void> {
    await this.sender.query('SELECT pg_notify($1, $2)', [CHANNEL, JSON.stringify({ topic, message })]);
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
