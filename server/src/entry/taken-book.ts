import type { ClientTaken } from '@iron-lattice/core/entry';
import type { TakenReport } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import { WriteBehind } from '../platform/write-behind';

const WRITE_MS = 1000;
/** Devices of one statement. */
const MOST_AT_ONCE = 200;

/** What clients took since they came, as devices count it: the last that each said. */
export class TakenBook {
  private readonly waiting: WriteBehind<readonly TakenReport[]>;

  constructor(
    private readonly database: Sequelize,
    bad: (deviceId: string, error: unknown) => void,
    failed: (error: unknown) => void,
  ) {
    this.waiting = new WriteBehind<readonly TakenReport[]>({
      write: (entries) => this.write(entries),
      merge: (_older, newer) => newer,
      bad,
      failed,
      soonMs: WRITE_MS,
      most: MOST_AT_ONCE,
    });
  }

  take(deviceId: string, taken: readonly TakenReport[]): void {
    this.waiting.put(deviceId, taken);
  }

  /** What clients of a site took, of devices that are heard. */
  async at(siteId: string): Promise<ClientTaken[]> {
    const rows = await this.database.query<{ deviceId: string; taken: readonly TakenReport[] }>(
      `SELECT t.device_id AS "deviceId", t.taken FROM client_taken t JOIN device d ON d.id = t.device_id
       WHERE d.site_id = :siteId AND d.online`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rows.flatMap(({ deviceId, taken }) => taken.map((each) => ({ deviceId, ...each })));
  }

  /** Writes what waits, at once. */
  async close(): Promise<void> {
    await this.waiting.close();
  }

  private async write(entries: ReadonlyMap<string, readonly TakenReport[]>): Promise<Iterable<string>> {
    const rows = [...entries].map(([device, taken]) => ({ device, taken }));
    await this.database.query(
      `INSERT INTO client_taken (device_id, taken, at)
       SELECT d.id, r.taken, now() FROM jsonb_to_recordset(:rows::jsonb) AS r(device uuid, taken jsonb) JOIN device d ON d.id = r.device
       ON CONFLICT (device_id) DO UPDATE SET taken = excluded.taken, at = excluded.at`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
    return [];
  }
}
