import { createHash } from 'node:crypto';
import type pg from 'pg';
import { RateLimiterPostgres } from 'rate-limiter-flexible';
import { after, AppError } from '../platform/app-error';

/** Attempts that fail, for one account: so many times those of an address, in so many seconds. */
const ACCOUNT = { times: 3, seconds: 900 } as const;

/** How often passwords may be guessed: by address and by account, over all controllers. Only attempts that fail count. */
export class AttemptLimits {
  private readonly byAddress: RateLimiterPostgres;
  private readonly byAccount: RateLimiterPostgres;

  /** @param failuresPerMinute attempts that may fail from one address. */
  constructor(pool: pg.Pool, failuresPerMinute: number, ready: (error?: Error) => void) {
    const store = { storeClient: pool, storeType: 'pool', tableName: 'sign_in_limit' } as const;
    this.byAddress = new RateLimiterPostgres(
      { ...store, keyPrefix: 'address', points: failuresPerMinute, duration: 60 },
      ready,
    );
    const points = failuresPerMinute * ACCOUNT.times;
    this.byAccount = new RateLimiterPostgres({
      ...store,
      tableCreated: true,
      keyPrefix: 'account',
      points,
      duration: ACCOUNT.seconds,
    });
  }

  /**
   * Makes an attempt, unless too many have failed. One that throws `session.wrong` has failed.
   * @throws AppError `session.too-many` with the seconds to wait in words.
   */
  async guard<T>(account: string, address: string, attempt: () => Promise<T>): Promise<T> {
    const limits = [
      [this.byAddress, address],
      [this.byAccount, createHash('sha256').update(account).digest('hex')],
    ] as const;
    for (const [limiter, key] of limits) {
      const used = await limiter.get(key);
      if (used === null || used.consumedPoints < limiter.points) continue;
      const seconds = Math.max(1, Math.ceil(used.msBeforeNext / 1000));
      throw after(seconds, new AppError('session.too-many', `Too many attempts failed. Try again in ${seconds} s.`));
    }
    try {
      return await attempt();
    } catch (error) {
      if (error instanceof AppError && error.code === 'session.wrong')
        for (const [limiter, key] of limits) await limiter.penalty(key);
      throw error;
    }
  }
}
