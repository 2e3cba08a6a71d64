import { randomInt, randomUUID, timingSafeEqual } from 'node:crypto';
import {
  CODE_DIGITS,
  CODE_MINUTES,
  isNobody,
  maySponsor,
  MOST_WRONG,
  NO_SPONSORS,
  readContact,
  readPhone,
  readSaid,
  saidFlaw,
  textsOf,
  filled,
  type AskedWay,
  type AskField,
  type Contact,
  type Language,
  type Said,
} from '@iron-lattice/core/guests';
import { isMailAddress } from '@iron-lattice/core/base';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { SecretService } from '../../intent/secret.service';
import { clock } from '../../platform/clock';
import { oneByOne } from '../../platform/one-by-one';
import type { LivePortal } from '../portals-live';
import type { Limits } from '../portal/limits';
import type { Seat } from '../portal/seat.service';
import type { Guest, VisitService } from '../visit.service';
import type { AskLetters } from './ask-letters';
import type { AskRow } from './ask-row';

/** Within which first minutes are given once, in milliseconds. */
const ONCE_MS = 24 * 3_600_000;
/** How long an answer is shown to a guest who was not let in, in milliseconds. */
const SHOWN_MS = 24 * 3_600_000;

/** What a guest filled in. */
export type Filled = Readonly<Record<AskField | 'to' | 'whom' | 'group', string>>;

/** How often guests may ask. */
export interface AskLimiters {
  readonly asks: Limits<Pick<Seat, 'mac' | 'deviceId' | 'portalId'>>;
  readonly tries: Limits<Pick<Seat, 'mac' | 'deviceId' | 'portalId'>>;
  readonly contacts: Limits<string>;
  readonly sponsors: Limits<string>;
}

/** What is waited for at a guest’s page. */
export type Pending =
  | { readonly what: 'code'; readonly to: string; readonly until: number; readonly first: boolean }
  | { readonly what: 'answer'; readonly who: string; readonly until: number }
  | { readonly what: 'no' }
  /** A code, or an answer, that did not come in time. */
  | { readonly what: 'late'; readonly way: AskedWay };

/** What was read of a guest’s form; what does not do is told in its language. */
type Read =
  | { readonly ok: false; readonly flaw: string }
  | {
      readonly ok: true;
      readonly contact: Contact | null;
      readonly said: Said;
      readonly whom: string | null;
      readonly sponsors: readonly string[];
    };

/** Guests who say who they are: a code is sent to them, or somebody is asked about them. */
export class AskService {
  constructor(
    private readonly database: Sequelize,
    private readonly secrets: Pick<SecretService, 'print'>,
    private readonly visits: VisitService,
    private readonly letters: AskLetters,
    private readonly limits: AskLimiters,
  ) {}

  /** What a guest waits for, or was told last; null: nothing. */
  async pending({ portalId, mac }: Pick<Guest, 'portalId' | 'mac'>): Promise<Pending | null> {
    const now = clock.now();
    const [row] = await this.select<AskRow>(
      `SELECT * FROM guest_ask WHERE portal_id = :portalId AND mac = :mac AND at > :since ORDER BY at DESC LIMIT 1`,
      { portalId, mac, since: new Date(now - SHOWN_MS) },
    );
    if (!row || row.state === 'left' || row.state === 'yes') return null;
    if (row.state === 'no') return { what: 'no' };
    const until = row.until.getTime();
    if (until <= now || row.wrong >= MOST_WRONG) return { what: 'late', way: row.way };
    return row.way === 'sponsor'
      ? { what: 'answer', who: row.whom ?? '', until }
      : { what: 'code', to: row.contact ?? '', until, first: row.first };
  }

  /** Takes what a guest filled in, and sends what has to be. @returns why it does not do, in its language; null: it was sent. */
  async ask(guest: Guest, live: LivePortal, way: AskedWay, typed: Filled): Promise<string | null> {
    const texts = textsOf(guest.language as Language);
    const seconds = await this.limits.asks.wait(guest);
    if (seconds > 0) return filled(texts.askedOften, { minutes: String(Math.ceil(seconds / 60)) });
    const read = this.read(live, way, typed, guest.language as Language);
    // Whoever tries addresses to see which may say yes is slowed by that too.
    if (!read.ok) {
      if (way === 'sponsor' && typed.whom !== '') await this.limits.asks.count(guest);
      return read.flaw;
    }
    const late = await this.addressWait(read.sponsors, read.contact, way);
    if (late > 0) return filled(texts.askedOften, { minutes: String(Math.ceil(late / 60)) });
    await this.limits.asks.count(guest);
    const row = await oneByOne(() => this.keep(guest, live, way, read));
    return (await this.send(row.row, row.code, live)) ? null : texts.notSent;
  }

  /** Sends another code for what a guest said before. @returns why not; null: it was sent, or nothing is waited for. */
  async again(guest: Guest, live: LivePortal): Promise<string | null> {
    const texts = textsOf(guest.language as Language);
    const [open] = await this.select<AskRow>(
      `SELECT * FROM guest_ask WHERE portal_id = :portalId AND mac = :mac AND state = 'open' AND way IN ('mail', 'phone')`,
      { portalId: guest.portalId, mac: guest.mac },
    );
    if (!open) return null;
    const seconds = Math.max(
      await this.limits.asks.wait(guest),
      await this.addressWait([], { by: open.contact_by!, to: open.contact! }, open.way),
    );
    if (seconds > 0) return filled(texts.askedOften, { minutes: String(Math.ceil(seconds / 60)) });
    await this.limits.asks.count(guest);
    const code = drawn();
    const [row] = await this.select<AskRow>(
      `UPDATE guest_ask SET print = :print, wrong = 0, until = :until WHERE id = :id AND state = 'open' RETURNING *`,
      { id: open.id, print: this.printOf(open.id, code), until: new Date(clock.now() + CODE_MINUTES * 60_000) },
    );
    if (!row) return null;
    return (await this.send(row, code, live)) ? null : texts.notSent;
  }

  /** Lets a guest in who gives the code that was sent. @returns why not, in its language; null: it is in, or waits for nothing. */
  async confirm(guest: Guest, live: LivePortal, typed: string): Promise<string | null> {
    const texts = textsOf(guest.language as Language);
    const seconds = await this.limits.tries.wait(guest);
    if (seconds > 0) return filled(texts.tooMany, { seconds: String(seconds) });
    const now = clock.now();
    const what = await oneByOne(() =>
      this.database.transaction(async (transaction) => {
        const [row] = await this.select<AskRow>(
          `SELECT * FROM guest_ask WHERE portal_id = :portalId AND mac = :mac AND state = 'open' AND way IN ('mail', 'phone') FOR UPDATE`,
          { portalId: guest.portalId, mac: guest.mac },
          transaction,
        );
        if (!row) return 'nothing';
        if (row.until.getTime() <= now || row.wrong >= MOST_WRONG) return 'spent';
        if (!this.isRight(row, typed)) {
          await this.run('UPDATE guest_ask SET wrong = wrong + 1 WHERE id = :id', { id: row.id }, transaction);
          return 'wrong';
        }
        await this.run(
          `UPDATE guest_ask SET state = 'yes', answered_at = :at WHERE id = :id`,
          { id: row.id, at: new Date(now) },
          transaction,
        );
        const visit = live.portal.visit * 60_000;
        if (!(await this.visits.prolong(row.id, visit, transaction)))
          await this.visits.letIn(guest, row.way, now + visit, row.id, transaction);
        return 'in';
      }),
    );
    if (what === 'wrong') {
      await this.limits.tries.count(guest);
      return texts.codeWrong;
    }
    if (what === 'spent') return texts.codeSpent;
    if (what === 'in') this.visits.say([guest]);
    return null;
  }

  /** Has nothing waited for any more. A visit for first minutes goes on to its end. */
  async leave({ portalId, mac }: Pick<Guest, 'portalId' | 'mac'>): Promise<void> {
    await this.run(
      `UPDATE guest_ask SET state = 'left' WHERE portal_id = :portalId AND mac = :mac AND state IN ('open', 'no')`,
      { portalId, mac },
    );
  }

  private read(live: LivePortal, way: AskedWay, typed: Filled, language: Language): Read {
    const texts = textsOf(language);
    const { asks, sponsors: may } = live.portal;
    const read = readSaid(asks ?? {}, typed);
    if (!read.ok) return { ok: false, flaw: saidFlaw(texts, read.field, read.why) };
    const { said } = read;
    const to = typed.to.trim();
    if (way === 'mail')
      return isMailAddress(to)
        ? { ok: true, contact: { by: 'mail', to }, said, whom: null, sponsors: [] }
        : { ok: false, flaw: texts.mailWrong };
    if (way === 'phone') {
      const phone = readPhone(to);
      return phone === null
        ? { ok: false, flaw: texts.phoneWrong }
        : { ok: true, contact: { by: 'phone', to: phone }, said, whom: null, sponsors: [] };
    }
    const contact = to === '' ? null : readContact(to);
    if (to !== '' && contact === null) return { ok: false, flaw: `${texts.mailWrong} ${texts.phoneWrong}` };
    const sponsors = may ?? NO_SPONSORS;
    const group = typed.group === '' ? undefined : sponsors.groups.find(({ name }) => name === typed.group);
    if (group) return { ok: true, contact, said, whom: group.name, sponsors: group.people };
    const whom = typed.whom.trim();
    if (isNobody(sponsors) || !isMailAddress(whom) || !maySponsor(sponsors, whom))
      return { ok: false, flaw: texts.sponsorWrong };
    return { ok: true, contact, said, whom, sponsors: [whom] };
  }

  /** Seconds until something may be sent to these again. */
  private async addressWait(sponsors: readonly string[], contact: Contact | null, way: AskedWay): Promise<number> {
    if (way !== 'sponsor') return contact ? this.limits.contacts.wait(contact.to) : 0;
    const waits = await Promise.all(sponsors.map((each) => this.limits.sponsors.wait(each)));
    return Math.min(...waits); // of a group, one that may be asked is enough
  }

  /** Keeps what a guest said; what it waited for before is left. Who may have first minutes is let in at once. */
  private async keep(
    guest: Guest,
    { portal }: LivePortal,
    way: AskedWay,
    { contact, said, whom, sponsors }: Extract<Read, { ok: true }>,
  ): Promise<{ readonly row: AskRow; readonly code: string }> {
    const now = clock.now();
    const id = randomUUID();
    const code = drawn();
    const within = way === 'sponsor' ? (portal.sponsors ?? NO_SPONSORS).within : CODE_MINUTES;
    return this.database.transaction(async (transaction) => {
      await this.run(
        `UPDATE guest_ask SET state = 'left' WHERE portal_id = :portalId AND mac = :mac AND state = 'open'`,
        { portalId: guest.portalId, mac: guest.mac },
        transaction,
      );
      const first = way !== 'sponsor' && portal.first ? await this.mayBegin(guest, contact!.to, transaction) : false;
      const [row] = await this.select<AskRow>(
        `INSERT INTO guest_ask (id, portal_id, site_id, device_id, place, mac, way, language, terms, contact, contact_by, said, whom, sponsors,
           print, first, at, until)
         VALUES (:id, :portalId, :siteId, :deviceId, :place, :mac, :way, :language, :terms, :contact, :by, :said, :whom,
           ARRAY(SELECT jsonb_array_elements_text(:sponsors::jsonb)), :print, :first, :at, :until) RETURNING *`,
        {
          ...{ ...guest, id, way, first, whom, contact: contact?.to ?? null, by: contact?.by ?? null },
          ...{ said: JSON.stringify(said), sponsors: JSON.stringify(sponsors), at: new Date(now) },
          ...{ print: way === 'sponsor' ? null : this.printOf(id, code), until: new Date(now + within * 60_000) },
        },
        transaction,
      );
      if (first) {
        await this.visits.letIn(guest, way, now + portal.first! * 60_000, id, transaction);
        transaction.afterCommit(() => this.visits.say([guest]));
      }
      return { row: row!, code };
    });
  }

  /** Whether somebody may be let in before the address is known to be theirs: once a day, by device and by address. */
  private async mayBegin({ portalId, mac }: Guest, contact: string, transaction: Transaction): Promise<boolean> {
    const [had] = await this.select<{ id: string }>(
      `SELECT id FROM guest_ask WHERE portal_id = :portalId AND (mac = :mac OR lower(contact) = :contact) AND first AND at > :since LIMIT 1`,
      { portalId, mac, contact: contact.toLowerCase(), since: new Date(clock.now() - ONCE_MS) },
      transaction,
    );
    return had === undefined;
  }

  /** Sends what has to be. What nobody took is left, so that another way may be chosen. */
  private async send(row: AskRow, code: string, live: LivePortal): Promise<boolean> {
    const sent =
      row.way === 'sponsor' ? await this.letters.question(row, live) : await this.letters.code(row, code, live);
    if (!sent.ok) {
      await this.run(`UPDATE guest_ask SET state = 'left' WHERE id = :id AND state = 'open'`, { id: row.id });
      return false;
    }
    if (row.way === 'sponsor') for (const each of row.sponsors) await this.limits.sponsors.count(each);
    else await this.limits.contacts.count(row.contact!);
    return true;
  }

  private isRight({ id, print }: AskRow, typed: string): boolean {
    const [given, right] = [Buffer.from(this.printOf(id, typed.replace(/[\s-]/g, ''))), Buffer.from(print ?? '')];
    return given.length === right.length && timingSafeEqual(given, right);
  }

  private printOf = (id: string, code: string): string => this.secrets.print(`guest code ${id}`, code);

  private async run(sql: string, replacements: Record<string, unknown>, transaction?: Transaction): Promise<void> {
    await this.database.query(sql, { replacements, ...(transaction ? { transaction } : {}) });
  }

  private select<T extends object>(
    sql: string,
    replacements: Record<string, unknown>,
    transaction?: Transaction,
  ): Promise<T[]> {
    return this.database.query<T>(sql, {
      replacements,
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
  }
}

/** A code of digits, drawn evenly. */
const drawn = (): string => String(randomInt(10 ** CODE_DIGITS)).padStart(CODE_DIGITS, '0');
