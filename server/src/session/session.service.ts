import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { PersonView, Role } from '@iron-lattice/core/base';
import { hash, verify } from '@node-rs/argon2';
import type pg from 'pg';
import { RateLimiterPostgres } from 'rate-limiter-flexible';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { after, AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import type { Caller } from '../platform/route';
import { Gate } from '../platform/gate';
import { note } from '../platform/journal';
import { Person, Session } from './person.model';
import { clock } from '../platform/clock';

const SESSION_MS = 12 * 3_600_000;
/** Argon2id by OWASP's lower setting: 19 MiB, two passes. */
const ARGON2 = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** Attempts that fail, for one account: so many times those of an address, in so many seconds. */
const ACCOUNT = { times: 3, seconds: 900 } as const;
/** Passwords that are checked at the same time, which costs 20 MB each, and how many wait. */
const [MOST_CHECKED, MOST_WAITING] = [2, 100];

/** People and their sessions. */
export class SessionService {
  private readonly byAddress: RateLimiterPostgres;
  private readonly byAccount: RateLimiterPostgres;
  private readonly checking = new Gate(MOST_CHECKED, MOST_WAITING, () => {
    return after(5, new AppError('controller.busy', 'Too many people sign in at the moment. Try again in 5 s.'));
  });
  /** Compared against when nobody has the address, so that the answer takes as long. */
  private readonly nobody = hash(randomUUID(), ARGON2);

  /** @param failuresPerMinute attempts that may fail from one address. */
  constructor(
    private readonly database: Sequelize,
    pool: pg.Pool,
    private readonly bus: Bus,
    failuresPerMinute: number,
    ready: (error?: Error) => void,
  ) {
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
   * Only attempts that fail count, by address and by account, and are journaled.
   * @returns the token for the cookie.
   * @throws AppError `session.wrong`, or `session.too-many` with the seconds to wait in words.
   */
  signIn(email: string, password: string, address: string): Promise<{ token: string; person: PersonView }> {
    const account = email.trim().toLowerCase();
    return this.checking.run(async () => {
      const limits = [
        [this.byAddress, address],
        [this.byAccount, digest(account)],
      ] as const;
      for (const [limiter, key] of limits) {
        const used = await limiter.get(key);
        if (used === null || used.consumedPoints < limiter.points) continue;
        const seconds = Math.max(1, Math.ceil(used.msBeforeNext / 1000));
        throw after(seconds, new AppError('session.too-many', `Too many attempts failed. Try again in ${seconds} s.`));
      }
      const person = await Person.findOne({ where: { email: account } });
      const right = await verify(person?.passwordHash ?? (await this.nobody), password);
      if (!person || !right) {
        for (const [limiter, key] of limits) await limiter.penalty(key);
        await note(this.database, person?.id ?? null, 'session.refused', { email: account, address });
        throw new AppError('session.wrong', 'The address or the password is wrong.');
      }
      const token = randomBytes(32).toString('base64url');
      await Session.destroy({ where: { expiresAt: { [Op.lt]: clock.date() } } });
      const expiresAt = new Date(clock.now() + SESSION_MS);
      await Session.create({ tokenHash: digest(token), personId: person.id, expiresAt });
      await note(this.database, person.id, 'session.begin', {});
      return { token, person: person.toView() };
    });
  }

  async signOut(token: string): Promise<void> {
    const tokenHash = digest(token);
    await Session.destroy({ where: { tokenHash } });
    await this.bus.send('signed-out', { tokenHash });
  }

  /** Names a session without giving it away. */
  hashOf(token: string): string {
    return digest(token);
  }

  /** Whether a session is neither over nor ended. */
  async lives(tokenHash: string): Promise<boolean> {
    const session = await Session.findByPk(tokenHash);
    return session !== null && session.expiresAt >= clock.date();
  }

  async find(token: string): Promise<Caller | undefined> {
    const session = await Session.findByPk(digest(token));
    if (!session || session.expiresAt < clock.date()) return undefined;
    return (await Person.findByPk(session.personId))?.toView();
  }

  async addPerson(
    name: string,
    email: string,
    role: Role,
    password: string,
    transaction?: Transaction,
  ): Promise<Person> {
    return Person.create(
      { id: randomUUID(), name, email: email.toLowerCase(), role, passwordHash: await hash(password, ARGON2) },
      transaction ? { transaction } : {},
    );
  }
}

const digest = (token: string): string => createHash('sha256').update(token).digest('hex');
