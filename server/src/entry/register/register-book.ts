import { LRUCache } from 'lru-cache';
import type { Report } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../../platform/clock';
import { WriteBehind } from '../../platform/write-behind';

const WRITE_MS = 1000;
/** Devices of one statement. */
const MOST_AT_ONCE = 100;
/** Clients that are new at one device, of a day; more are not kept. */
const MOST_OF_DAY = 20_000;
/** Clients that were last seen at one device, and places of one client, of which the latest stay. */
export const MOST_OF_DEVICE = 20_000;
export const MOST_PLACES = 100;
/** Clients of whom it is remembered how they called themselves. */
const MOST_CALLED = 100_000;

/** What is kept of a client at a place. */
export interface KeptStay {
  readonly vlan: number;
  /** The address at another site that it was carried to. */
  readonly to?: string;
  readonly address?: string;
  readonly user?: string;
  readonly server?: string;
  readonly classId?: string;
}
interface Here {
  readonly mac: string;
  readonly place: string;
  readonly ssid: string | null;
  readonly said: string;
  readonly since: number | null;
  readonly body: KeptStay;
}

/** What is to be written of a device: who came or changed, who went; and whether it is not known who was there before. */
interface News {
  readonly here: ReadonlyMap<string, Here>;
  readonly changed: ReadonlySet<string>;
  readonly gone: ReadonlySet<string>;
  readonly all: boolean;
  /** As clients called themselves when they asked for an address, by MAC address: of those that are news. */
  readonly names: ReadonlyMap<string, string>;
}
interface Remembered {
  readonly said: ReadonlyMap<string, string>;
  /** Whether the register still has that as it was told: not once the line ended, or what is kept changed. */
  readonly holds: boolean;
  readonly day: string;
  readonly count: number;
}

/** Keeps whom devices see: first, last, where and as what. */
export class RegisterBook {
  private readonly remembered = new Map<string, Remembered>();
  private readonly waiting: WriteBehind<News>;
  /** As clients called themselves, whichever device gave them their address: it is another one than they are at. */
  private readonly called = new LRUCache<string, string>({ max: MOST_CALLED });

  constructor(
    private readonly database: Sequelize,
    bad: (deviceId: string, error: unknown) => void,
    failed: (error: unknown) => void,
  ) {
    this.waiting = new WriteBehind<News>({
      write: (entries) => this.write(entries),
      merge: (older, newer) => ({
        here: newer.here,
        changed: new Set([...older.changed, ...newer.changed].filter((key) => newer.here.has(key))),
        gone: new Set([...older.gone, ...newer.gone].filter((key) => !newer.here.has(key))),
        all: older.all || newer.all,
        names: new Map([...older.names, ...newer.names]),
      }),
      bad: (deviceId, error) => {
        this.left(deviceId);
        bad(deviceId, error);
      },
      failed,
      soonMs: WRITE_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** Takes whom a device sees now: who is there as before is no news. */
  take(deviceId: string, report: Pick<Report, 'clients' | 'wired' | 'leases'>): void {
    const names = new Map<string, string>();
    for (const { mac, name } of report.leases)
      if (name && this.called.get(mac) !== name) {
        names.set(mac, name);
        this.called.set(mac, name);
      }
    const here = new Map(
      hereOf(report, (mac) => this.called.get(mac) ?? '').map((each) => [`${each.mac} ${each.place}`, each]),
    );
    const before = this.remembered.get(deviceId);
    const day = new Date(clock.now()).toISOString().slice(0, 10);
    const count = before?.day === day ? before.count : 0;
    const said = new Map([...here].map(([key, each]) => [key, JSON.stringify(each)]));
    const all = !before?.holds;
    const changed = new Set(
      [...said].filter(([key, text]) => all || before.said.get(key) !== text).map(([key]) => key),
    );
    // Whoever it told of before costs no new row, however often its line ends.
    const news = [...changed].filter((key) => !before?.said.has(key));
    for (const key of news.slice(Math.max(0, MOST_OF_DAY - count))) {
      changed.delete(key);
      said.delete(key);
    }
    // Where it is not known who was there last, it is looked up.
    const gone = new Set(all ? [] : [...before.said.keys()].filter((key) => !here.has(key)));
    this.remembered.set(deviceId, { said, holds: true, day, count: Math.min(MOST_OF_DAY, count + news.length) });
    if (changed.size + gone.size + names.size > 0 || all)
      this.waiting.put(deviceId, { here, changed, gone, all, names });
  }

  /** A device is not heard any more: what it says next is taken anew. */
  left(deviceId: string): void {
    const before = this.remembered.get(deviceId);
    if (before) this.remembered.set(deviceId, { ...before, holds: false });
  }

  /** What is kept was changed: everybody is looked at anew. */
  anew(): void {
    for (const deviceId of this.remembered.keys()) this.left(deviceId);
  }

  /** Writes what waits, at once. */
  async flush(): Promise<void> {
    await this.waiting.flush();
  }

  async close(): Promise<void> {
    await this.waiting.close();
  }

  private async write(entries: ReadonlyMap<string, News>): Promise<Iterable<string>> {
    const came = [...entries].flatMap(([device, { here, changed }]) =>
      [...changed].map((key) => ({ device, ...here.get(key)! })),
    );
    const gone = [...entries].flatMap(([device, news]) =>
      [...news.gone].map((key) => ({ device, mac: key.slice(0, 17), place: key.slice(18) })),
    );
    const anew = [...entries].flatMap(([device, { all, here }]) => (all ? [{ device, keys: [...here.keys()] }] : []));
    const replacements = {
      came: JSON.stringify(came),
      gone: JSON.stringify(gone),
      anew: JSON.stringify(anew),
      names: JSON.stringify(
        [...entries.values()].flatMap(({ names }) => [...names].map(([mac, name]) => ({ mac, name }))),
      ),
    };
    await this.database.transaction(async (transaction) => {
      const run = (sql: string) => this.database.query(sql, { replacements, transaction, type: QueryTypes.RAW });
      // Rows are taken in one order everywhere, so that two controllers never wait for each other.
      await run(`${CAME}, seen AS (
          INSERT INTO client_seen AS c (mac, said) SELECT mac, max(said) FROM kept GROUP BY mac ORDER BY mac
          ON CONFLICT (mac) DO UPDATE SET here = true, last_at = now(), said = CASE WHEN excluded.said = '' THEN c.said ELSE excluded.said END)
        INSERT INTO client_place AS p (mac, device_id, place, site_id, ssid, body, since)
        SELECT mac, device, place, site_id, ssid, body, since FROM kept ORDER BY mac, device, place
        ON CONFLICT (mac, device_id, place) DO UPDATE SET here = true, last_at = now(), site_id = excluded.site_id, ssid = excluded.ssid,
          body = excluded.body, since = excluded.since, times = p.times + CASE WHEN p.since IS DISTINCT FROM excluded.since THEN 1 ELSE 0 END`);
      await run(`UPDATE client_seen c SET said = n.name FROM (
          SELECT mac, max(name) AS name FROM jsonb_to_recordset(:names::jsonb) AS r(mac text, name text) GROUP BY mac ORDER BY mac) n
        WHERE c.mac = n.mac AND c.said <> n.name`);
      const left = await this.database.query<{ mac: string }>(
        `${GONE} UPDATE client_place p SET here = false, last_at = now() FROM gone g
         WHERE p.mac = g.mac AND p.device_id = g.device AND p.place = g.place AND p.here RETURNING p.mac`,
        { replacements, transaction, type: QueryTypes.SELECT },
      );
      const macs = JSON.stringify([...new Set(left.map(({ mac }) => mac))].sort());
      await this.database.query(
        `UPDATE client_seen c SET last_at = now(), here = EXISTS (SELECT 1 FROM client_place p WHERE p.mac = c.mac AND p.here)
         FROM jsonb_array_elements_text(:macs::jsonb) AS g(mac) WHERE c.mac = g.mac`,
        { replacements: { macs }, transaction },
      );
    });
    return [];
  }
}

/** Who came, of whom something may be kept: no device of ours, and neither its site nor its SSID is one of whose clients nothing is. */
const CAME = `WITH kept AS (
  SELECT r.*, d.site_id FROM jsonb_to_recordset(:came::jsonb)
    AS r(device uuid, mac text, place text, ssid text, said text, since bigint, body jsonb)
  JOIN device d ON d.id = r.device AND d.site_id IS NOT NULL
  WHERE NOT EXISTS (SELECT 1 FROM device o WHERE o.mac = r.mac)
    AND client_is_kept(d.id, r.ssid))`;
/** Who went, and who stood as being where a device was heard anew and does not see them. */
const GONE = `WITH gone AS (
  SELECT r.device, r.mac, r.place FROM jsonb_to_recordset(:gone::jsonb) AS r(device uuid, mac text, place text)
  UNION SELECT p.device_id, p.mac, p.place FROM jsonb_to_recordset(:anew::jsonb) AS r(device uuid, keys jsonb)
    JOIN client_place p ON p.device_id = r.device AND p.here WHERE NOT jsonb_exists(r.keys, p.mac || ' ' || p.place))`;

/** Whether it is somebody's own address: neither none, nor one of a group (IEEE 802-2014 §8.2). */
const isClient = ({ mac }: { readonly mac: string }): boolean =>
  /^[0-9a-f][02468ace](:[0-9a-f]{2}){5}$/.test(mac) && mac !== '00:00:00:00:00:00';

/** Whom a report has on the air and at ports. */
function hereOf({ clients, wired }: Pick<Report, 'clients' | 'wired'>, nameOf: (mac: string) => string): Here[] {
  const one = (
    { mac, vlan, since, named, entered, classId }: NonNullable<Report['wired']>[number] | Report['clients'][number],
    { place, ssid, said, address, to }: Pick<Here, 'place' | 'ssid' | 'said'> & { address: string | null; to?: string },
  ): Here => ({
    ...{ mac, place, ssid, said, since: since ?? null },
    body: {
      vlan,
      ...(to === undefined ? {} : { to }),
      ...(address === null ? {} : { address }),
      ...(entered ? { user: entered.user } : {}),
      ...(entered || named ? { server: (entered ?? named)!.server } : {}),
      ...(classId === undefined ? {} : { classId }),
    },
  });
  return [
    ...clients.filter(isClient).map((each) =>
      one(each, {
        ...{ place: `ssid ${each.ssid}`, ssid: each.ssid, address: each.address },
        ...(each.to === undefined ? {} : { to: each.to }),
        said: each.name || nameOf(each.mac),
      }),
    ),
    ...(wired ?? [])
      .filter(isClient)
      .map((each) => one(each, { place: `port ${each.port}`, ssid: null, address: null, said: nameOf(each.mac) })),
  ];
}
