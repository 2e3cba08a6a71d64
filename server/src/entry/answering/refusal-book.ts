import { QueryTypes, type Sequelize } from 'sequelize';
import { WriteBehind } from '../../platform/write-behind';

/** They are written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_WRITTEN] = [500, 500];
/** Different refusals of a user that are told apart in a day; more are counted without whose they were. */
const MOST_OF_USER = 200;
/** For how many days they are kept. */
export const REFUSAL_DAYS = 7;

interface Refused {
  readonly userId: string;
  readonly mac: string | null;
  readonly deviceId: string;
  readonly why: string;
}

/** Who was turned away, why, and how often: counted, so that somebody who tries all night fills nothing. */
export class RefusalBook {
  private readonly waiting: WriteBehind<Refused & { readonly count: number }>;

  constructor(
    private readonly database: Sequelize,
    failed: (error: unknown) => void,
  ) {
    this.waiting = new WriteBehind({
      write: async (entries) => {
        await this.write([...entries.values()]);
        return [];
      },
      merge: (older, newer) => ({ ...newer, count: older.count + newer.count }),
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_WRITTEN,
    });
  }

  put(one: Refused): void {
    this.waiting.put([one.userId, one.deviceId, one.mac, one.why].join(' '), { ...one, count: 1 });
  }

  close(): Promise<void> {
    return this.waiting.close();
  }

  private async write(all: readonly (Refused & { readonly count: number })[]): Promise<void> {
    const rows = all.map(({ userId, deviceId, mac, why, count }) => ({
      u: userId,
      d: deviceId,
      mac: mac ?? '',
      why,
      count,
    }));
    await this.database.query(
      `WITH r AS (SELECT * FROM jsonb_to_recordset(:rows::jsonb) AS r(u uuid, d uuid, mac text, why text, count int)),
         many AS (SELECT user_id FROM entry_refusal WHERE day = current_date AND user_id IN (SELECT u FROM r)
           GROUP BY user_id HAVING count(*) >= ${MOST_OF_USER}),
         put AS (SELECT r.u, r.d, CASE WHEN r.u IN (SELECT user_id FROM many) THEN '' ELSE r.mac END AS mac, r.why, sum(r.count)::int AS count
           FROM r JOIN entry_user k ON k.id = r.u JOIN device v ON v.id = r.d GROUP BY 1, 2, 3, 4)
       INSERT INTO entry_refusal (user_id, device_id, mac, why, count) SELECT u, d, mac, why, count FROM put
       ON CONFLICT (user_id, day, device_id, mac, why) DO UPDATE SET count = entry_refusal.count + excluded.count, last_at = now()`,
      { replacements: { rows: JSON.stringify(rows) }, type: QueryTypes.INSERT },
    );
  }
}
