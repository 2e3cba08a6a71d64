import { randomUUID } from 'node:crypto';
import type { CheckedList } from '@iron-lattice/core/base';
import {
  checkSiteList,
  type ImportRequest,
  type ImportResult,
  type ListPreview,
  type NewSite,
  type SerialListContext,
  type SerialListPreview,
  type SiteListPreview,
} from '@iron-lattice/core/intake';
import { countryByName } from '@iron-lattice/core/regulation';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import { AppError } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import type { ClaimService } from './claim.service';
import type { SheetService } from './sheet.service';
import type { SiteService } from './site.service';

type Table = readonly (readonly string[])[];
interface Kept {
  readonly table: Table;
  readonly siteId: string | null;
}

/** Lists that people bring: looked at row by row first, then taken in as they were seen. */
export class ListService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly sheets: SheetService,
    private readonly claims: ClaimService,
    private readonly sites: SiteService,
    private readonly heavy: Heavy,
  ) {}

  /** @param siteId site of rows that name none. @throws AppError `list.refused` when the file cannot be read. */
  async previewSerials(bytes: Uint8Array, siteId: string | null, personId: string): Promise<SerialListPreview> {
    const table = await this.read(bytes);
    const checked = await this.heavy.run('check-serials', table, await this.serialContext(siteId));
    return this.keep('serials', { table, siteId }, checked, personId);
  }

  /** Announces the good rows of a list. All or none unless bad rows may be left out. @throws AppError `list.refused`. */
  async importSerials({ token, leaveOutBad }: ImportRequest, personId: string): Promise<ImportResult> {
    const { table, siteId } = await this.kept('serials', token, personId);
    // The estate may have changed since it was looked at.
    const checked = await this.heavy.run('check-serials', table, await this.serialContext(siteId));
    const devices = goodOf(checked, leaveOutBad);
    await this.database.transaction((transaction) => this.claims.announce(devices, personId, null, transaction));
    await this.forget(token);
    return { imported: devices.length };
  }

  async previewSites(bytes: Uint8Array, personId: string): Promise<SiteListPreview> {
    const table = await this.read(bytes);
    return this.keep('sites', { table, siteId: null }, await this.checkSites(table), personId);
  }

  async importSites({ token, leaveOutBad }: ImportRequest, personId: string): Promise<ImportResult> {
    const { table } = await this.kept('sites', token, personId);
    const wishes = goodOf<NewSite>(await this.checkSites(table), leaveOutBad);
    await this.sites.addAll(wishes, personId);
    await this.forget(token);
    return { imported: wishes.length };
  }

  private async read(bytes: Uint8Array): Promise<Table> {
    const read = await this.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    return read.table;
  }

  private async checkSites(table: Table): Promise<CheckedList<NewSite>> {
    const { intent } = await this.intents.live();
    return checkSiteList(table, [...intent.sites.values()], countryByName);
  }

  private async serialContext(siteId: string | null): Promise<SerialListContext> {
    const [live, sheets, rows] = await Promise.all([
      this.intents.live(),
      this.sheets.list(),
      this.database.query<{
        serial: string;
        name: string | null;
        expected_name: string | null;
        mac: string;
        expected_mac: string | null;
        site_id: string | null;
        expected_site_id: string | null;
      }>('SELECT serial, name, expected_name, mac, expected_mac, site_id, expected_site_id FROM device', {
        type: QueryTypes.SELECT,
      }),
    ]);
    const { sites } = live.intent;
    const [serials, names, macs] = [new Map<string, string>(), new Map<string, string>(), new Map<string, string>()];
    for (const row of rows) {
      const { serial, mac } = row;
      const at = row.site_id ?? row.expected_site_id;
      if (at === null) continue; // calls, and is nobody's: to be announced is what it waits for
      const site = sites.get(at)?.name ?? '';
      const name = row.name ?? row.expected_name;
      const who = row.site_id ? `${name} at ${site}` : `expected at ${site}`;
      serials.set(serial, who);
      if (name) names.set(name, `${serial} at ${site}`);
      if (mac) macs.set(mac, name ?? serial);
      if (row.expected_mac) macs.set(row.expected_mac, name ?? serial);
    }
    return {
      sites: [...sites.values()].map(({ id, name, code }) => ({ id, name, code })),
      models: new Set(sheets.map(({ sheet }) => sheet.model)),
      serials,
      names,
      macs,
      siteId: siteId !== null && sites.has(siteId) ? siteId : null,
    };
  }

  private async keep<T>(kind: string, body: Kept, checked: CheckedList<T>, personId: string): Promise<ListPreview<T>> {
    const token = randomUUID();
    await this.database.query(`DELETE FROM list_preview WHERE at < now() - interval '1 hour'`);
    await this.database.query(
      'INSERT INTO list_preview (token, kind, body, person_id) VALUES (:token, :kind, :body, :personId)',
      {
        replacements: { token, kind, body: JSON.stringify(body), personId },
      },
    );
    const good = checked.rows.filter((row) => row.good !== null).length;
    return { ...checked, token, good, bad: checked.rows.length - good };
  }

  private async kept(kind: string, token: string, personId: string): Promise<Kept> {
    const rows = await this.database.query<{ body: Kept }>(
      'SELECT body FROM list_preview WHERE token = :token AND kind = :kind AND person_id = :personId',
      { replacements: { token, kind, personId }, type: QueryTypes.SELECT },
    );
    if (!rows[0]) throw new AppError('list.refused', 'This list was looked at too long ago. Bring it again.');
    return rows[0].body;
  }

  private async forget(token: string, transaction?: Transaction): Promise<void> {
    await this.database.query('DELETE FROM list_preview WHERE token = :token', {
      replacements: { token },
      ...(transaction ? { transaction } : {}),
    });
  }
}

/** @throws AppError `list.refused` when nothing may be taken, naming the first reason. */
function goodOf<T>(checked: CheckedList<T>, leaveOutBad: boolean): T[] {
  const first = checked.flaws[0] ?? checked.rows.find((row) => row.good === null)?.flaws[0];
  const good = checked.rows.flatMap((row) => (row.good === null ? [] : [row.good]));
  if (checked.flaws.length > 0 || good.length === 0)
    throw new AppError('list.refused', `Nothing was imported. ${first?.message ?? 'No row is good.'}`);
  const bad = checked.rows.length - good.length;
  if (bad > 0 && !leaveOutBad)
    throw new AppError(
      'list.refused',
      `Nothing was imported: ${bad} of ${checked.rows.length} rows are not good. ${first!.message}`,
    );
  return good;
}
