import { EventEmitter } from 'node:events';
import type { LiveEvent } from '@iron-lattice/core/base';
import type { CommandName, DrilledMishap, ProbeTry, SpeedTry } from '@iron-lattice/core/line';
import type pg from 'pg';
import type { Logger } from 'pino';
import { HeardClient } from './heard-client';
import { later, refuseSecond } from './held-connection';

/** What controllers of one database tell each other; stages add their own topics (declaration merging). */
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
    speed?: SpeedTry;
    octets?: string;
    mishaps?: readonly DrilledMishap[];
    busy?: readonly number[];
    /** Sealed under the command’s id: what a RADIUS server is asked with. */
    sealed?: string;
  };
  /** Whoever holds the device's line: it may stop. */
  cancel: { id: string; deviceId: string };
  /** A command was answered; the answer is a row. */
  answered: { id: string };
  /** Whoever holds the device's line: end it, the device calls again. */
  drop: { deviceId: string };
  /** Sessions that ended; whoever streams to them stops. */
  'signed-out': { tokenHash: string };
}
type Topic = keyof BusMessages;
interface Told {
  readonly topic: Topic;
  readonly message: unknown;
}
const REOPENED = Symbol('reopened');

/** Identifies our listening connections among all of the database's. */
export const LISTENER_NAME = 'iron-lattice line';
const CHANNEL = 'lattice';
/** A notification holds less than 8,000 octets (PostgreSQL, NOTIFY); what is longer lies in a row that it names. */
const MOST_OCTETS = 7900;
/** Rows of long messages are kept for as long as a receiver may take to read them. */
const KEPT_MINUTES = 5;
/** First and longest wait before the listening connection is tried again, in milliseconds; each has 50 % jitter. */
const BACK_OFF = { first: 250, longest: 10_000 } as const;
/** Changes of devices are told together when they come this close, so that ten thousand lines stay cheap. */
const GATHER_MS = 25;
/** Devices named in one message. */
const MOST_TOLD = 500;

/**
 * Carries messages between all controller processes over PostgreSQL (LISTEN/NOTIFY); every process, the sender
 * included, hears each once, in order. Lost while the connection is away: receivers treat a message as a hint to look,
 * and look when it is back.
 */
export class Bus {
  private readonly emitter = new EventEmitter().setMaxListeners(0);
  private client: pg.Client | null = null;
  private readonly gathered = new Map<string, string | null>();
  private telling: NodeJS.Timeout | null = null;
  private retry: NodeJS.Timeout | null = null;
  private closed = false;
  /** Long messages are read one after the other; short ones wait for those before them. */
  private reading: Promise<void> | null = null;
  /** Backend process id of the listening connection: unique among live controllers. */
  processId = 0;

  constructor(
    private readonly url: string,
    private readonly sender: pg.Pool,
    private readonly log: Logger,
  ) {}

  /** Begins to listen. @throws Error when the database does not answer: only a connection that stood is tried again. */
  async open(): Promise<void> {
    const client = new HeardClient({ connectionString: this.url, application_name: LISTENER_NAME });
    client.on('notification', (notice) => this.heard(notice.payload ?? ''));
    client.on('error', (error) => this.log.warn({ error: error.message }, 'bus connection lost'));
    try {
      await client.connect();
      await client.query(`LISTEN ${CHANNEL}`);
      const { rows } = await client.query<{ pid: number }>('SELECT pg_backend_pid() AS pid');
      this.processId = rows[0]!.pid;
    } catch (error) {
      void client.end().catch(() => undefined);
      throw error;
    }
    this.client = client;
    // The driver may tell the end of one connection twice.
    client.once('end', () => {
      if (this.client !== client) return;
      this.client = null;
      this.reopen(BACK_OFF.first);
    });
  }

  /** Calls when the connection is back after it was lost: whatever was told meanwhile was not heard. */
  onReopened(act: () => void): () => void {
    this.emitter.on(REOPENED, act);
    return () => this.emitter.off(REOPENED, act);
  }

  async close(): Promise<void> {
    this.closed = true;
    if (this.telling) clearTimeout(this.telling);
    if (this.retry) clearTimeout(this.retry);
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => undefined);
  }

  async send<T extends Topic>(topic: T, message: BusMessages[T]): Promise<void> {
    refuseSecond('A message');
    const text = JSON.stringify({ topic, message });
    if (Buffer.byteLength(text) <= MOST_OCTETS) {
      await this.sender.query('SELECT pg_notify($1, $2)', [CHANNEL, text]);
      return;
    }
    await this.sender.query(
      `WITH old AS (DELETE FROM bus_message WHERE at < now() - make_interval(mins => $3)),
         kept AS (INSERT INTO bus_message (body) VALUES ($2) RETURNING id)
       SELECT pg_notify($1, json_build_object('row', id)::text) FROM kept`,
      [CHANNEL, text, KEPT_MINUTES],
    );
  }

  /** Says that a device changed; many at the same time are told in one message. */
  changed(device: { readonly id: string; readonly siteId: string | null }): void {
    this.gathered.set(device.id, device.siteId);
    this.telling ??= later(GATHER_MS, () => {
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
    });
  }

  /** @returns a function that stops listening. */
  on<T extends Topic>(topic: T, listener: (message: BusMessages[T]) => void): () => void {
    this.emitter.on(topic, listener);
    return () => this.emitter.off(topic, listener);
  }

  /** One try after the other, each some time after the one before. */
  private reopen(waitMs: number): void {
    if (this.closed || this.retry) return;
    this.retry = setTimeout(
      () => {
        this.retry = null;
        this.open().then(
          () => void (this.closed ? this.close() : this.emitter.emit(REOPENED)),
          () => this.reopen(Math.min(waitMs * 2, BACK_OFF.longest)),
        );
      },
      waitMs * (1 + Math.random() / 2),
    );
  }

  private heard(payload: string): void {
    const parsed = JSON.parse(payload) as Told | { readonly row: string };
    if (!('row' in parsed) && this.reading === null) return this.deliver(parsed);
    const before = this.reading ?? Promise.resolve();
    const now = before
      .then(async () => {
        const told = 'row' in parsed ? await this.read(parsed.row) : parsed;
        if (told) this.deliver(told);
      })
      .catch((error: Error) => {
        if (!this.closed) this.log.warn({ error: error.message }, 'a message was not heard');
      })
      .finally(() => {
        if (this.reading === now) this.reading = null;
      });
    this.reading = now;
  }

  private async read(id: string): Promise<Told | null> {
    const { rows } = await this.sender.query<{ body: string }>('SELECT body FROM bus_message WHERE id = $1', [id]);
    return rows[0] ? (JSON.parse(rows[0].body) as Told) : null;
  }

  private deliver({ topic, message }: Told): void {
    this.emitter.emit(topic, message);
  }
}
