import type pg from 'pg';
import { RateLimiterPostgres } from 'rate-limiter-flexible';

/** How often something may be done of one kind: so often within so many seconds. */
export interface Limit<T> {
  readonly prefix: string;
  readonly points: number;
  readonly seconds: number;
  readonly keyOf: (of: T) => string;
}

/** Limits that are looked at together, over all controllers. */
export class Limits<T> {
  private readonly limits: readonly { readonly limiter: RateLimiterPostgres; readonly keyOf: (of: T) => string }[];

  constructor(pool: pg.Pool, limits: readonly Limit<T>[]) {
    // The table is there: signing in is limited by it too.
    const store = { storeClient: pool, storeType: 'pool', tableName: 'sign_in_limit', tableCreated: true } as const;
    this.limits = limits.map(({ prefix, points, seconds, keyOf }) => ({
      limiter: new RateLimiterPostgres({ ...store, keyPrefix: prefix, points, duration: seconds }),
      keyOf,
    }));
  }

  /** Seconds to wait until it may be done again; 0: at once. */
  async wait(of: T): Promise<number> {
    for (const { limiter, keyOf } of this.limits) {
      const used = await limiter.get(keyOf(of));
      if (used && used.consumedPoints >= limiter.points) return Math.max(1, Math.ceil(used.msBeforeNext / 1000));
    }
    return 0;
  }

  /** It was done. @returns whether a limit is reached by just this one. */
  async count(of: T): Promise<boolean> {
    let reached = false;
    for (const { limiter, keyOf } of this.limits) {
      const { consumedPoints } = await limiter.penalty(keyOf(of));
      if (consumedPoints === limiter.points) reached = true;
    }
    return reached;
  }
}
