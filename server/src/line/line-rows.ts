import { QueryTypes, type Sequelize } from 'sequelize';
import { LISTENER_NAME, type Bus } from '../platform/bus';
import type { Line } from './held-line';

/** Lines that are written down in one statement. */
const ROWS_AT_ONCE = 500;

type Held = Pick<Line, 'id' | 'deviceId'>;
interface Row {
  readonly id: string;
  readonly siteId: string | null;
}

/** Controllers that are there, by the connections they listen with. */
const LIVE = `SELECT pid FROM pg_stat_activity WHERE application_name = :name AND datname = current_database()`;

/** What the database says of who holds the line of which device; held against the lines that there really are. */
export class LineRows {
  /** The devices of lines that ended and are still to be written down, by line. */
  private readonly leaving = new Map<string, string>();
  /** While ended lines are being written down. */
  private parting: Promise<void> | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {}

  /** Lines that a process held which is no more: their devices have to call again. */
  async forgetDead(): Promise<void> {
    await this.database.query(
      `UPDATE device SET online = false, line_owner = NULL
       WHERE online AND (line_owner IS NULL OR line_owner = :own OR line_owner NOT IN (${LIVE}))`,
      { replacements: { name: LISTENER_NAME, own: this.bus.processId }, type: QueryTypes.UPDATE },
    );
  }

  /**
   * Says of lines that stand that this process holds them, where the database does not: another one may have taken them for
   * dead while it could not see us, and a call that was answered late may have been written over a later one. Who another
   * live process says it holds has called there since.
   * @returns the devices of which it was not said.
   */
  async hold(lines: readonly Held[]): Promise<Row[]> {
    const mended: Row[] = [];
    for (let i = 0; i < lines.length; i += ROWS_AT_ONCE) {
      const rows = lines.slice(i, i + ROWS_AT_ONCE).map(({ id, deviceId }) => ({ id: deviceId, line: id }));
      const found = await this.database.query<Row>(
        `UPDATE device d SET line_owner = :own, line_id = r.line, online = true
         FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, line uuid)
         WHERE d.id = r.id AND (d.line_id, d.line_owner, d.online) IS DISTINCT FROM (r.line, :own, true)
           AND (d.line_id = r.line OR NOT d.online OR d.line_owner IS NULL OR d.line_owner = :own OR d.line_owner NOT IN (${LIVE}))
         RETURNING d.id, d.site_id AS "siteId"`,
        {
          replacements: { own: this.bus.processId, rows: JSON.stringify(rows), name: LISTENER_NAME },
          type: QueryTypes.SELECT,
        },
      );
      mended.push(...found);
    }
    for (const device of mended) this.bus.changed(device);
    return mended;
  }

  /** Notes that lines have ended, which is still to be written down. */
  owe(lines: readonly Held[]): void {
    for (const { id, deviceId } of lines) this.leaving.set(id, deviceId);
  }

  /** Writes down that lines have ended. */
  left(lines: readonly Held[]): Promise<void> {
    this.owe(lines);
    return this.leaveLate();
  }

  /**
   * Writes down which lines have ended, many in one statement and one statement at a time: thousands may end at once. What
   * cannot be written now is with the next beat.
   */
  leaveLate(): Promise<void> {
    this.parting ??= this.writeLeft().finally(() => (this.parting = null));
    return this.parting;
  }

  private async writeLeft(): Promise<void> {
    while (this.leaving.size > 0) {
      const some = [...this.leaving].slice(0, ROWS_AT_ONCE);
      // A device may be calling again at this very moment: only its present line says that it is gone.
      const [devices] = (await this.database.query(
        `UPDATE device d SET online = false, line_owner = NULL, line_id = NULL, applied = NULL
         FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, line uuid) WHERE d.id = r.id AND d.line_id = r.line
         RETURNING d.id, d.site_id AS "siteId"`,
        { replacements: { rows: JSON.stringify(some.map(([line, id]) => ({ id, line }))) } },
      )) as [Row[], unknown];
      for (const [line] of some) this.leaving.delete(line);
      for (const device of devices) this.bus.changed(device);
    }
  }
}
