import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { PersonView, Role } from '@iron-lattice/core/base';
import { hash, verify } from '@node-rs/argon2';
import type pg from 'pg';
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { AppError } from '../platform/app-error';
import { note } from '../platform/journal';
import { Person, Session } from './person.model';

/** Whoever is signed in. */
export type Caller = PersonView;

const SESSION_MS = 12 * 3_600_000;
/** Argon2id by OWASP's lower setting: 19 MiB, two passes. */
const ARGON2 = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** People and their sessions. */
export class SessionService {
  private readonly limiter: RateLimiterPostgres;
  /** Compared against when nobody has the address, so that the answer takes as long. */
  private readonly nobody = hash(randomUUID(), ARGON2);

  constructor(
    private readonly database: Sequelize,
    pool: pg.Pool,
    signInsPerMinute: number,
    ready: (error?: Error) => void,
  ) {
    this.limiter = new RateLimiterPostgres(
      { storeClient: pool, storeType: 'pool', tableName: 'sign_in_limit', points: signInsPerMinute, duration: 60 },
      ready,
    );
  }

  /**
   * @returns the token for the cookie.
   * @throws AppError `session.wrong`, or `session.too-many` with the seconds to wait in words.
   */
  async signIn(email: string, password: string, address: string): Promise<{ token: string; person: PersonView }> {
    await this.limiter.consume(address).catch((reason: unknown) => {
      if (!(reason instanceof RateLimiterRes)) throw reason;
      const seconds = Math.ceil(reason.msBeforeNext / 1000);
      throw new AppError('session.too-many', `Too many attempts. Try again in ${seconds} s.`);
    });
    const person = await Person.findOne({ where: { email: email.trim().toLowerCase() } });
    const right = await verify(person?.passwordHash ?? (await this.nobody), password);
    if (!person || !right) throw new AppError('session.wrong', 'The address or the password is wrong.');
    const token = randomBytes(32).toString('base64url');
    await Session.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } });
    await Session.create({
      tokenHash: digest(token),
      personId: person.id,
      expiresAt: new Date(Date.now() + SESSION_MS),
    });
    await note(this.database, person.id, 'session.begin', {});
    return { token, person: person.toView() };
  }

  async signOut(token: string): Promise<void> {
    await Session.destroy({ where: { tokenHash: digest(token) } });
  }

  async find(token: string): Promise<Caller | undefined> {
    const session = await Session.findByPk(digest(token));
    if (!session || session.expiresAt < new Date()) return undefined;
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
