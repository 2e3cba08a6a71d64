import type pg from 'pg';
import { RateLimiterPostgres, type RateLimiterRes } from 'rate-limiter-flexible';
import { after, AppError } from '../platform/app-error';
import { Gate } from '../platform/gate';

/** Mails, or text messages, on their way at the same time, and how many wait. */
const [AT_ONCE, MOST_WAITING] = [4, 50];
/** Of one person in ten minutes, over all controllers. */
const [MOST_SENT, WITHIN_SECONDS] = [30, 600];

/** How much is sent: at once, and for one person. */
export class SendLimit {
  private readonly sending: Gate;
  private readonly limit: RateLimiterPostgres;

  /** @param what `mails` or `text messages`. */
  constructor(
    pool: pg.Pool,
    private readonly what: string,
    keyPrefix: string,
  ) {
    this.sending = new Gate(AT_ONCE, MOST_WAITING, () =>
      after(20, new AppError('controller.busy', `Too many ${what} are on their way. Try again in 20 s.`)),
    );
    // The table is there: signing in is limited by it too.
    const store = { storeClient: pool, storeType: 'pool', tableName: 'sign_in_limit', tableCreated: true } as const;
    this.limit = new RateLimiterPostgres({ ...store, keyPrefix, points: MOST_SENT, duration: WITHIN_SECONDS });
  }

  /** Counts one of a person. @throws AppError `mail.many`. */
  async count(personId: string): Promise<void> {
    await this.limit.consume(personId).catch((refused: RateLimiterRes | Error) => {
      if (refused instanceof Error) throw refused;
      const seconds = Math.max(1, Math.ceil(refused.msBeforeNext / 1000));
      throw after(
        seconds,
        new AppError('mail.many', `${MOST_SENT} ${this.what} in 10 minutes are enough. Try again in ${seconds} s.`),
      );
    });
  }

  /** Does it when its turn has come. @throws AppError `controller.busy`. */
  run = <T>(act: () => Promise<T>): Promise<T> => this.sending.run(act);
}
