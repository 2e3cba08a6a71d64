import type { PathsReport, Report } from '@iron-lattice/core/line';
import { leavingState, type LeavingState } from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Speaker } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import { note } from '../platform/journal';
import { WriteBehind } from '../platform/write-behind';

/** How long reports are gathered, in milliseconds; and how many of one statement. */
const [GATHER_MS, MOST_AT_ONCE] = [500, 300];
/** Changes of one device that are written down in an hour: what flaps faster is counted. */
const MOST_AN_HOUR = 120;
const HOUR_MS = 3_600_000;
/** How far a device’s clock may be ahead before it is not believed, in milliseconds. */
const AHEAD_MS = 300_000;

/** What is kept of a report: uplinks, and the address that each was given. */
export interface KeptPaths extends Pick<
  PathsReport,
  'uplinks' | 'counted' | 'courses' | 'tunnels' | 'routes' | 'pacts' | 'pair'
> {
  readonly addresses: Readonly<Record<string, string | null>>;
}
interface Entry {
  readonly report: KeptPaths;
  readonly state: LeavingState;
}
/** What is remembered of a device, to tell what is new. */
interface Remembered {
  /** The state, and when the last change was. */
  told: string;
  lastAt: number;
  hour: number;
  written: number;
  skipped: number;
}

/** Writes down how gateways leave, and what became of their uplinks. */
export class PathBook {
  /** By device, for as long as this process runs: a line that begins anew begins no new hour. */
  private readonly remembered = new Map<string, Remembered>();
  private readonly now: WriteBehind<Entry>;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    failed: (error: unknown) => void,
  ) {
    this.now = new WriteBehind<Entry>({
      write: (entries) => this.write(entries),
      merge: (_older, newer) => newer,
      bad: (deviceId, error) => {
        this.remembered.delete(deviceId);
        failed(error);
      },
      failed,
      soonMs: GATHER_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** A device reported. */
  async reported({ deviceId }: Speaker, { paths, uplinks }: Pick<Report, 'paths' | 'uplinks'>): Promise<void> {
    if (!paths) return;
    const state = leavingState(paths.uplinks);
    const before = this.remembered.get(deviceId) ?? { told: '', lastAt: 0, hour: 0, written: 0, skipped: 0 };
    const addresses = Object.fromEntries(uplinks.map(({ port, address }) => [port, address]));
    const { courses, tunnels, routes, pacts, pair } = paths;
    const report = {
      ...{ uplinks: paths.uplinks, counted: paths.counted, addresses },
      ...(courses ? { courses } : {}),
      ...(tunnels ? { tunnels } : {}),
      ...(routes ? { routes } : {}),
      ...(pacts ? { pacts } : {}),
      ...(pair ? { pair } : {}),
    };
    this.now.put(deviceId, { report, state });
    const steered = (courses ?? []).map(({ id, uses, meets }) => `${id} ${uses.join()} ${meets}`);
    const joined = [
      ...(tunnels ?? []).map(({ peer, up, by }) => `${peer} ${up} ${by}`),
      ...(routes ?? []).map(({ name, up }) => `route ${name} ${up}`),
      ...(pacts ?? []).map(({ name, step, by, why }) => `pact ${name} ${step} ${by} ${why}`),
      ...(pair ? [`pair ${pair.state} ${pair.hears}`] : []),
    ].join();
    const told = `${state} ${paths.uplinks.map(({ port, state: one, used }) => `${port} ${one} ${used}`).join()} ${steered.join()} ${joined}`;
    const fresh = paths.changes.filter(({ at }) => at > before.lastAt);
    const isNew = told !== before.told;
    const after = { ...before, told, lastAt: Math.max(before.lastAt, ...fresh.map(({ at }) => at)) };
    this.remembered.set(deviceId, after);
    if (!isNew && fresh.length === 0) return;
    // First how it is now: who sees that something changed sees what it changed to.
    await this.now.flush();
    if (fresh.length > 0) await this.keep(deviceId, fresh, after);
    const [row] = await this.database.query<{ site_id: string | null }>(
      'SELECT site_id FROM device WHERE id = :deviceId',
      { replacements: { deviceId }, type: QueryTypes.SELECT },
    );
    if (row?.site_id && before.told !== '') await this.bus.send('live', { type: 'paths', siteId: row.site_id });
  }

  close = (): Promise<void> => this.now.close();

  /** Each change once, however often it is told, in the journal as well. */
  private async keep(deviceId: string, changes: PathsReport['changes'], of: Remembered): Promise<void> {
    const now = clock.now();
    if (now - of.hour > HOUR_MS) {
      if (of.skipped > 0) await note(this.database, null, 'path.flapping', { count: of.skipped }, undefined, deviceId);
      Object.assign(of, { hour: now, written: 0, skipped: 0 });
    }
    const room = Math.max(0, MOST_AN_HOUR - of.written);
    // Those that are left out are the older ones.
    const taken = room === 0 ? [] : changes.slice(-room);
    of.skipped += changes.length - taken.length;
    of.written += taken.length;
    if (taken.length === 0) return;
    const rows = taken.map((change) => ({ ...change, at: Math.min(change.at, now + AHEAD_MS) }));
    await this.database.query(
      `WITH told AS (SELECT * FROM jsonb_to_recordset(:rows::jsonb) AS r(at numeric, port text, what text, course text, of text, why text, uses jsonb)),
       kept AS (INSERT INTO path_change (device_id, at, port, what, course, why, uses)
         SELECT :deviceId, to_timestamp(at / 1000.0), port, what, coalesce(course, of, ''), why, ARRAY(SELECT jsonb_array_elements_text(uses)) FROM told
         ON CONFLICT DO NOTHING RETURNING *)
       INSERT INTO journal (person_id, act, detail, device_id)
       SELECT NULL, 'path.' || what, jsonb_build_object('port', port, 'course', course, 'why', why, 'uses', uses, 'at', at), device_id FROM kept ORDER BY at`,
      { replacements: { deviceId, rows: JSON.stringify(rows) } },
    );
  }

  /** Adds what passed since the last report to the day’s octets. What is told anew from 0 was switched off in between. */
  private async count(entries: ReadonlyMap<string, Entry>): Promise<void> {
    const rows = [...entries].flatMap(([id, { report }]) =>
      report.uplinks.flatMap(({ port, octets }) => (octets ? [{ id, port, ...octets }] : [])),
    );
    if (rows.length === 0) return;
    await this.database.query(
      `WITH told AS (SELECT r.* FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, port text, down bigint, up bigint)
         WHERE EXISTS (SELECT 1 FROM device d WHERE d.id = r.id)),
       grown AS (SELECT t.id, t.port, CASE WHEN c.device_id IS NULL THEN 0 WHEN t.down >= c.down AND t.up >= c.up
           THEN t.down - c.down + t.up - c.up ELSE t.down + t.up END AS octets
         FROM told t LEFT JOIN path_counter c ON c.device_id = t.id AND c.port = t.port),
       kept AS (INSERT INTO path_counter (device_id, port, down, up) SELECT id, port, down, up FROM told ORDER BY id, port
         ON CONFLICT (device_id, port) DO UPDATE SET down = excluded.down, up = excluded.up)
       INSERT INTO path_octets (device_id, port, day, octets)
       SELECT id, port, :day, octets FROM grown WHERE octets > 0 ORDER BY id, port
       ON CONFLICT (device_id, port, day) DO UPDATE SET octets = path_octets.octets + excluded.octets`,
      { replacements: { rows: JSON.stringify(rows), day: clock.date().toISOString().slice(0, 10) } },
    );
  }

  private async write(entries: ReadonlyMap<string, Entry>): Promise<Iterable<string>> {
    // First what passed: who sees the report sees what it adds up to. Told once more, it adds nothing.
    await this.count(entries);
    const rows = [...entries].map(([id, { report, state }]) => ({ id, state, report }));
    await this.database.query(
      `INSERT INTO path_now (device_id, state, report)
       SELECT r.id, r.state, r.report FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, state text, report jsonb)
       WHERE EXISTS (SELECT 1 FROM device d WHERE d.id = r.id) ORDER BY r.id
       ON CONFLICT (device_id) DO UPDATE SET at = now(), state = excluded.state, report = excluded.report`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
    return [];
  }
}
