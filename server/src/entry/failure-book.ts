import type { EntryFailure } from '@iron-lattice/core/entry';
import type { Report } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../platform/clock';
import { WriteBehind } from '../platform/write-behind';
import { turnedAwayOf } from './unknown-clients';

const WRITE_MS = 1000;
/** Devices of one statement. */
const MOST_AT_ONCE = 200;
/** Failures of one device that are kept of a day; more are not told. */
const MOST_OF_DAY = 1000;
/** For how many days they are kept, and how many of a site are told: the latest. */
export const FAILURE_DAYS = 7;
const MOST_TOLD = 5000;

type Failed = ReturnType<typeof turnedAwayOf>[number];

/** What was last said of a device, and how many of its failures were taken today. */
interface Remembered {
  keys: ReadonlySet<string>;
  day: string;
  count: number;
}

const keyOf = ({ mac, port, ssid, why, since }: Failed): string => `${mac} ${port ?? ssid} ${why} ${since ?? 0}`;

/** Keeps who was turned away or known to nobody, once for each time that it began. */
export class FailureBook {
  private readonly remembered = new Map<string, Remembered>();
  private readonly waiting: WriteBehind<readonly Failed[]>;

  constructor(
    private readonly database: Sequelize,
    bad: (deviceId: string, error: unknown) => void,
    failed: (error: unknown) => void,
  ) {
    this.waiting = new WriteBehind<readonly Failed[]>({
      write: (entries) => this.write(entries),
      merge: (older, newer) => [...older, ...newer].slice(0, MOST_OF_DAY),
      bad: (deviceId, error) => {
        this.remembered.delete(deviceId);
        bad(deviceId, error);
      },
      failed,
      soonMs: WRITE_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** Takes what a device says of those it knows nothing of: what it said before is not news. */
  take(deviceId: string, report: Pick<Report, 'unknown' | 'refused'>): void {
    const now = turnedAwayOf(report);
    const day = new Date(clock.now()).toISOString().slice(0, 10);
    const before = this.remembered.get(deviceId);
    const count = before?.day === day ? before.count : 0;
    const more = now.filter((each) => !before?.keys.has(keyOf(each))).slice(0, Math.max(0, MOST_OF_DAY - count));
    this.remembered.set(deviceId, { keys: new Set(now.map(keyOf)), day, count: count + more.length });
    if (more.length > 0) this.waiting.put(deviceId, more);
  }

  /** Failures at a site of the last days, the latest first. */
  async at(siteId: string): Promise<EntryFailure[]> {
    const rows = await this.database.query<{ id: string; name: string | null; body: Failed; at: Date }>(
      `SELECT d.id, d.name, f.body, f.at FROM entry_failure f JOIN device d ON d.id = f.device_id
       WHERE d.site_id = :siteId AND f.at > now() - make_interval(days => ${FAILURE_DAYS}) ORDER BY f.at DESC, f.mac LIMIT ${MOST_TOLD}`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rows.map(({ id, name, body, at }) => ({
      ...{ ...body, deviceId: id, deviceName: name ?? '', name: '' },
      at: at.toISOString(),
    }));
  }

  /** Writes what waits, at once. */
  flush(): Promise<void> {
    return this.waiting.flush();
  }

  /** The same, and begins nothing more. */
  async close(): Promise<void> {
    await this.waiting.close();
  }

  private async write(entries: ReadonlyMap<string, readonly Failed[]>): Promise<Iterable<string>> {
    const rows = [...entries].flatMap(([device, all]) =>
      all.map((body) => ({
        ...{ device, mac: body.mac, place: body.port ?? body.ssid ?? '', why: body.why, since: body.since ?? 0, body },
      })),
    );
    await this.database.query(
      `INSERT INTO entry_failure (device_id, mac, place, why, since, body)
       SELECT d.id, r.mac, r.place, r.why, r.since, r.body
       FROM jsonb_to_recordset(:rows::jsonb) AS r(device uuid, mac text, place text, why text, since bigint, body jsonb)
       JOIN device d ON d.id = r.device ON CONFLICT DO NOTHING`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
    return [];
  }
}
