import { createHash } from 'node:crypto';
import type { Report } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';

const CHANGED_MS = 40;
/** A row that is never free is one that is gone. */
const MOST_TRIES = 50;
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

/** A device whose report said something new. */
export interface ReportedDevice {
  readonly id: string;
  readonly siteId: string | null;
  /** Whether its neighbours or uplinks are other ones now. */
  readonly cabling: boolean;
}

/**
 * Writes reports down: what says something new at once, many in one statement; what only says that a device lives,
 * every few seconds. Ten thousand devices cost a few statements a second instead of hundreds.
 */
export class ReportBook {
  private readonly remembered = new Map<string, Remembered>();
  private readonly changed = new Map<string, { report: Report; bootedAt: number; cabling: boolean; tries: number }>();
  private readonly alive = new Set<string>();
  private writing: NodeJS.Timeout | null = null;
  private beat: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly onChange: (devices: readonly ReportedDevice[]) => void,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Takes a report. */
  take(deviceId: string, report: Report, now: number): void {
    const { uptime, counters: _counters, clock: _clock, hits: _hits, ...around } = report;
    const digest = digestOf(around);
    const cabling = digestOf([around.neighbours, around.uplinks]);
    const before = this.remembered.get(deviceId);
    const started = now - uptime * 1000;
    const same = before !== undefined && Math.abs(started - before.bootedAt) < SAME_START_MS;
    if (same && before.digest === digest) {
      this.alive.add(deviceId);
      this.beat ??= setTimeout(() => void this.writeAlive().catch(this.failed), ALIVE_MS);
      return;
    }
    const bootedAt = same ? before.bootedAt : started;
    const recabled = before?.cabling !== cabling || this.changed.get(deviceId)?.cabling === true;
    this.remembered.set(deviceId, { digest, cabling, bootedAt });
    const { hits: _counted, ...kept } = report;
    this.changed.set(deviceId, { report: kept, bootedAt, cabling: recabled, tries: 0 });
    this.soon();
  }

  /** Forgets a device whose line ended; what it said is written all the same. */
  forget(deviceId: string): void {
    this.remembered.delete(deviceId);
  }

  /** Writes what waits, at once. */
  async close(): Promise<void> {
    await this.write();
    await this.writeAlive();
  }

  /**
   * Rows that somebody else is writing are not waited for, since that somebody may wait for another of ours: they are
   * written with the next ones.
   */
  private async write(): Promise<void> {
    if (this.writing) clearTimeout(this.writing);
    this.writing = null;
    if (this.changed.size === 0) return;
    const entries = new Map(this.changed);
    this.changed.clear();
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
    for (const { id } of rows) entries.delete(id);
    for (const [id, entry] of entries)
      if (entry.tries < MOST_TRIES && !this.changed.has(id)) this.changed.set(id, { ...entry, tries: entry.tries + 1 });
    if (this.changed.size > 0) this.soon();
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

  /** Has what waits written in a moment. */
  private soon(): void {
    this.writing ??= setTimeout(() => void this.write().catch(this.failed), CHANGED_MS);
  }
}

const digestOf = (value: unknown): string => createHash('md5').update(JSON.stringify(value)).digest('base64');
