import type { RegisterErased, RegisterKeeping } from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../../intent/intent.service';
import { unknown } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { note } from '../../platform/journal';
import { CLIENT_TRACES } from '../../roster/client-traces';
import { MOST_OF_DEVICE, MOST_PLACES } from './register-book';

declare module '../../platform/bus' {
  interface BusMessages {
    /** What is kept of clients changed: whoever writes them down looks at all of them anew. */
    register: Record<string, never>;
  }
}

/** Clients that are erased and places that are forgotten by what is to be kept: of whom nothing may be, or who was not seen for so long. */
const LOST = `WITH lost AS (
    SELECT p.mac, p.device_id, p.place FROM client_place p
    WHERE p.site_id IN (SELECT jsonb_array_elements_text(:siteIds::jsonb)::uuid) OR p.ssid IN (SELECT jsonb_array_elements_text(:ssids::jsonb))),
  gone AS (
    SELECT c.mac, c.name <> '' OR c.note <> '' AS noted FROM client_seen c WHERE NOT c.here AND c.last_at < now() - make_interval(days => :days)
    UNION SELECT c.mac, c.name <> '' OR c.note <> '' FROM client_seen c
      WHERE c.mac IN (SELECT mac FROM lost) AND NOT EXISTS (
        SELECT 1 FROM client_place p WHERE p.mac = c.mac AND NOT EXISTS (
          SELECT 1 FROM lost l WHERE l.mac = p.mac AND l.device_id = p.device_id AND l.place = p.place)))`;
const DAYS = `make_interval(days => (SELECT days FROM register_keeping))`;

/** Erases who was not seen for as long as is kept, and what is more than has room; whoever is at a device that is not heard was there until then. */
export const REGISTER_HOUSEKEEPING: readonly string[] = [
  `UPDATE client_place p SET here = false, last_at = greatest(p.last_at, d.heard_at) FROM device d
   WHERE d.id = p.device_id AND p.here AND NOT d.online`,
  `UPDATE client_seen c SET here = false, last_at = coalesce((SELECT max(p.last_at) FROM client_place p WHERE p.mac = c.mac), c.last_at)
   WHERE c.here AND NOT EXISTS (SELECT 1 FROM client_place p WHERE p.mac = c.mac AND p.here)`,
  `DELETE FROM client_place WHERE NOT here AND last_at < now() - ${DAYS}`,
  `DELETE FROM client_place p USING (SELECT ctid, row_number() OVER (PARTITION BY mac ORDER BY here DESC, last_at DESC) AS n
   FROM client_place WHERE mac IN (SELECT mac FROM client_place GROUP BY mac HAVING count(*) > ${MOST_PLACES})) o WHERE o.ctid = p.ctid AND o.n > ${MOST_PLACES}`,
  `DELETE FROM client_place p USING (SELECT ctid, row_number() OVER (PARTITION BY device_id ORDER BY here DESC, last_at DESC) AS n
   FROM client_place WHERE device_id IN (SELECT device_id FROM client_place GROUP BY device_id HAVING count(*) > ${MOST_OF_DEVICE})) o WHERE o.ctid = p.ctid AND o.n > ${MOST_OF_DEVICE}`,
  `DELETE FROM client_seen c WHERE NOT here AND last_at < now() - ${DAYS}`,
  ...CLIENT_TRACES.map(({ table, at }) => `DELETE FROM ${table} WHERE ${at} < now() - ${DAYS}`),
  // Of whom no place is left since there were too many: what has a name or a note stays for its days.
  `DELETE FROM client_seen c WHERE name = '' AND note = '' AND NOT EXISTS (SELECT 1 FROM client_place p WHERE p.mac = c.mac)`,
];

/** What of clients is kept, where, and for how long. */
export class KeepingService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    /** Once all that waits to be kept of clients is written. */
    private readonly settled: () => Promise<void>,
    private readonly bus: Bus,
  ) {}

  async now(transaction?: Transaction): Promise<RegisterKeeping> {
    const options = { type: QueryTypes.SELECT as const, ...(transaction ? { transaction } : {}) };
    const rows = await this.database.query<{ kind: string; id: string }>(
      'SELECT kind, id FROM register_nothing ORDER BY name, id',
      options,
    );
    const [keeping] = await this.database.query<{ days: number }>('SELECT days FROM register_keeping', options);
    const of = (kind: string) => rows.filter((row) => row.kind === kind).map(({ id }) => id);
    return { days: keeping!.days, siteIds: of('site'), ssidIds: of('ssid') };
  }

  /** What would be erased at once if that were kept. */
  async erases(keeping: RegisterKeeping): Promise<RegisterErased> {
    await this.settled();
    return this.count(await this.named(keeping));
  }

  /** Keeps that from now on, and erases at once what is not to be kept. */
  async set(keeping: RegisterKeeping, personId: string): Promise<RegisterErased> {
    await this.settled();
    const named = await this.named(keeping);
    const erased = await this.database.transaction(async (transaction) => {
      // Nobody writes clients down meanwhile who does not know yet.
      await this.database.query('LOCK TABLE client_place, register_nothing IN SHARE ROW EXCLUSIVE MODE', {
        transaction,
      });
      const replacements = named.replacements;
      await this.database.query('DELETE FROM register_nothing', { transaction });
      await this.database.query(
        `INSERT INTO register_nothing (kind, id, name)
         SELECT kind, id, name FROM jsonb_to_recordset(:nothing::jsonb) AS r(kind text, id uuid, name text)`,
        { replacements, transaction },
      );
      await this.database.query('UPDATE register_keeping SET days = :days', { replacements, transaction });
      const counted = await this.count(named, transaction);
      for (const { table } of CLIENT_TRACES)
        await this.database.query(
          `${LOST} DELETE FROM ${table} t WHERE (t.mac, t.device_id) IN (SELECT mac, device_id FROM lost)
             OR t.device_id IN (SELECT id FROM device WHERE site_id IN (SELECT jsonb_array_elements_text(:siteIds::jsonb)::uuid))`,
          { replacements, transaction },
        );
      await this.database.query(`${LOST} DELETE FROM client_seen WHERE mac IN (SELECT mac FROM gone)`, {
        replacements,
        transaction,
      });
      await this.database.query(
        `${LOST} DELETE FROM client_place p USING lost l WHERE l.mac = p.mac AND l.device_id = p.device_id AND l.place = p.place`,
        { replacements, transaction },
      );
      await this.database.query(REGISTER_HOUSEKEEPING[1]!, { transaction });
      const { days, siteIds, ssidIds } = keeping;
      const detail = { days, sites: siteIds.length, ssids: ssidIds.length, erased: counted.clients };
      await note(this.database, personId, 'register.keep', detail, transaction);
      return counted;
    });
    await this.bus.send('register', {});
    return erased;
  }

  private async count({ replacements }: Named, transaction?: Transaction): Promise<RegisterErased> {
    const [row] = await this.database.query<RegisterErased>(
      `${LOST} SELECT (SELECT count(*)::int FROM gone) AS clients, (SELECT count(*)::int FROM gone WHERE noted) AS noted,
         (SELECT count(*)::int FROM lost WHERE mac NOT IN (SELECT mac FROM gone)) AS places`,
      { replacements, type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
    );
    return row!;
  }

  /** What is to be kept with the names that SSIDs have now; those that are no more keep the name they had. @throws AppError where something is not there. */
  private async named({ days, siteIds, ssidIds }: RegisterKeeping): Promise<Named> {
    const { intent, pairs } = await this.intents.live();
    const known = await this.database.query<{ id: string; name: string }>('SELECT id, name FROM register_nothing', {
      type: QueryTypes.SELECT,
    });
    const nothing = [
      ...siteIds.map((id) => {
        const site = intent.sites.get(id);
        if (!site) throw unknown('site');
        return { kind: 'site', id, name: site.name };
      }),
      ...ssidIds.map((id) => {
        const here = [intent.estate, ...[...pairs.values()].map(({ estate }) => estate)];
        const name =
          here.flatMap(({ ssids }) => ssids).find((ssid) => ssid.id === id)?.name ??
          known.find((each) => each.id === id)?.name;
        if (name === undefined) throw unknown('SSID that is live');
        return { kind: 'ssid', id, name };
      }),
    ];
    const ssids = nothing.filter(({ kind }) => kind === 'ssid').map(({ name }) => name);
    return {
      replacements: {
        ...{ days, siteIds: JSON.stringify(siteIds), ssids: JSON.stringify(ssids), nothing: JSON.stringify(nothing) },
      },
    };
  }
}
interface Named {
  readonly replacements: { readonly days: number; siteIds: string; ssids: string; nothing: string };
}
