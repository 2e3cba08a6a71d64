import type { ServerMethods, StrangeClass, UplinkAddress } from '@iron-lattice/core/assess';
import { hashOfDocument, standsBy, type DeviceDocument, type PairRole } from '@iron-lattice/core/document';
import {
  fixedAddressIn,
  MESH_PORT,
  resolve,
  type Link,
  type RosterDevice,
  type SitePair,
} from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import { literal, Op, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Bus } from '../platform/bus';
import {
  Device,
  DocumentRow,
  EXPECTED_FIELDS,
  expectedRow,
  ROSTER_FIELDS,
  rosterDeviceOf,
  type CabledRow,
  type RosterRow,
} from './device.model';
import { devicesInRollout } from './in-rollout';
import { methodsAmong, METHODS_SQL } from './server-methods';
import { strangersOf } from './strangers';

/** What of a device the address plan asks. */
export interface DeviceAddresses {
  readonly siteId: string;
  readonly name: string;
  readonly address: string | null;
  readonly leases: readonly string[];
  readonly uplinks: readonly { readonly port: string; readonly address: string }[];
}

/** Of a report, how a device is connected. */
const CABLING = literal(
  `CASE WHEN report IS NOT NULL THEN jsonb_build_object('neighbours', report->'neighbours', 'uplinks', report->'uplinks',
     'unknown', jsonb_path_query_array(report, '$.unknown[*] ? (@.why == "class")'),
     'refused', jsonb_path_query_array(report, '$.refused[*] ? (@.why == "class")'), 'methods', ${METHODS_SQL}) END`,
);
/** Documents of one statement. */
const STORED_AT_ONCE = 200;

/** Which devices are ours, how they are cabled as they report it, and what each should run. */
export class RosterService {
  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {}

  /** Claimed devices of one site, of some, or of the estate; by name. */
  async devices(siteId?: string | readonly string[], transaction?: Transaction): Promise<Device[]> {
    return Device.findAll({
      where: { siteId: siteId === undefined ? { [Op.ne]: null } : { [Op.in]: [siteId].flat() } },
      order: ['name'],
      ...(transaction ? { transaction } : {}),
    });
  }

  /** Those of some devices that run what nobody here sent: somebody changed them past this controller. */
  async changedByHand<T extends Pick<Device, 'runs' | 'wants'>>(devices: readonly T[]): Promise<T[]> {
    const other = devices.filter(({ runs, wants }) => runs !== null && runs !== wants);
    if (other.length === 0) return [];
    const rows = await DocumentRow.findAll({ attributes: ['hash'], where: { hash: other.map(({ runs }) => runs!) } });
    const sent = new Set(rows.map(({ hash }) => hash));
    return other.filter(({ runs }) => !sent.has(runs!));
  }

  /** The same by all that compiling and drafts ask of a device, without what it reports and as plain rows: thousands at a time. */
  async roster(transaction?: Transaction): Promise<RosterRow[]> {
    return Device.findAll({
      attributes: [...ROSTER_FIELDS],
      where: { siteId: { [Op.ne]: null } },
      order: ['name'],
      raw: true,
      ...(transaction ? { transaction } : {}),
    });
  }

  /** Devices that are announced and not taken in yet, as far as it is known of which model they are: nothing of theirs is told to anybody. */
  async expected(transaction?: Transaction): Promise<RosterRow[]> {
    const rows = await Device.findAll({
      attributes: [...ROSTER_FIELDS, ...EXPECTED_FIELDS],
      where: { siteId: null, expectedSiteId: { [Op.ne]: null } },
      order: ['expectedName', 'serial'],
      raw: true,
      ...(transaction ? { transaction } : {}),
    });
    return rows.flatMap((row) => expectedRow(row) ?? []);
  }

  /** Another text when other devices are ours or expected, or what is said of them changed: told without reading them. */
  async stamp(): Promise<string> {
    const [row] = await this.database.query<{ stamp: string }>(
      `SELECT concat_ws(' ', count(*), sum(version),
         sum(hashtext(concat(id, site_id, name, fixed, expected_site_id, expected_name, expected_model))::bigint)) AS stamp
       FROM device WHERE site_id IS NOT NULL OR expected_site_id IS NOT NULL`,
      { type: QueryTypes.SELECT },
    );
    return row!.stamp;
  }

  /**
   * Those of some sites with how they are connected, as plain rows: many thousands are asked after one edit. A site at which no device
   * was taken in yet stands as it will with those that are expected there.
   */
  async cabled(siteIds: readonly string[]): Promise<CabledRow[]> {
    const rows = await Device.findAll({
      attributes: [...ROSTER_FIELDS, ...EXPECTED_FIELDS, 'tags', 'online', 'runs', [CABLING, 'report']],
      where: { [Op.or]: [{ siteId: [...siteIds] }, { siteId: null, expectedSiteId: [...siteIds] }] },
      order: ['name', 'expectedName', 'serial'],
      raw: true,
    });
    const begun = new Set(rows.flatMap(({ siteId }) => siteId ?? []));
    return (rows as readonly (CabledRow & Device)[]).flatMap((row): CabledRow[] => {
      if (row.siteId !== null) return [row];
      const coming = begun.has(row.expectedSiteId!) ? undefined : expectedRow(row);
      // What it runs and sees where it calls from is not what it will be told here.
      return coming ? [{ ...coming, online: false, runs: null, wants: null, report: null }] : [];
    });
  }

  /** Classes that servers named to devices that do not know them, with how many clients they were named for; in a stable order. */
  strangersAmong(devices: readonly Pick<CabledRow, 'online' | 'report'>[]): StrangeClass[] {
    const found = new Map<string, StrangeClass>();
    for (const { online, report } of devices)
      for (const { server, said } of online ? strangersOf(report) : []) {
        const key = JSON.stringify([server, said]);
        found.set(key, { server, said, count: (found.get(key)?.count ?? 0) + 1 });
      }
    return [...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, each]) => each);
  }

  /** What clients of devices make of servers, where that is worth telling. */
  methodsAmong(devices: readonly Pick<CabledRow, 'online' | 'report'>[]): ServerMethods[] {
    return methodsAmong(devices.map(({ online, report }) => ({ methods: online ? (report?.methods ?? null) : null })));
  }

  /**
   * Cables between devices of ours and links by radio, each once, in a stable order. One that a device which has reported since it
   * called does not report itself is marked as reported by the other alone.
   */
  linksAmong(devices: readonly Pick<CabledRow, 'id' | 'mac' | 'online' | 'report'>[]): Link[] {
    const byMac = new Map(devices.map((device) => [device.mac, device]));
    const links = new Map<string, { link: Link; by: Set<string> }>();
    for (const device of devices) {
      for (const { port, chassis, theirPort, hangs } of device.report?.neighbours ?? []) {
        const neighbour = byMac.get(chassis);
        // Of a link by radio only the one that hangs there tells.
        if (!neighbour || (port === MESH_PORT && !hangs)) continue;
        const ends = [
          { deviceId: device.id, port },
          { deviceId: neighbour.id, port: theirPort },
        ].sort((a, b) => (`${a.deviceId} ${a.port}` < `${b.deviceId} ${b.port}` ? -1 : 1));
        const [a, b] = ends as [Link['a'], Link['b']];
        const key = `${a.deviceId} ${a.port} ${b.deviceId} ${b.port}`;
        const of = hangs ? { hangs: a.deviceId === device.id ? ('a' as const) : ('b' as const) } : {};
        const known = links.get(key) ?? { link: { a, b, ...of }, by: new Set<string>() };
        known.by.add(device.id);
        links.set(key, known);
      }
    }
    const heard = new Set(devices.filter((each) => each.online && each.report !== null).map((each) => each.id));
    return [...links.keys()].sort().map((key): Link => {
      const { link, by } = links.get(key)!;
      if (by.size > 1 || link.hangs) return link;
      const silent = by.has(link.a.deviceId) ? link.b : link.a;
      return heard.has(silent.deviceId) ? { ...link, only: silent === link.b ? 'a' : 'b' } : link;
    });
  }

  /** Uplinks that are up, with the address each was given. */
  uplinksAmong(devices: readonly Pick<CabledRow, 'id' | 'report'>[]): UplinkAddress[] {
    return devices.flatMap((device) =>
      (device.report?.uplinks ?? []).flatMap(({ port, up, address, prefix, gateway }) => {
        const given = { ...(prefix === undefined ? {} : { prefix }), ...(gateway === undefined ? {} : { gateway }) };
        return up && address !== null ? [{ deviceId: device.id, port, address, ...given }] : [];
      }),
    );
  }

  /** Addresses that devices have, gave out, and were given on uplinks, without the rest of what they report. */
  async addresses(): Promise<DeviceAddresses[]> {
    return this.database.query<DeviceAddresses>(
      `SELECT site_id AS "siteId", name, coalesce(address, fixed->>'address') AS address,
         coalesce(jsonb_path_query_array(report, '$.leases[*].address'), '[]') AS leases,
         coalesce(jsonb_path_query_array(report, '$.uplinks[*] ? (@.up == true && @.address != null)'), '[]') AS uplinks
       FROM device WHERE site_id IS NOT NULL ORDER BY name`,
      { type: QueryTypes.SELECT },
    );
  }

  /** Which of a pair of gateways routes, as they last told; the first, where none told that it does. @param documents of the devices of a site. */
  async pairRoutes(documents: ReadonlyMap<string, DeviceDocument>): Promise<PairRole> {
    const second = [...documents].find(([, document]) => standsBy(document))?.[0];
    if (second === undefined) return 'first';
    const [row] = await this.database.query<{ routes: boolean }>(
      `SELECT true AS routes FROM path_now WHERE device_id = :second AND report->'pair'->>'state' = 'active'`,
      { replacements: { second }, type: QueryTypes.SELECT },
    );
    return row ? 'second' : 'first';
  }

  /** Documents by hash. */
  async documents(hashes: readonly (string | null)[]): Promise<Map<string, DeviceDocument>> {
    const wanted = [...new Set(hashes.filter((hash) => hash !== null))];
    const rows = await DocumentRow.findAll({ where: { hash: { [Op.in]: wanted } }, raw: true });
    return new Map(rows.map((row) => [row.hash, row.body]));
  }

  /** The same as the texts they are kept as, for whoever hands thousands of them on. */
  async documentTexts(hashes: readonly (string | null)[]): Promise<Map<string, string>> {
    const wanted = [...new Set(hashes.filter((hash) => hash !== null))];
    const rows = await this.database.query<{ hash: string; text: string }>(
      'SELECT hash, body::text AS text FROM document WHERE hash = ANY(ARRAY[:wanted]::char(64)[])',
      { replacements: { wanted: wanted.length > 0 ? wanted : [null] }, type: QueryTypes.SELECT },
    );
    return new Map(rows.map(({ hash, text }) => [hash, text]));
  }

  /** Stores documents. @returns hash by device id. */
  async store(documents: ReadonlyMap<string, DeviceDocument>, transaction?: Transaction): Promise<Map<string, string>> {
    const hashes = new Map([...documents].map(([id, document]) => [id, hashOfDocument(document)]));
    const rows = [...documents].map(([id, body]) => ({ hash: hashes.get(id)!, body }));
    for (let at = 0; at < rows.length; at += STORED_AT_ONCE)
      await DocumentRow.bulkCreate(rows.slice(at, at + STORED_AT_ONCE), {
        ignoreDuplicates: true,
        ...(transaction ? { transaction } : {}),
      });
    return hashes;
  }

  /**
   * Makes what each device of a site should run follow what is live there. Devices that change are not told yet:
   * call `sync` for them once the transaction is through.
   * @returns ids of the devices that should run something else now.
   */
  async retarget(live: SitePair, siteId: string, transaction: Transaction): Promise<string[]> {
    const devices = await this.devices(siteId, transaction);
    const documents = compileSite(resolve(live.estate, live.site), devices.map(rosterOf));
    const hashes = await this.store(documents, transaction);
    const changed: string[] = [];
    const beingTold = await devicesInRollout(this.database, transaction);
    for (const device of devices) {
      const wants = hashes.get(device.id)!;
      // What a rollout tells a device stands until the rollout is over; then all are looked at again.
      if (device.wants === wants || beingTold.has(device.id)) continue;
      await device.update({ wants, trouble: null }, { transaction });
      changed.push(device.id);
    }
    return changed;
  }

  /** Writes down the fixed addresses that went along when the segment of a site's devices moved. */
  async settleFixed({ site }: SitePair, siteId: string, transaction: Transaction): Promise<void> {
    const management = site.segments.find((segment) => segment.id === site.managementId)!;
    for (const device of await this.devices(siteId, transaction)) {
      const fixed = device.fixed && fixedAddressIn(device.fixed, management);
      if (fixed && fixed !== device.fixed) await device.update({ fixed }, { transaction });
    }
  }

  /** Asks whoever holds their lines to bring devices into step. */
  async sync(deviceIds: readonly string[]): Promise<void> {
    for (const deviceId of deviceIds) await this.bus.send('sync', { deviceId });
  }
}

/** For `map`: a device as compiling wants it. */
export const rosterOf = (device: RosterRow): RosterDevice => rosterDeviceOf(device);
