import {
  codeAnswer,
  daysToGuess,
  isCode,
  MOST_CODE_DEVICES,
  MOST_CODE_NAME,
  MOST_CODES,
  plainCode,
  safeLength,
  type CodeView,
  type CodesView,
  type DeskCode,
  type ListedCode,
  type NewCodes,
} from '@iron-lattice/core/guests';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import { note } from '../platform/journal';
import { MOST_VISIT } from '@iron-lattice/core/intent';
import { codePrint, keepCodes, refused, type MadeCode } from './keep-codes';

interface CodeRow {
  readonly id: string;
  readonly portal_id: string;
  readonly hint: string;
  readonly name: string;
  readonly runs: 'made' | 'used';
  readonly seconds: number;
  readonly use_by: Date | null;
  readonly most: number | null;
  readonly site_ids: string[] | null;
  readonly made_at: Date;
  readonly used_at: Date | null;
  readonly revoked_at: Date | null;
}

/** Sites of `:siteIds`, a list as JSON; none where it is null. */
const SITE_IDS = `CASE WHEN :siteIds::jsonb = 'null' THEN NULL ELSE ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[] END`;

type ListedRow = CodeRow & { readonly by: string; readonly devices: readonly string[] };
const LISTED = `SELECT c.id, c.portal_id, c.hint, c.name, c.runs, c.seconds, c.use_by, c.most, c.site_ids, c.made_at, c.used_at, c.revoked_at,
  p.name AS by, ARRAY(SELECT mac FROM visit_code_device d WHERE d.code_id = c.id ORDER BY first_at LIMIT 20) AS devices
  FROM visit_code c JOIN person p ON p.id = c.person_id`;

/** What came of a code that a guest gave. */
export type Redeemed =
  | { readonly ok: true; readonly codeId: string; readonly until: number }
  | { readonly ok: false; readonly why: 'wrong' | 'over' | 'devices' };

/** Visit codes: drawn at random, kept as a print that they are recognised by and sealed for who has to print them again. */
export class CodeService {
  constructor(
    readonly database: Sequelize,
    readonly secrets: SecretService,
    private readonly bus: Bus,
  ) {}

  /** Makes codes, all or none. @returns them with themselves. @throws AppError `code.refused`. */
  async make(asked: NewCodes, personId: string): Promise<MadeCode[]> {
    const { portalId, count, code, minutes, most, useBy, siteIds, runs } = asked;
    const name = asked.name.trim();
    if (name.length > MOST_CODE_NAME)
      throw refused(`What a code is for has ${MOST_CODE_NAME} characters at most.`, 'name');
    if (minutes > MOST_VISIT) throw refused('A code lasts 31 days at most.', 'minutes');
    if (most !== null && (most < 1 || most > MOST_CODE_DEVICES))
      throw refused(`From 1 to ${MOST_CODE_DEVICES} devices, or any number.`, 'most');
    if (useBy !== null && Date.parse(useBy) <= clock.now()) throw refused('That moment is past already.', 'useBy');
    const chosen = code === undefined ? null : plainCode(code);
    if (chosen !== null && (count !== 1 || !isCode(chosen)))
      throw refused('A code of your own has 6 to 16 of A–Z and 2–9, none of I, L, O, U, 0 and 1.', 'code');
    return this.database.transaction(async (transaction) => {
      await this.sitesAreThere(siteIds, transaction);
      const nameOf = (at: number): string => (count === 1 ? name : `${name} ${at + 1}`.trim());
      const wanted = Array.from({ length: count }, (_, at) => ({
        ...{ name: nameOf(at), code: chosen, runs, minutes, useBy, most, siteIds },
      }));
      const made = await keepCodes(this, portalId, wanted, asked.length ?? null, personId, transaction);
      await note(this.database, personId, 'guests.codes-make', { portalId, count, name }, transaction);
      await this.tell(portalId, transaction);
      return made;
    });
  }

  /** Makes the codes of a list, all or none. @returns them with themselves. @throws AppError `code.refused`. */
  async makeListed(portalId: string, codes: readonly ListedCode[], personId: string): Promise<MadeCode[]> {
    return this.database.transaction(async (transaction) => {
      await this.sitesAreThere([...new Set(codes.flatMap(({ siteIds }) => siteIds ?? []))], transaction);
      const wanted = codes.map((code) => ({ ...code, runs: 'used' as const }));
      const made = await keepCodes(this, portalId, wanted, null, personId, transaction);
      await note(
        this.database,
        personId,
        'guests.codes-make',
        { portalId, count: codes.length, name: '' },
        transaction,
      );
      await this.tell(portalId, transaction);
      return made;
    });
  }

  /** Those of some codes that a portal has already. */
  async taken(portalId: string, codes: readonly string[]): Promise<ReadonlySet<string>> {
    const prints = new Map(codes.map((code) => [codePrint(this.secrets, portalId, code), code]));
    const rows = await this.select<{ print: string }>(
      `SELECT print FROM visit_code WHERE portal_id = :portalId AND print IN (SELECT jsonb_array_elements_text(:prints::jsonb))`,
      { portalId, prints: JSON.stringify([...prints.keys()]) },
    );
    return new Set(rows.map(({ print }) => prints.get(print)!));
  }

  /** Codes that open one of some sites, the latest first, without themselves. */
  async listAt(siteIds: readonly string[], most: number): Promise<DeskCode[]> {
    const now = clock.now();
    const rows = await this.select<ListedRow>(
      `${LISTED} WHERE c.site_ids IS NULL OR c.site_ids && ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[]
       ORDER BY c.made_at DESC, c.name LIMIT :most`,
      { siteIds: JSON.stringify(siteIds), most },
    );
    const own = ({ site_ids: opened }: CodeRow): boolean => opened?.every((id) => siteIds.includes(id)) ?? false;
    return rows.map((row) => ({ ...viewOf(row, now), portalId: row.portal_id, own: own(row) }));
  }

  /** How many of some codes open none but some sites. */
  async within(ids: readonly string[], siteIds: readonly string[]): Promise<number> {
    const [row] = await this.select<{ count: number }>(
      `SELECT count(*)::int AS count FROM visit_code WHERE id = ANY(ARRAY[:ids]::uuid[])
       AND site_ids <@ ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[]`,
      { ids: [...ids], siteIds: JSON.stringify(siteIds) },
    );
    return row!.count;
  }

  /** Codes of a portal, the latest first, without themselves. */
  async list(portalId: string): Promise<Omit<CodesView, 'portalUrl'>> {
    const now = clock.now();
    const rows = await this.select<ListedRow>(
      `${LISTED} WHERE c.portal_id = :portalId ORDER BY c.made_at DESC, c.name LIMIT ${MOST_CODES}`,
      { portalId },
    );
    const codes = rows.map((row) => viewOf(row, now));
    const right = codes.filter(({ state }) => state === 'unused' || state === 'used').length;
    const [shortest = safeLength(1)] = await this.shortest(portalId);
    return { portalId, codes, daysToGuess: daysToGuess(shortest, right) };
  }

  /** Codes themselves, by id; noted. */
  async reveal(ids: readonly string[], personId: string): Promise<Record<string, string>> {
    const rows = await this.select<{ id: string; sealed: Buffer }>(
      'SELECT id, sealed FROM visit_code WHERE id = ANY(ARRAY[:ids]::uuid[])',
      { ids: [...ids] },
    );
    await note(this.database, personId, 'guests.codes-reveal', { count: rows.length });
    return Object.fromEntries(rows.map(({ id, sealed }) => [id, this.secrets.unseal(id, sealed)]));
  }

  /** Takes codes back, or brings them back. Visits that began with one end with it. @returns guests whose visits changed. */
  async revoke(ids: readonly string[], on: boolean, personId: string): Promise<{ portalId: string; mac: string }[]> {
    return this.database.transaction(async (transaction) => {
      const rows = await this.select<{ id: string; portal_id: string }>(
        `UPDATE visit_code SET revoked_at = ${on ? 'now()' : 'NULL'} WHERE id = ANY(ARRAY[:ids]::uuid[])
         AND revoked_at IS ${on ? 'NULL' : 'NOT NULL'} RETURNING id, portal_id`,
        { ids: [...ids] },
        transaction,
      );
      const ended =
        on && rows.length > 0
          ? await this.select<{ portal_id: string; mac: string }>(
              `UPDATE visit SET ended_at = now(), ended_by = :personId WHERE code_id = ANY(ARRAY[:ids]::uuid[]) AND ended_at IS NULL
               RETURNING portal_id, mac`,
              { ids: rows.map(({ id }) => id), personId },
              transaction,
            )
          : [];
      await note(
        this.database,
        personId,
        on ? 'guests.codes-revoke' : 'guests.codes-restore',
        { count: rows.length },
        transaction,
      );
      for (const portalId of new Set(rows.map(({ portal_id }) => portal_id))) await this.tell(portalId, transaction);
      return ended.map(({ portal_id: portalId, mac }) => ({ portalId, mac }));
    });
  }

  /** How many visits that began with a code go on, by site. */
  openVisits(id: string): Promise<{ readonly siteId: string; readonly count: number }[]> {
    return this.select<{ siteId: string; count: number }>(
      `SELECT site_id AS "siteId", count(*)::int AS count FROM visit WHERE code_id = :id AND ended_at IS NULL AND until > now() GROUP BY site_id`,
      { id },
    );
  }

  /** Has codes open other sites. Visits that began with one where it opens nothing any more end. @returns guests whose visits changed. @throws AppError */
  async move(
    ids: readonly string[],
    siteIds: readonly string[] | null,
    personId: string,
  ): Promise<{ portalId: string; mac: string }[]> {
    return this.database.transaction(async (transaction) => {
      await this.sitesAreThere(siteIds, transaction);
      const of = { ids: [...ids], siteIds: JSON.stringify(siteIds) };
      const rows = await this.select<{ id: string; portal_id: string }>(
        `UPDATE visit_code SET site_ids = ${SITE_IDS} WHERE id = ANY(ARRAY[:ids]::uuid[]) AND revoked_at IS NULL RETURNING id, portal_id`,
        of,
        transaction,
      );
      const ended = await this.select<{ portal_id: string; mac: string }>(
        `UPDATE visit v SET ended_at = now(), ended_by = :personId FROM visit_code c WHERE c.id = v.code_id AND c.id = ANY(ARRAY[:ids]::uuid[])
           AND v.ended_at IS NULL AND c.site_ids IS NOT NULL AND NOT v.site_id = ANY(c.site_ids) RETURNING v.portal_id, v.mac`,
        { ...of, personId },
        transaction,
      );
      await note(this.database, personId, 'guests.codes-move', { count: rows.length, siteIds }, transaction);
      for (const portalId of new Set(rows.map(({ portal_id }) => portal_id))) await this.tell(portalId, transaction);
      return ended.map(({ portal_id: portalId, mac }) => ({ portalId, mac }));
    });
  }

  /** @throws AppError `code.refused` where a site is gone. */
  private async sitesAreThere(siteIds: readonly string[] | null, transaction: Transaction): Promise<void> {
    const sites = await this.select(
      'SELECT id FROM site WHERE id = ANY(ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[])',
      { siteIds: JSON.stringify(siteIds ?? []) },
      transaction,
    );
    if (sites.length < (siteIds?.length ?? 0)) throw refused('One of these sites is gone. Choose again.', 'siteIds');
  }

  /** Has codes last longer, and the visits that began with them. @returns guests whose visits changed. */
  async extend(
    ids: readonly string[],
    minutes: number,
    personId: string,
  ): Promise<{ portalId: string; mac: string }[]> {
    return this.database.transaction(async (transaction) => {
      const rows = await this.select<{ id: string; portal_id: string }>(
        `UPDATE visit_code SET seconds = LEAST(seconds + :seconds, :most) WHERE id = ANY(ARRAY[:ids]::uuid[]) AND revoked_at IS NULL
         RETURNING id, portal_id`,
        { ids: [...ids], seconds: minutes * 60, most: MOST_VISIT * 60 },
        transaction,
      );
      const longer =
        rows.length === 0
          ? []
          : await this.select<{ portal_id: string; mac: string }>(
              `UPDATE visit v SET until = (CASE WHEN c.runs = 'made' THEN c.made_at ELSE c.used_at END) + c.seconds * interval '1 second'
               FROM visit_code c WHERE c.id = v.code_id AND c.id = ANY(ARRAY[:ids]::uuid[]) AND v.ended_at IS NULL RETURNING v.portal_id, v.mac`,
              { ids: rows.map(({ id }) => id) },
              transaction,
            );
      await note(this.database, personId, 'guests.codes-extend', { count: rows.length, minutes }, transaction);
      for (const portalId of new Set(rows.map(({ portal_id }) => portal_id))) await this.tell(portalId, transaction);
      return longer.map(({ portal_id: portalId, mac }) => ({ portalId, mac }));
    });
  }

  /** Gives a device a place of a code, if it has one: who comes at the same time waits for it. */
  async redeem(
    portalId: string,
    typed: string,
    { mac, siteId }: { readonly mac: string; readonly siteId: string },
    transaction: Transaction,
  ): Promise<Redeemed> {
    const code = plainCode(typed);
    if (!isCode(code)) return { ok: false, why: 'wrong' };
    const [row] = await this.select<CodeRow>(
      'SELECT * FROM visit_code WHERE portal_id = :portalId AND print = :print FOR UPDATE',
      { portalId, print: codePrint(this.secrets, portalId, code) },
      transaction,
    );
    if (!row || (row.site_ids && !row.site_ids.includes(siteId))) return { ok: false, why: 'wrong' };
    if (row.revoked_at) return { ok: false, why: 'over' };
    const devices = await this.select<{ mac: string }>(
      'SELECT mac FROM visit_code_device WHERE code_id = :id',
      { id: row.id },
      transaction,
    );
    const now = clock.now();
    const answer = codeAnswer(
      termsOf(
        row,
        devices.map((each) => each.mac),
      ),
      mac,
      now,
    );
    if (!answer.ok) return { ok: false, why: answer.why === 'devices' ? 'devices' : 'over' };
    await this.database.query(
      'INSERT INTO visit_code_device (code_id, mac) VALUES (:id, :mac) ON CONFLICT DO NOTHING',
      { replacements: { id: row.id, mac }, transaction },
    );
    await this.database.query('UPDATE visit_code SET used_at = :now WHERE id = :id AND used_at IS NULL', {
      replacements: { id: row.id, now: new Date(now) },
      transaction,
    });
    return { ok: true, codeId: row.id, until: answer.until };
  }

  /** Characters of the shortest code that is right. */
  private async shortest(portalId: string): Promise<number[]> {
    const rows = await this.select<{ length: number | null }>(
      // A sealed code is as long as itself and what seals it.
      'SELECT min(octet_length(sealed)) - 28 AS length FROM visit_code WHERE portal_id = :portalId AND revoked_at IS NULL',
      { portalId },
    );
    return rows.flatMap(({ length }) => length ?? []);
  }

  private async tell(portalId: string, transaction: Transaction): Promise<void> {
    transaction.afterCommit(() => this.bus.send('live', { type: 'guests', portalId, what: 'codes' }));
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

const termsOf = ({ runs, made_at, used_at, use_by, seconds, most }: CodeRow, devices: readonly string[]) => ({
  ...{ runs, madeAt: made_at.getTime(), usedAt: used_at?.getTime() ?? null, useBy: use_by?.getTime() ?? null },
  ...{ seconds, most, devices },
});

function viewOf(row: ListedRow, now: number): CodeView {
  const terms = termsOf(row, row.devices);
  const begins = terms.runs === 'made' ? terms.madeAt : terms.usedAt;
  const until = begins === null ? null : begins + row.seconds * 1000;
  const missed = begins === null && terms.useBy !== null && now >= terms.useBy;
  const over = missed || (until !== null && now >= until);
  return {
    ...{ id: row.id, hint: row.hint, name: row.name, runs: row.runs, minutes: row.seconds / 60, most: row.most },
    ...{
      useBy: row.use_by?.toISOString() ?? null,
      siteIds: row.site_ids,
      madeAt: row.made_at.toISOString(),
      by: row.by,
    },
    ...{ usedAt: row.used_at?.toISOString() ?? null, until: until === null ? null : new Date(until).toISOString() },
    devices: row.devices,
    state: row.revoked_at ? 'revoked' : over ? 'over' : row.used_at ? 'used' : 'unused',
  };
}
