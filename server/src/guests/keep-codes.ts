import { randomInt, randomUUID } from 'node:crypto';
import { CODE_ALPHABET, MOST_CODES, safeLength, type NewCodes } from '@iron-lattice/core/guests';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import { AppError } from '../platform/app-error';

/** Codes that are drawn and written together. */
const AT_ONCE = 1000;
/** How often codes are drawn anew that others have already. */
const MOST_DRAWS = 5;

/** A code that is to be made. */
export interface WantedCode extends Pick<NewCodes, 'runs' | 'minutes' | 'useBy' | 'most' | 'siteIds'> {
  readonly name: string;
  /** Null: one is drawn. */
  readonly code: string | null;
}

/** A code that was made, with itself. */
export interface MadeCode {
  readonly id: string;
  readonly name: string;
  readonly code: string;
}

/** What a code is recognised by at a portal. */
export const codePrint = (secrets: Pick<SecretService, 'print'>, portalId: string, code: string): string =>
  secrets.print(`visit-code ${portalId}`, code);

/** Why codes are not made. */
export const refused = (message: string, field?: string): AppError =>
  new AppError('code.refused', message, field === undefined ? [] : [{ code: 'code.refused', message, field }]);

/**
 * Draws what is to be drawn, and keeps codes, in the order they are wanted in.
 * @param length of those that are drawn; null: as long as is safe.
 * @throws AppError `code.refused` where one is there already, or no more are left.
 */
export async function keepCodes(
  { database, secrets }: { readonly database: Sequelize; readonly secrets: Pick<SecretService, 'print' | 'seal'> },
  portalId: string,
  wanted: readonly WantedCode[],
  length: number | null,
  personId: string,
  transaction: Transaction,
): Promise<MadeCode[]> {
  const select = <T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> =>
    database.query<T>(sql, { replacements, type: QueryTypes.SELECT, transaction });
  const [{ there } = { there: 0 }] = await select<{ there: number }>(
    'SELECT count(*)::int AS there FROM visit_code WHERE portal_id = :portalId',
    { portalId },
  );
  if (there + wanted.length > MOST_CODES)
    throw refused(
      `A portal has ${MOST_CODES} codes at most; this one has ${there}. Codes that are over for a month go by themselves.`,
    );
  const long = length ?? safeLength(there + wanted.length);
  const made = new Map<number, { id: string; name: string; code: string }>();
  let left = wanted.map((each, at) => ({ ...each, at }));
  for (let draw = 0; left.length > 0 && draw < MOST_DRAWS; draw++) {
    const again: typeof left = [];
    for (let from = 0; from < left.length; from += AT_ONCE) {
      const part = left.slice(from, from + AT_ONCE).map((each) => ({
        ...{ each, id: randomUUID(), code: each.code ?? drawn(long) },
      }));
      const rows = part.map(({ each, id, code }) => ({
        ...{ id, name: each.name, hint: code.slice(-2), print: codePrint(secrets, portalId, code) },
        ...{ sealed: secrets.seal(id, code).toString('base64'), runs: each.runs, seconds: each.minutes * 60 },
        ...{ use_by: each.useBy, most: each.most, site_ids: each.siteIds },
      }));
      const kept = await select<{ id: string }>(
        `INSERT INTO visit_code (id, portal_id, print, sealed, hint, name, runs, seconds, use_by, most, site_ids, person_id)
         SELECT r.id, :portalId, r.print, decode(r.sealed, 'base64'), r.hint, r.name, r.runs, r.seconds, r.use_by, r.most, r.site_ids, :personId
         FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, name text, hint text, print text, sealed text, runs text, seconds int,
           use_by timestamptz, most int, site_ids uuid[])
         ON CONFLICT (portal_id, print) DO NOTHING RETURNING id`,
        { portalId, personId, rows: JSON.stringify(rows) },
      );
      const ids = new Set(kept.map(({ id }) => id));
      for (const { each, id, code } of part) {
        if (ids.has(id)) made.set(each.at, { id, name: each.name, code });
        else if (each.code !== null)
          throw refused(`The code of “${each.name}” is there already. Choose another.`, 'code');
        else again.push(each);
      }
    }
    left = again;
  }
  if (left.length > 0) throw refused('So many codes of this length are not left. Make them longer.', 'length');
  return wanted.map((_, at) => made.get(at)!);
}

/** A code of so many characters, drawn evenly (node:crypto). */
const drawn = (length: number): string =>
  Array.from({ length }, () => CODE_ALPHABET[randomInt(CODE_ALPHABET.length)]!).join('');
