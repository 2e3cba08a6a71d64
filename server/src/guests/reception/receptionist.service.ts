import { randomFillSync } from 'node:crypto';
import { flaw, sameValue } from '@iron-lattice/core/base';
import { drawPassword } from '@iron-lattice/core/entry';
import {
  MOST_RECEPTIONIST_NAME,
  MOST_RECEPTIONISTS,
  type ReceptionistChange,
  type ReceptionistFields,
  type ReceptionistView,
} from '@iron-lattice/core/guests';
import { QueryTypes, UniqueConstraintError, type Sequelize, type Transaction } from 'sequelize';
import { AppError, unknown } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { clock } from '../../platform/clock';
import { note } from '../../platform/journal';
import { hashPassword } from '../../platform/password-hash';
import { Person } from '../../session/person.model';
import type { SessionService } from '../../session/session.service';

/** People at receptions: who they are, which sites’ guests they look after, and how they sign in. */
export class ReceptionistService {
  constructor(
    private readonly database: Sequelize,
    private readonly sessions: SessionService,
    private readonly bus: Bus,
  ) {}

  async list(): Promise<ReceptionistView[]> {
    const people = await Person.findAll({ where: { role: 'reception', goneAt: null }, order: ['name', 'email'] });
    return people.map(({ id, name, email, siteIds, seenAt }) => ({
      ...{ id, name, email, siteIds: siteIds ?? [], seenAt: seenAt?.toISOString() ?? null },
    }));
  }

  /** @returns their id and the password that was drawn for them: told this once. @throws AppError `receptionist.refused`. */
  async add(wanted: ReceptionistFields, personId: string): Promise<{ readonly id: string; readonly password: string }> {
    const fields = await this.checked(wanted);
    if ((await Person.count({ where: { role: 'reception', goneAt: null } })) >= MOST_RECEPTIONISTS)
      throw refused(`There are ${MOST_RECEPTIONISTS} people at receptions already, which is as many as there may be.`);
    const password = drawn();
    const id = await this.change(async (transaction) => {
      const person = await this.sessions.addPerson(fields.name, fields.email, 'reception', password, transaction);
      await person.update({ siteIds: [...fields.siteIds] }, { transaction });
      await note(
        this.database,
        personId,
        'receptionist.add',
        { ...fields, siteIds: fields.siteIds.length },
        transaction,
      );
      return person.id;
    });
    return { id, password };
  }

  /** @throws AppError `receptionist.changed` where somebody else was first. */
  async set(id: string, { from, to }: ReceptionistChange, personId: string): Promise<void> {
    await this.change(async (transaction) => {
      const person = await this.there(id, transaction);
      const now: ReceptionistFields = { name: person.name, email: person.email, siteIds: person.siteIds ?? [] };
      if (!sameValue({ ...now, ...from }, now))
        throw new AppError('receptionist.changed', `Somebody changed ${now.name} just now. Look at it and try again.`);
      const fields = await this.checked({ ...now, ...to }, transaction);
      await person.update(
        { ...fields, email: fields.email.toLowerCase(), siteIds: [...fields.siteIds] },
        { transaction },
      );
      await note(this.database, personId, 'receptionist.set', { id, sites: fields.siteIds.length }, transaction);
    });
  }

  /** A new password; whoever is signed in by the old one is not any more. */
  async renew(id: string, personId: string): Promise<{ readonly password: string }> {
    const password = drawn();
    const passwordHash = await hashPassword(password);
    await this.change(async (transaction) => {
      await (await this.there(id, transaction)).update({ passwordHash }, { transaction });
      await this.sessions.endAllOf(id, transaction);
      await note(this.database, personId, 'receptionist.password', { id }, transaction);
    });
    return { password };
  }

  /** Nobody signs in as them any more; the codes that they made stay. */
  async remove(id: string, personId: string): Promise<void> {
    await this.change(async (transaction) => {
      const person = await this.there(id, transaction);
      // The address is free again; a space is in none that somebody can have.
      await person.update({ goneAt: clock.date(), email: `${person.email} ${id}`, passwordHash: '' }, { transaction });
      await this.sessions.endAllOf(id, transaction);
      await note(this.database, personId, 'receptionist.remove', { id, name: person.name }, transaction);
    });
  }

  private async there(id: string, transaction: Transaction): Promise<Person> {
    const person = await Person.findOne({
      where: { id, role: 'reception', goneAt: null },
      lock: transaction.LOCK.UPDATE,
      transaction,
    });
    if (!person) throw unknown('person at a reception');
    return person;
  }

  private async change<T>(act: (transaction: Transaction) => Promise<T>): Promise<T> {
    try {
      return await this.database.transaction(async (transaction) => {
        transaction.afterCommit(() => this.bus.send('live', { type: 'receptionists' }));
        return act(transaction);
      });
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw refused('Somebody signs in by this address already.', 'email');
      throw error;
    }
  }

  /** @throws AppError `receptionist.refused` with what is wrong. */
  private async checked(
    { name, email, siteIds }: ReceptionistFields,
    transaction?: Transaction,
  ): Promise<ReceptionistFields> {
    const fields = { name: name.trim(), email: email.trim().toLowerCase(), siteIds };
    if (fields.name === '') throw refused('Give them a name.', 'name');
    if (fields.name.length > MOST_RECEPTIONIST_NAME)
      throw refused(`A name has ${MOST_RECEPTIONIST_NAME} characters at most.`, 'name');
    if (!/^[^\s@]+@[^\s@]+$/.test(fields.email))
      throw refused('Write a mail address, such as rin@skerrow.example.', 'email');
    if (siteIds.length === 0) throw refused('Choose the sites whose guests they look after.', 'siteIds');
    const known = await this.database.query(
      'SELECT id FROM site WHERE id = ANY(ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[])',
      {
        replacements: { siteIds: JSON.stringify(siteIds) },
        type: QueryTypes.SELECT,
        ...(transaction ? { transaction } : {}),
      },
    );
    if (known.length < siteIds.length) throw refused('One of these sites is gone. Choose again.', 'siteIds');
    return fields;
  }
}

const refused = (message: string, field?: string): AppError =>
  new AppError('receptionist.refused', message, [flaw('receptionist.refused', message, field)]);

const drawn = (): string => drawPassword((count) => randomFillSync(new Uint32Array(count)));
