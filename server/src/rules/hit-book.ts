import type { HitReport } from '@iron-lattice/core/line';
import type { Sequelize } from 'sequelize';

const WRITE_MS = 1000;

/** Adds up how often rules decided, as gateways count it from their start on. */
export class HitBook {
  /** What each device had counted when it last said, by rule. */
  private readonly counted = new Map<string, ReadonlyMap<string, number>>();
  private readonly waiting = new Map<string, Map<string, number>>();
  private writing: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Takes a device's counts; fewer than before means that it started anew. */
  take(deviceId: string, hits: readonly HitReport[]): void {
    const before = this.counted.get(deviceId);
    const now = new Map(hits.map(({ rule, packets }) => [rule, packets]));
    this.counted.set(deviceId, now);
    const more = this.waiting.get(deviceId) ?? new Map<string, number>();
    for (const [rule, packets] of now) {
      const known = before?.get(rule);
      // The first count after this controller started is not known to be new: it only says that the rule is there.
      const added = before === undefined ? 0 : known === undefined || packets < known ? packets : packets - known;
      if (added > 0 || known === undefined) more.set(rule, (more.get(rule) ?? 0) + added);
    }
    if (more.size === 0) return;
    this.waiting.set(deviceId, more);
    this.writing ??= setTimeout(() => void this.write().catch(this.failed), WRITE_MS);
  }

  /** Writes what waits, at once. */
  async close(): Promise<void> {
    await this.write();
  }

  private async write(): Promise<void> {
    if (this.writing) clearTimeout(this.writing);
    this.writing = null;
    const rows = [...this.waiting].flatMap(([device, rules]) =>
      [...rules].map(([rule, packets]) => ({ device, rule, packets })),
    );
    this.waiting.clear();
    if (rows.length === 0) return;
    await this.database.query(
      `INSERT INTO rule_hit (site_id, rule_id, packets, last_at)
       SELECT d.site_id, r.rule, sum(r.packets), CASE WHEN sum(r.packets) > 0 THEN now() END
       FROM jsonb_to_recordset(:rows::jsonb) AS r(device uuid, rule text, packets bigint)
       JOIN device d ON d.id = r.device WHERE d.site_id IS NOT NULL GROUP BY d.site_id, r.rule
       ON CONFLICT (site_id, rule_id) DO UPDATE SET packets = rule_hit.packets + excluded.packets,
         last_at = coalesce(excluded.last_at, rule_hit.last_at)`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
  }
}
