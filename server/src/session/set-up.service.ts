import { randomUUID } from 'node:crypto';
import { checkPassword, flaw, type Flaw, type PersonView } from '@iron-lattice/core/base';
import { checkWindow } from '@iron-lattice/core/firmware';
import { isTimeZone, type SetUpRequest, type SetUpState } from '@iron-lattice/core/intake';
import type { EstatePart } from '@iron-lattice/core/intent';
import { countryByName } from '@iron-lattice/core/regulation';
import type { Sequelize } from 'sequelize';
import { Estate, PartRow } from '../intent/intent.model';
import type { DraftService } from '../intent/draft.service';
import type { IntentService } from '../intent/intent.service';
import { AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import type { SessionService } from './session.service';

/** The first start of an empty controller. */
export class SetUpService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly sessions: SessionService,
    private readonly drafts: DraftService,
    private readonly bus: Bus,
    private readonly address: () => string,
  ) {}

  async state(): Promise<SetUpState> {
    return { needed: (await Estate.count()) === 0, address: this.address() };
  }

  /**
   * Founds the estate with its first administrator; once, whoever comes second is refused.
   * @throws AppError `set-up.refused` with the flaws, `set-up.done`.
   */
  async found(wish: SetUpRequest): Promise<PersonView> {
    const flaws = check(wish);
    if (flaws.length > 0) throw new AppError('set-up.refused', flaws[0]!.message, flaws);
    const person = await changeIntent(this.database, async (transaction) => {
      if ((await Estate.count({ transaction })) > 0)
        throw new AppError('set-up.done', 'This controller has been set up already. Sign in.');
      const name = wish.estate.trim();
      const part: EstatePart = { kind: 'estate', id: randomUUID(), name, ssids: [] };
      const hash = this.intents.hash(part);
      await PartRow.bulkCreate([{ hash, body: part }], { ignoreDuplicates: true, transaction });
      const country = countryByName(wish.country)!;
      const { timeZone, window: updateWindow } = wish;
      await Estate.create({ id: part.id, name, foundingHash: hash, country, timeZone, updateWindow }, { transaction });
      const person = await this.sessions.addPerson(
        wish.name.trim(),
        wish.email.trim(),
        'administrator',
        wish.password,
        transaction,
      );
      await this.drafts.ensure(person.id, transaction);
      await note(this.database, person.id, 'estate.found', { name, country, timeZone }, transaction);
      return person.toView();
    });
    await this.bus.send('live', { type: 'site', siteId: '' });
    return person;
  }
}

function check(wish: SetUpRequest): Flaw[] {
  const flaws: Flaw[] = [];
  if (wish.estate.trim() === '') flaws.push(flaw('estate.name-empty', 'Give the estate a name.', 'estate'));
  if (countryByName(wish.country) === undefined)
    flaws.push(flaw('estate.country', `“${wish.country}” is no country we know.`, 'country'));
  if (!isTimeZone(wish.timeZone))
    flaws.push(flaw('estate.time-zone', `“${wish.timeZone}” is not a time zone, such as Europe/Lisbon.`, 'timeZone'));
  flaws.push(...checkWindow(wish.window));
  if (wish.name.trim() === '') flaws.push(flaw('person.name-empty', 'Give your name.', 'name'));
  if (!/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(wish.email.trim()))
    flaws.push(flaw('person.email', `“${wish.email}” is not a mail address.`, 'email'));
  flaws.push(...checkPassword(wish.password, [wish.name, wish.email, wish.estate]));
  return flaws;
}
