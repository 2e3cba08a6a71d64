import { firmwareState } from '@iron-lattice/core/firmware';
import { sheetOf, type HardwareSheet } from '@iron-lattice/core/hardware';
import { deviceState, type DeviceRow, type DeviceRows } from '@iron-lattice/core/intake';
import type { StaticAddress } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { CatalogueService } from '../roster/catalogue.service';

/** Which rows are asked for; absent means all of them. */
export interface RowsWanted {
  /** Of one site, with those that call and are nobody's. */
  readonly siteId?: string | undefined;
  readonly ids?: readonly string[];
  readonly limit?: number | undefined;
  /** Only what changed since a mark. */
  readonly since?: string | undefined;
}

/** Writers that began before a mark may end after it; so much of the order is looked at again. */
const OVERLAP = 200n;

interface Raw {
  id: string;
  claimedAt: string | null;
  siteId: string | null;
  online: boolean;
  runs: string | null;
  wants: string | null;
  trouble: string | null;
  name: string | null;
  model: string;
  sheet: HardwareSheet | null;
  serial: string;
  mac: string;
  firmware: string;
  updating: string | null;
  address: string | null;
  fixed: StaticAddress | null;
  above: string | null;
  port: string | null;
  bootedAt: Date | null;
  heardAt: Date | null;
  revision: number | null;
  tags: string[];
  hitches: number;
  mark: string;
}

/** Reads devices as tables show them; thousands at a time, so past the models. */
export class DeviceRowReader {
  constructor(
    private readonly database: Sequelize,
    private readonly catalogue: CatalogueService,
  ) {}

  async rows({ siteId, ids, limit, since }: RowsWanted): Promise<DeviceRows> {
    const where = ['(d.site_id IS NOT NULL OR d.expected_site_id IS NOT NULL OR d.online)'];
    if (siteId !== undefined) where.push('coalesce(d.site_id, d.expected_site_id, :siteId) = :siteId');
    if (ids !== undefined) where.push('d.id = ANY(:ids::uuid[])');
    const total = where.join(' AND ');
    if (since !== undefined) where.push('d.changed_at > :since');
    const replacements = {
      siteId: siteId ?? null,
      ids: ids ? `{${ids.join(',')}}` : '{}',
      since: since === undefined ? '0' : String(BigInt(since) - OVERLAP),
      limit: limit ?? 100_000,
    };
    const [raws, [counted], releases] = await Promise.all([
      this.database.query<Raw>(
        `SELECT d.id, d.claimed_at AS "claimedAt", coalesce(d.site_id, d.expected_site_id) AS "siteId", d.online, d.runs, d.wants,
           d.trouble, coalesce(d.name, d.expected_name) AS name, d.model, d.sheet, d.serial, d.mac, d.firmware, d.updating,
           d.address, d.fixed, a.name AS above, d.hangs_on_port AS port, d.booted_at AS "bootedAt", d.heard_at AS "heardAt",
           CASE WHEN d.runs = d.wants THEN s.live_revision ELSE d.runs_revision END AS revision, d.tags, coalesce(h.count, 0) AS hitches, d.changed_at AS mark
         FROM device d LEFT JOIN device a ON a.id = d.hangs_on_id LEFT JOIN site s ON s.id = d.site_id
         LEFT JOIN (SELECT device_id, count(*)::int FROM hitch WHERE settled_at IS NULL GROUP BY device_id) h ON h.device_id = d.id
         WHERE ${where.join(' AND ')} ORDER BY d.name NULLS LAST, d.serial LIMIT :limit`,
        { replacements, type: QueryTypes.SELECT },
      ),
      this.database.query<{ count: number; mark: string }>(
        `SELECT count(*)::int, coalesce((SELECT max(changed_at) FROM device), 0) AS mark FROM device d WHERE ${total}`,
        { replacements, type: QueryTypes.SELECT },
      ),
      this.catalogue.releases(),
    ]);
    const states = new Map<string, DeviceRow['firmwareState']>(); // few models and releases, many devices
    const stateOf = (model: string, firmware: string): DeviceRow['firmwareState'] => {
      if (firmware === '') return null;
      const key = `${model} ${firmware}`;
      let state = states.get(key);
      if (state === undefined) states.set(key, (state = firmwareState(releases, model, firmware)));
      return state;
    };
    const rows = raws.map((raw) => rowOf(raw, stateOf(raw.model, raw.firmware)));
    const gone =
      since === undefined
        ? []
        : await this.database.query<{ id: string }>(
            `SELECT id FROM device d WHERE d.changed_at > :since AND NOT (${where[0]})`,
            { replacements, type: QueryTypes.SELECT },
          );
    return { rows, total: counted!.count, mark: String(counted!.mark), gone: gone.map(({ id }) => id) };
  }
}

function rowOf(raw: Raw, firmware: DeviceRow['firmwareState']): DeviceRow {
  const { id, siteId, name, model, serial, mac, updating, trouble, tags, hitches, runs, wants, online } = raw;
  const sheet = sheetOf(model) ?? raw.sheet;
  const claimed = raw.claimedAt !== null;
  const state = deviceState({ claimed, online, runs, wants, trouble });
  const above = raw.above === null ? raw.port : `${raw.above} · ${raw.port}`;
  return {
    id,
    siteId,
    state,
    kind: sheet?.kind ?? null,
    name,
    model,
    title: sheet?.title ?? model,
    serial,
    mac,
    firmware: raw.firmware,
    firmwareState: firmware,
    updating,
    address: raw.address ?? raw.fixed?.address ?? null,
    hangsOn: claimed ? above : null,
    bootedAt: online ? (raw.bootedAt?.toISOString() ?? null) : null,
    heardAt: raw.heardAt?.toISOString() ?? null,
    revision: !claimed || runs === null ? null : raw.revision,
    tags,
    trouble,
    hitches,
  };
}
