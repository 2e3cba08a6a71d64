import { flaw, type CheckedList } from '@iron-lattice/core/base';
import type { CodeListMeans, ListedCode } from '@iron-lattice/core/guests';
import { LEAST_VISIT, MOST_VISIT, NEW_PORTAL } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { AppError } from '../platform/app-error';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import type { CodeService } from './code.service';

/** Visit codes as lists. */
export class CodeListService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
    private readonly codes: CodeService,
    private readonly heavy: Heavy,
  ) {}

  /** A list of codes for a portal, looked at row by row. @throws AppError `list.refused` when it cannot be read. */
  async preview(portalId: string, bytes: Uint8Array): Promise<CheckedList<ListedCode>> {
    const read = await this.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const [sites, said] = await Promise.all([this.sites(), this.said(portalId)]);
    const means = { ...said, least: LEAST_VISIT, longest: MOST_VISIT, sites, now: clock.now() };
    const seen = await this.heavy.run('code-list', read.table, means);
    const taken = await this.codes.taken(
      portalId,
      seen.rows.flatMap(({ good }) => good?.code ?? []),
    );
    const rows = seen.rows.map((row) =>
      row.good?.code && taken.has(row.good.code)
        ? { ...row, good: null, flaws: [flaw('code.taken', 'The portal has this code already.', 'code')] }
        : row,
    );
    return { ...seen, rows };
  }

  /** Makes codes of a list, all or none. @returns them with themselves. @throws AppError `code.refused`. */
  async make(portalId: string, bytes: Uint8Array, personId: string): ReturnType<CodeService['makeListed']> {
    const read = await this.heavy.run('listed-codes', bytes);
    if (!read.ok) throw new AppError('code.refused', read.reason);
    return this.codes.makeListed(portalId, read.codes, personId);
  }

  /** Ids of sites, by their names and short names in lower case. */
  private async sites(): Promise<Record<string, string>> {
    const rows = await this.database.query<{ id: string; name: string; code: string }>(
      'SELECT id, name, code FROM site',
      {
        type: QueryTypes.SELECT,
      },
    );
    return Object.fromEntries([
      ...rows.map(({ id, code }) => [code.toLowerCase(), id] as const),
      ...rows.map(({ id, name }) => [name.toLowerCase(), id] as const),
    ]);
  }

  /** Minutes that a visit lasts at a portal, and time zones of sites, as the draft in front has them; of all sites that of most. */
  private async said(portalId: string): Promise<Pick<CodeListMeans, 'visit' | 'zones' | 'zone'>> {
    const { intent } = await this.drafts.recent();
    const visit = intent.estate.portals?.find(({ id }) => id === portalId)?.visit ?? NEW_PORTAL.visit;
    const zones = Object.fromEntries([...intent.sites].map(([id, { timeZone }]) => [id, timeZone]));
    const counts = new Map<string, number>();
    for (const zone of Object.values(zones)) counts.set(zone, (counts.get(zone) ?? 0) + 1);
    const [most] = [...counts].sort(([, a], [, b]) => b - a);
    return { visit, zones, zone: most?.[0] ?? 'UTC' };
  }
}
