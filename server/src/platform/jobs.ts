import PgBoss from 'pg-boss';
import type { Logger } from 'pino';

/** Jobs that outlive a process, in PostgreSQL. */
export class Jobs {
  private readonly boss: PgBoss;

  constructor(url: string, log: Logger) {
    this.boss = new PgBoss({ connectionString: url, maintenanceIntervalSeconds: 30, max: 4 });
    this.boss.on('error', (error) => log.error({ err: error }, 'jobs'));
  }

  async open(): Promise<void> {
    await this.boss.start();
  }

  /** Lets running jobs finish for a moment; what does not is taken up at the next start. */
  async close(): Promise<void> {
    await this.boss.stop({ graceful: true, timeout: 2000, wait: true });
  }

  /** Serves a queue, one job at a time. Handlers are called again for the same job, so they look before they act. */
  async work<T extends object>(queue: string, handle: (data: T) => Promise<void>): Promise<void> {
    await this.boss.createQueue(queue, { name: queue, expireInSeconds: 600, retryLimit: 3, retryDelay: 1 });
    await this.boss.work<T>(queue, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([job]) => {
      if (job) await handle(job.data);
    });
  }

  async send(queue: string, data: object): Promise<void> {
    await this.boss.send(queue, data);
  }
}
