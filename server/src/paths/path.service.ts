import {
  MOST_CHANGES_TOLD,
  periodStart,
  type LeavingState,
  type PathChangeView,
  type PathView,
  type SitePathsView,
} from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { BusyShare, Capacity } from '@iron-lattice/core/line';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError } from '../platform/app-error';
import { clock } from '../platform/clock';
import type { KeptPaths } from './path-book';

/** Octets of one day, UTC. */
interface DayRow {
  readonly device_id: string;
  readonly port: string;
  readonly day: string;
  readonly octets: number;
  /** When the first of them was counted. */
  readonly began: Date;
}
/** Days that are looked at, and those of them that tell how much leaves usually, in milliseconds. */
const [COUNTED_MS, LATELY_MS] = [62 * 86_400_000, 3 * 86_400_000];

/** How much leaves, in octets a second, over the latest days; nothing where none was counted. */
function rateOf(days: readonly DayRow[]): { readonly rate?: number } {
  const from = new Date(clock.now() - LATELY_MS).toISOString().slice(0, 10);
  const lately = days.filter(({ day }) => day >= from);
  if (lately.length === 0) return {};
  const first = Math.min(...lately.map(({ began }) => began.getTime()));
  const octets = lately.reduce((sum, each) => sum + each.octets, 0);
  return { rate: octets / Math.max(60, (clock.now() - first) / 1000) };
}

/** A change as it is kept. */
export type ChangeRow = Omit<PathChangeView, 'deviceId' | 'at'> & { readonly at: Date };

/** A change as people see it. */
export const changeOf = (deviceId: string, { at, course, ...change }: ChangeRow): PathChangeView => ({
  ...{ deviceId, at: at.toISOString(), ...change },
  ...(course ? (change.what === 'steered' ? { course } : { of: course }) : {}),
});

/** How sites leave, as people see it. */
export class PathService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: Pick<IntentService, 'live'>,
    private readonly commands: Pick<CommandService, 'ask'>,
  ) {}

  /** How a site’s gateways leave now, and what became of their uplinks lately. */
  async of(siteId: string): Promise<SitePathsView> {
    const [{ intent }, gateways, changes, days] = await Promise.all([
      this.intents.live(),
      this.select<{ device_id: string; at: Date; state: LeavingState; report: KeptPaths }>(
        `SELECT n.device_id, n.at, n.state, n.report FROM path_now n JOIN device d ON d.id = n.device_id
         WHERE d.site_id = :siteId ORDER BY d.name`,
        { siteId },
      ),
      this.select<ChangeRow & { device_id: string }>(
        `SELECT c.device_id, c.at, c.port, c.what, c.course, c.why, c.uses FROM path_change c JOIN device d ON d.id = c.device_id
         WHERE d.site_id = :siteId ORDER BY c.at DESC LIMIT :most`,
        { siteId, most: MOST_CHANGES_TOLD },
      ),
      this.select<DayRow>(
        `SELECT o.device_id, o.port, to_char(o.day, 'YYYY-MM-DD') AS day, o.octets::float8 AS octets, o.began FROM path_octets o
         JOIN device d ON d.id = o.device_id WHERE d.site_id = :siteId AND o.day > :first`,
        { siteId, first: new Date(clock.now() - COUNTED_MS).toISOString().slice(0, 10) },
      ),
    ]);
    const today = clock.date().toISOString().slice(0, 10);
    const said = intent.sites.get(siteId)?.uplinks ?? {};
    const carried = (deviceId: string, port: string): PathView['carried'] => {
      const start = periodStart(today, said[deviceId]?.[port]?.anew ?? 1);
      const all = days.filter((each) => each.device_id === deviceId && each.port === port);
      const mine = all.filter(({ day }) => day >= start);
      // What passed before it was counted is not known.
      const [first = today] = all.map(({ day }) => day).sort();
      const since = first > start ? first : start;
      return { octets: mine.reduce((sum, { octets }) => sum + octets, 0), since };
    };
    return {
      gateways: gateways.map(({ device_id: deviceId, at, state, report }) => ({
        ...{ deviceId, at: at.toISOString(), state, counted: new Date(report.counted).toISOString() },
        uplinks: report.uplinks.map((one) => ({
          ...{ ...one, address: report.addresses[one.port] ?? null },
          ...(one.octets ? { carried: carried(deviceId, one.port) } : {}),
        })),
        ...rateOf(days.filter((each) => each.device_id === deviceId)),
        ...(report.courses ? { courses: report.courses } : {}),
        ...(report.tunnels ? { tunnels: report.tunnels } : {}),
        ...(report.routes ? { routes: report.routes } : {}),
        ...(report.pacts ? { pacts: report.pacts } : {}),
        ...(report.pair ? { pair: report.pair } : {}),
      })),
      changes: changes.map(({ device_id: deviceId, ...row }) => changeOf(deviceId, row)),
    };
  }

  /** Has a gateway use again what is good. */
  async bringBack(deviceId: string, personId: string): Promise<{ readonly text: string }> {
    const { ok, text } = await this.commands.ask(deviceId, 'bring-back', '', { personId });
    if (!ok) throw new AppError('command.refused', text);
    return { text };
  }

  /** Has a gateway measure what an uplink can do. @returns megabits a second. */
  async measure(deviceId: string, port: string, personId: string): Promise<Capacity> {
    const { ok, text, capacity } = await this.commands.ask(deviceId, 'capacity', port, { personId });
    if (!ok || !capacity) throw new AppError('command.refused', text);
    return capacity;
  }

  /**
   * Has a gateway let some VLANs send as much as they can over an uplink that it keeps below what it can do.
   * @returns megabits a second that each got.
   */
  async measureBusy(
    deviceId: string,
    { port, vlans }: { readonly port: string; readonly vlans: readonly number[] },
    personId: string,
  ): Promise<readonly BusyShare[]> {
    const { ok, text, shares } = await this.commands.ask(deviceId, 'capacity', port, { personId, busy: vlans });
    if (!ok || !shares) throw new AppError('command.refused', text);
    return shares;
  }

  private select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
    return this.database.query<T>(sql, { replacements, type: QueryTypes.SELECT });
  }
}
