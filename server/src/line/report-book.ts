import { createHash } from 'node:crypto';
import type { Report } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import { later } from '../platform/held-connection';
import { WriteBehind } from '../platform/write-behind';
import { methodsOf } from '../roster/server-methods';
import { strangersOf } from '../roster/strangers';

const CHANGED_MS = 40;
/** Reports of one statement. */
const MOST_AT_ONCE = 500;
/** Signs of life are written down together, this often. */
const ALIVE_MS = 10_000;
/** A start that is computed anew from each uptime wanders by rounding; only more than this counts as another start. */
const SAME_START_MS = 10_000;

/** What of a device's last report we remember, to tell whether the next says anything new. */
interface Remembered {
  digest: string;
  cabling: string;
  bootedAt: number;
}

interface Entry {
  readonly report: Report;
  readonly bootedAt: number;
  readonly cabling: boolean;
}

/** A device whose report said something new. */
export interface ReportedDevice {
  readonly id: string;
  readonly siteId: string | null;
  /** Whether its neighbours, its uplinks, or the classes that it does not know are other ones now: consequences follow from them. */
  readonly cabling: boolean;
}

/**
 * Writes reports down: what says something new at once, many in one statement; what only says that a device lives,
 * every few seconds. Ten thousand devices cost a few statements a second instead of hundreds.
 */
export class ReportBook {
  private readonly remembered = new Map<string, Remembered>();
  private readonly changed: WriteBehind<Entry>;
  private readonly alive = new Set<string>();
  private beat: NodeJS.Timeout | null = null;

  /** @param bad is told of a device whose report cannot be written; it is taken anew when it is said again. */
  constructor(
    private readonly database: Sequelize,
    private readonly onChange: (devices: readonly ReportedDevice[]) => void,
    bad: (deviceId: string, error: unknown) => void,
    private readonly failed: (error: unknown) => void,
  ) {
    this.changed = new WriteBehind<Entry>({
      write: (entries) => this.write(entries),
      merge: (older, newer) => ({ ...newer, cabling: older.cabling || newer.cabling }),
      bad: (deviceId, error) => {
        this.remembered.delete(deviceId); // it was not written, so it is not known
        bad(deviceId, error);
      },
      failed,
      soonMs: CHANGED_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** Takes a report. */
  take(deviceId: string, report: Report, now: number): void {
    const { uptime, counters: _counters, clock: _clock, hits: _hits, taken: _taken, paths: _paths, ...around } = report;
    const digest = digestOf(around);
    const cabling = digestOf([around.neighbours, around.uplinks, strangersOf(report), methodsOf(report)]);
    const before = this.remembered.get(deviceId);
    const started = now - uptime * 1000;
    const same = before !== undefined && Math.abs(started - before.bootedAt) < SAME_START_MS;
    if (same && before.digest === digest) {
      this.alive.add(deviceId);
      this.beat ??= later(ALIVE_MS, () => void this.writeAlive().catch(this.failed));
      return;
    }
    const bootedAt = same ? before.bootedAt : started;
    this.remembered.set(deviceId, { digest, cabling, bootedAt });
    const { hits: _counted, taken: _took, paths: _leave, ...kept } = report;
    this.changed.put(deviceId, { report: kept, bootedAt, cabling: before?.cabling !== cabling });
  }

  /** Forgets a device whose line ended; what it said is written all the same. */
  forget(deviceId: string): void {
    this.remembered.delete(deviceId);
  }

  /** Writes what waits, at once. */
  async flush(): Promise<void> {
    await this.changed.flush();
    await this.writeAlive();
  }

  async close(): Promise<void> {
    await this.changed.close();
    await this.writeAlive().catch(this.failed);
  }

  /**
   * Rows that somebody else is writing are not waited for, since that somebody may wait for another of ours: they are
   * written with the next ones.
   */
  private async write(entries: ReadonlyMap<string, Entry>): Promise<Iterable<string>> {
    const rows = await this.database.query<{ id: string; site_id: string | null }>(
      `WITH r AS (SELECT * FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, report jsonb, booted numeric)),
         free AS (SELECT id FROM device WHERE id IN (SELECT id FROM r) FOR NO KEY UPDATE SKIP LOCKED)
       UPDATE device d SET report = r.report, address = r.report->>'address', heard_at = now(),
         booted_at = to_timestamp(r.booted / 1000.0)
       FROM r JOIN free ON free.id = r.id WHERE d.id = r.id RETURNING d.id, d.site_id`,
      {
        replacements: {
          rows: JSON.stringify([...entries].map(([id, { report, bootedAt }]) => ({ id, report, booted: bootedAt }))),
        },
        type: QueryTypes.SELECT,
      },
    );
    this.onChange(rows.map(({ id, site_id }) => ({ id, siteId: site_id, cabling: entries.get(id)!.cabling })));
    const written = new Set(rows.map(({ id }) => id));
    return [...entries.keys()].filter((id) => !written.has(id));
  }

  private async writeAlive(): Promise<void> {
    if (this.beat) clearTimeout(this.beat);
    this.beat = null;
    if (this.alive.size === 0) return;
    const ids = [...this.alive];
    this.alive.clear();
    await this.database.query(
      `UPDATE device SET heard_at = now() WHERE id IN
         (SELECT id FROM device WHERE id = ANY(:ids::uuid[]) FOR NO KEY UPDATE SKIP LOCKED)`,
      { replacements: { ids: `{${ids.join(',')}}` } },
    );
  }
}

const digestOf = (value: unknown): string => createHash('md5').update(JSON.stringify(value)).digest('base64');
