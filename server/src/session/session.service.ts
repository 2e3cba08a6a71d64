import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { PersonView, Role } from '@iron-lattice/core/base';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { after, AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import type { Caller } from '../platform/route';
import { Gate } from '../platform/gate';
import { note } from '../platform/journal';
import { hashPassword, isPassword } from '../platform/password-hash';
import type { AttemptLimits } from './attempt-limits';
import { Person, Session } from './person.model';
import { clock } from '../platform/clock';

const SESSION_MS = 12 * 3_600_000;

/** Passwords that are checked at the same time, which costs 20 MB each, and how many wait. */
const [MOST_CHECKED, MOST_WAITING] = [2, 100];

/** People and their sessions. */
export class SessionService {
  private readonly checking = new Gate(MOST_CHECKED, MOST_WAITING, () => {
    return after(5, new AppError('controller.busy', 'Too many people sign in at the moment. Try again in 5 s.'));
  });
  /** Compared against when nobody has the address, so that the answer takes as long. */
  private readonly nobody = hashPassword(randomUUID());

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    private readonly attempts: AttemptLimits,
  ) {}

  /**
   * Only attempts that fail count, by address and by account, and are journaled.
   * @returns the token for the cookie.
   * @throws AppError `session.wrong`, or `session.too-many` with the seconds to wait in words.
   */
  signIn(email: string, password: string, address: string): Promise<{ token: string; person: PersonView }> {
    const account = email.trim().toLowerCase();
    return this.checking.run(async () => {
      const person = await this.attempts.guard(account, address, async () => {
        const found = await Person.findOne({ where: { email: account, goneAt: null } });
        const right = await isPassword(found?.passwordHash ?? (await this.nobody), password);
        if (found && right) return found;
        await note(this.database, found?.id ?? null, 'session.refused', { email: account, address });
        throw new AppError('session.wrong', 'The address or the password is wrong.');
      });
      const token = randomBytes(32).toString('base64url');
      await Session.destroy({ where: { expiresAt: { [Op.lt]: clock.date() } } });
      const expiresAt = new Date(clock.now() + SESSION_MS);
      await Session.create({ tokenHash: digest(token), personId: person.id, expiresAt });
      await person.update({ seenAt: clock.date() });
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
    const person = await Person.findByPk(session.personId);
    return person && person.goneAt === null ? person.toView() : undefined;
  }

  /** Ends every session of somebody, once what is done to them is done. */
  async endAllOf(personId: string, transaction: Transaction): Promise<void> {
    const sessions = await Session.findAll({ where: { personId }, transaction });
    await Session.destroy({ where: { personId }, transaction });
    transaction.afterCommit(async () => {
      for (const { tokenHash } of sessions) await this.bus.send('signed-out', { tokenHash });
    });
  }

  async addPerson(
    name: string,
    email: string,
    role: Role,
    password: string,
    transaction?: Transaction,
  ): Promise<Person> {
    return Person.create(
      {
        ...{ id: randomUUID(), name, email: email.toLowerCase(), role, passwordHash: await hashPassword(password) },
        ...{ siteIds: null, goneAt: null, seenAt: null },
      },
      transaction ? { transaction } : {},
    );
  }
}

const digest = (token: string): string => createHash('sha256').update(token).digest('hex');
