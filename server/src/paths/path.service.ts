import {
  MOST_CHANGES_TOLD,
  type LeavingState,
  type PathChangeView,
  type SitePathsView,
} from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Capacity } from '@iron-lattice/core/line';
import type { CommandService } from '../line/command.service';
import { AppError } from '../platform/app-error';
import type { KeptPaths } from './path-book';

/** A change as it is kept. */
export type ChangeRow = Omit<PathChangeView, 'deviceId' | 'at'> & { readonly at: Date };

/** A change as people see it. */
export const changeOf = (deviceId: string, { at, course, ...change }: ChangeRow): PathChangeView => ({
  ...{ deviceId, at: at.toISOString(), ...change },
  ...(course ? { course } : {}),
});

/** How sites leave, as people see it. */
export class PathService {
  constructor(
    private readonly database: Sequelize,
    private readonly commands: Pick<CommandService, 'ask'>,
  ) {}

  /** How a site’s gateways leave now, and what became of their uplinks lately. */
  async of(siteId: string): Promise<SitePathsView> {
    const [gateways, changes] = await Promise.all([
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
    ]);
    return {
      gateways: gateways.map(({ device_id: deviceId, at, state, report }) => ({
        ...{ deviceId, at: at.toISOString(), state, counted: new Date(report.counted).toISOString() },
        uplinks: report.uplinks.map((one) => ({ ...one, address: report.addresses[one.port] ?? null })),
        ...(report.courses ? { courses: report.courses } : {}),
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

  private select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
    return this.database.query<T>(sql, { replacements, type: QueryTypes.SELECT });
  }
}
