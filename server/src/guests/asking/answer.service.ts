import { LEAST_VISIT } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { clock } from '../../platform/clock';
import { note } from '../../platform/journal';
import { oneByOne } from '../../platform/one-by-one';
import type { LivePortal, LivePortals } from '../portals-live';
import type { VisitService } from '../visit.service';
import type { AskLetters } from './ask-letters';
import type { AskLinks } from './ask-links';
import type { AskRow } from './ask-row';

/** What a link leads to. */
export type Question =
  | { readonly what: 'unknown' }
  /** The portal is not there any more. */
  | { readonly what: 'gone' }
  /** It is too late, or the guest does not ask any more. */
  | { readonly what: 'over' }
  | { readonly what: 'answered'; readonly by: string; readonly live: LivePortal }
  | { readonly what: 'open'; readonly row: AskRow; readonly live: LivePortal };

/** What came of an answer. */
export type Answered =
  | Exclude<Question, { what: 'open' }>
  | { readonly what: 'in'; readonly until: number; readonly live: LivePortal }
  | { readonly what: 'no'; readonly live: LivePortal };

/** Whoever may say yes to a guest answers, by the link of a mail alone: it is signed, for one address, right once and until its time is over. */
export class AnswerService {
  constructor(
    private readonly database: Sequelize,
    private readonly links: AskLinks,
    private readonly portals: LivePortals,
    private readonly visits: VisitService,
    private readonly letters: AskLetters,
  ) {}

  /** What a link asks of whom. */
  async open(token: string): Promise<Question> {
    const found = await this.find(token);
    return found === null ? { what: 'unknown' } : judged(found.row, await this.liveOf(found.row));
  }

  /** Answers what a link asks, once. @param minutes for how long, of a yes; what is longer than a visit lasts is as long as that. */
  async answer(token: string, yes: boolean, minutes: number): Promise<Answered> {
    const found = await this.find(token);
    if (found === null) return { what: 'unknown' };
    const { by } = found;
    const now = await this.liveOf(found.row);
    const answered = await oneByOne(() =>
      this.database.transaction(async (transaction): Promise<Answered & { row?: AskRow }> => {
        // Of two who answer at once the second reads what the first said.
        const [row] = await this.select('SELECT * FROM guest_ask WHERE id = :id FOR UPDATE', found.row.id, transaction);
        const asked: Question = row ? judged(row, now) : { what: 'unknown' };
        if (asked.what !== 'open') return asked;
        const { live } = asked;
        const { visit } = live.portal;
        const lasts = Number.isFinite(minutes) ? Math.min(visit, Math.max(LEAST_VISIT, Math.floor(minutes))) : visit;
        const until = clock.now() + lasts * 60_000;
        const { portal_id: portalId, site_id: siteId, device_id: deviceId, mac, place, language, terms } = row!;
        const { idle = null } = live.portal;
        const guest = { portalId, siteId, deviceId, mac, place, language, terms, idle };
        if (yes && !(await this.visits.letIn(guest, 'sponsor', until, row!.id, transaction))) return { what: 'gone' };
        await this.database.query(
          'UPDATE guest_ask SET state = :state, answered_at = :at, answered_by = :by WHERE id = :id',
          { replacements: { id: row!.id, state: yes ? 'yes' : 'no', at: new Date(clock.now()), by }, transaction },
        );
        const detail = { portalId, siteId, by, yes, ...(yes ? { minutes: lasts } : {}) };
        await note(this.database, null, 'guests.answer', detail, transaction, deviceId);
        if (!yes) return { what: 'no', live };
        transaction.afterCommit(() => this.visits.say([guest]));
        return { what: 'in', until, live, row: row! };
      }),
    );
    const { row, ...what } = answered;
    if (what.what === 'in' && row) await this.letters.letIn(row, by, what.until, what.live);
    return what;
  }

  private async find(token: string): Promise<{ readonly row: AskRow; readonly by: string } | null> {
    const id = this.links.idIn(token);
    const [row] = id === null ? [] : await this.select('SELECT * FROM guest_ask WHERE id = :id', id);
    const by = row ? this.links.addressOf(token, row) : null;
    return row && by !== null ? { row, by } : null;
  }

  private liveOf = ({ site_id: siteId, portal_id: portalId }: AskRow): Promise<LivePortal | undefined> =>
    this.portals.at(siteId, portalId);

  private select(sql: string, id: string, transaction?: Transaction): Promise<AskRow[]> {
    return this.database.query<AskRow>(sql, {
      replacements: { id },
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
  }
}

/** What a question is now, at its portal; undefined: that is not there any more. */
function judged(row: AskRow, live: LivePortal | undefined): Question {
  if (!live) return { what: 'gone' };
  if (row.answered_by !== null) return { what: 'answered', by: row.answered_by, live };
  if (row.state !== 'open' || row.until.getTime() <= clock.now()) return { what: 'over' };
  return { what: 'open', row, live };
}
