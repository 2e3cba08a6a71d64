import { QueryTypes, type Sequelize } from 'sequelize';
import { Recurring } from './recurring';

/** How often the clock is compared with the database's, in milliseconds. */
const COMPARE_MS = 60_000;
/** Of so many answers the quickest is believed. */
const SAMPLES = 3;

/**
 * The time that all controllers of a database agree on, whatever the clocks of their machines say: the database's. What is kept
 * for others to read, or was kept by others, is of this clock. Times that one process alone measures are of its own.
 */
export class SharedClock {
  /** By how much the database's clock is ahead of ours, in milliseconds. */
  private aheadMs = 0;

  /** Milliseconds since 1970. */
  now = (): number => Date.now() + this.aheadMs;

  date = (): Date => new Date(this.now());

  /** Compares now, and from time to time. @returns what ends that. */
  async follow(database: Sequelize, failed: (error: unknown) => void): Promise<() => Promise<void>> {
    await this.compare(database);
    const recurring = new Recurring(() => this.compare(database), COMPARE_MS, failed);
    recurring.open();
    return () => recurring.close();
  }

  private async compare(database: Sequelize): Promise<void> {
    let best = Infinity;
    for (let i = 0; i < SAMPLES; i++) {
      const asked = performance.now();
      const [row] = await database.query<{ ms: number }>(
        `SELECT (extract(epoch FROM clock_timestamp()) * 1000)::float8 AS ms`,
        { type: QueryTypes.SELECT },
      );
      const took = performance.now() - asked;
      if (took >= best) continue;
      best = took;
      this.aheadMs = Math.round(row!.ms + took / 2 - Date.now());
    }
  }
}

/** This process's. */
export const clock = new SharedClock();
