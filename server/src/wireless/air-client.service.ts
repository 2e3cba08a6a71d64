import type { Band } from '@iron-lattice/core/hardware';
import type { ClientReport } from '@iron-lattice/core/line';
import type { AirClientsView, AirVisit } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import type { Speaker } from '../line/line-listener';
import { unknown } from '../platform/app-error';
import { WriteBehind } from '../platform/write-behind';
import type { RosterService } from '../roster/roster.service';

/** Visits of a client that are told. */
const MOST_VISITS = 20;
/** Visits are written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_AT_ONCE] = [500, 1000];

interface Visit {
  readonly mac: string;
  readonly deviceId: string;
  /** In milliseconds since 1970. */
  readonly since: number;
  readonly band: Band | null;
  readonly ssid: string;
}

/** Clients on the air as APs report them, and where each was: its roaming. */
export class AirClientService {
  /** Who was where since when, as last heard, by device and MAC address. */
  private readonly known = new Map<string, Map<string, number>>();
  private readonly visits: WriteBehind<Visit>;

  constructor(
    private readonly database: Sequelize,
    private readonly rosters: RosterService,
    failed: (error: unknown) => void,
  ) {
    this.visits = new WriteBehind<Visit>({
      write: (entries) => this.write([...entries.values()]),
      merge: (_older, newer) => newer,
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_AT_ONCE,
    });
  }

  close(): Promise<void> {
    return this.visits.close();
  }

  /** Writes what waits, at once. */
  flush(): Promise<void> {
    return this.visits.flush();
  }

  /** Who is on the air of a site, and who tries in vain. */
  async of(siteId: string): Promise<AirClientsView> {
    if (!(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    const devices = await this.rosters.devices(siteId);
    const there = devices.flatMap(({ id, name, report }) =>
      (report?.clients ?? []).map((client) => ({ ...client, deviceId: id, deviceName: name! })),
    );
    const visits = await this.visitsOf(there.map(({ mac }) => mac));
    return {
      clients: there.map((client) => ({ ...client, visits: visits.get(client.mac) ?? [] })),
      refused: devices.flatMap(({ id, name, report }) =>
        (report?.refused ?? []).map((each) => ({ ...each, deviceId: id, deviceName: name! })),
      ),
    };
  }

  /** An AP reported its clients: those that are new there are a visit. */
  reported({ deviceId }: Speaker, clients: readonly ClientReport[]): void {
    const before = this.known.get(deviceId);
    const now = new Map<string, number>();
    for (const { mac, since, band, ssid } of clients) {
      if (since === undefined) continue;
      now.set(mac, since);
      if (before?.get(mac) !== since)
        this.visits.put(`${deviceId} ${mac} ${since}`, { mac, deviceId, since, band: band ?? null, ssid });
    }
    if (now.size === 0) this.known.delete(deviceId);
    else this.known.set(deviceId, now);
  }

  private async visitsOf(macs: readonly string[]): Promise<ReadonlyMap<string, AirVisit[]>> {
    if (macs.length === 0) return new Map();
    const rows = await this.database.query<{
      mac: string;
      device_id: string;
      name: string;
      band: Band | null;
      at: Date;
    }>(
      `SELECT v.mac, v.device_id, coalesce(d.name, d.serial) AS name, v.band, v.at FROM (
         SELECT *, row_number() OVER (PARTITION BY mac ORDER BY at DESC) AS nth FROM air_visit WHERE mac = ANY(ARRAY[:macs])) v
       JOIN device d ON d.id = v.device_id WHERE v.nth <= ${MOST_VISITS} ORDER BY v.at DESC`,
      { replacements: { macs: [...new Set(macs)] }, type: QueryTypes.SELECT },
    );
    const found = new Map<string, AirVisit[]>();
    for (const { mac, device_id, name, band, at } of rows) {
      const list = found.get(mac) ?? [];
      list.push({ deviceId: device_id, deviceName: name, band, at: at.toISOString() });
      found.set(mac, list);
    }
    return found;
  }

  private async write(visits: readonly Visit[]): Promise<Iterable<string>> {
    await this.database.query(
      `INSERT INTO air_visit (mac, device_id, at, band)
       SELECT r.mac, r.id, to_timestamp(r.since / 1000.0), r.band
       FROM jsonb_to_recordset(:rows::jsonb) AS r(mac text, id uuid, since numeric, band text, ssid text)
       JOIN device d ON d.id = r.id WHERE client_is_kept(d.id, r.ssid)
       ON CONFLICT DO NOTHING`,
      { replacements: { rows: JSON.stringify(visits.map(({ deviceId, ...rest }) => ({ ...rest, id: deviceId }))) } },
    );
    return [];
  }
}
