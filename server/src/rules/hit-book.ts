import type { HitReport } from '@iron-lattice/core/line';
import type { Sequelize } from 'sequelize';
import { WriteBehind } from '../platform/write-behind';

const WRITE_MS = 1000;
/** Devices of one statement. */
const MOST_AT_ONCE = 200;

type Counts = ReadonlyMap<string, number>;

/** Adds up how often rules decided, as gateways count it from their start on. */
export class HitBook {
  /** What each device had counted when it last said, by rule. */
  private readonly counted = new Map<string, Counts>();
  private readonly waiting: WriteBehind<Counts>;

  constructor(
    private readonly database: Sequelize,
    bad: (deviceId: string, error: unknown) => void,
    failed: (error: unknown) => void,
  ) {
    this.waiting = new WriteBehind<Counts>({
      write: (entries) => this.write(entries),
      merge: sum,
      bad: (deviceId, error) => {
        this.counted.delete(deviceId);
        bad(deviceId, error);
      },
      failed,
      soonMs: WRITE_MS,
      most: MOST_AT_ONCE,
    });
  }

  /**
   * Takes a device's counts; fewer than before means that it started anew.
   * @param known the rules it was told: of others nothing is kept.
   */
  take(deviceId: string, hits: readonly HitReport[], known: ReadonlySet<string>): void {
    const before = this.counted.get(deviceId);
    const now = new Map(hits.flatMap(({ rule, packets }) => (known.has(rule) ? [[rule, packets] as const] : [])));
    this.counted.set(deviceId, now);
    const more = new Map<string, number>();
    for (const [rule, packets] of now) {
      const last = before?.get(rule);
      // The first count after this controller started is not known to be new: it only says that the rule is there.
      const added = before === undefined ? 0 : last === undefined || packets < last ? packets : packets - last;
      if (added > 0 || last === undefined) more.set(rule, added);
    }
    if (more.size > 0) this.waiting.put(deviceId, more);
  }

  /** Writes what waits, at once. */
  async close(): Promise<void> {
    await this.waiting.close();
  }

  private async write(entries: ReadonlyMap<string, Counts>): Promise<Iterable<string>> {
    const rows = [...entries].flatMap(([device, rules]) =>
      [...rules].map(([rule, packets]) => ({ device, rule, packets })),
    );
    await this.database.query(
      `INSERT INTO rule_hit (site_id, rule_id, packets, last_at)
       SELECT d.site_id, r.rule, sum(r.packets), CASE WHEN sum(r.packets) > 0 THEN now() END
       FROM jsonb_to_recordset(:rows::jsonb) AS r(device uuid, rule text, packets bigint)
       JOIN device d ON d.id = r.device WHERE d.site_id IS NOT NULL GROUP BY d.site_id, r.rule
       ON CONFLICT (site_id, rule_id) DO UPDATE SET
         packets = least(rule_hit.packets::numeric + excluded.packets, 9007199254740991)::bigint,
         last_at = coalesce(excluded.last_at, rule_hit.last_at)`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
    return [];
  }
}

function sum(older: Counts, newer: Counts): Counts {
  const both = new Map(older);
  for (const [rule, packets] of newer) both.set(rule, (both.get(rule) ?? 0) + packets);
  return both;
}
