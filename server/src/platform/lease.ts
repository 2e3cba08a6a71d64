import type pg from 'pg';
import type { Logger } from 'pino';
import { HeardClient } from './heard-client';

/**
 * What only one process of all may do at a time. The lock is PostgreSQL's and ends with the connection, which is one of
 * our own: it is taken from no pool that others wait for, and it may be lost at any time.
 */
export class Lease {
  private client: pg.Client | null = null;
  private lost = new AbortController();

  /** @param key of the advisory lock; unlike all others of this database. */
  constructor(
    private readonly url: string,
    private readonly key: number,
    private readonly log: Logger,
  ) {}

  /**
   * Does the work if nobody else does it now.
   * @param work is given a signal that says when the lease was lost: somebody else may have begun then.
   * @returns whether it was done.
   */
  async run(work: (lost: AbortSignal) => Promise<void>): Promise<boolean> {
    const client = await this.connected();
    const { rows } = await client.query<{ got: boolean }>('SELECT pg_try_advisory_lock($1) AS got', [this.key]);
    if (!rows[0]!.got) return false;
    const { lost } = this;
    try {
      await work(lost.signal);
      return true;
    } finally {
      if (!lost.signal.aborted)
        await client.query('SELECT pg_advisory_unlock($1)', [this.key]).catch(() => this.drop(client, lost));
    }
  }

  async close(): Promise<void> {
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => undefined);
  }

  private async connected(): Promise<pg.Client> {
    if (this.client) return this.client;
    const client = new HeardClient({ connectionString: this.url, application_name: 'iron-lattice lease' });
    const lost = new AbortController();
    const gone = (): void => this.drop(client, lost);
    client.on('error', (error) => {
      this.log.warn({ error: error.message }, 'lease lost');
      gone();
    });
    client.on('end', gone);
    await client.connect();
    this.client = client;
    this.lost = lost;
    return client;
  }

  private drop(client: pg.Client, lost: AbortController): void {
    lost.abort();
    if (this.client !== client) return;
    this.client = null;
    void client.end().catch(() => undefined);
  }
}
