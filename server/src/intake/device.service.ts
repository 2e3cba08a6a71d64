import { differenceOf, type Difference } from '@iron-lattice/core/document';
import type { DeviceView, FirstView, HistoryEntry, NeighbourView } from '@iron-lattice/core/intake';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { unknown } from '../platform/app-error';
import { Device, fingerprintOf } from '../roster/device.model';
import type { DeviceRowReader } from './device-rows';
import { historyWords } from './history-words';
import type { RosterService } from '../roster/roster.service';

const HISTORY = 100;

/** Devices as people see them. */
export class DeviceService {
  constructor(
    private readonly database: Sequelize,
    private readonly reader: DeviceRowReader,
    private readonly rosters: RosterService,
  ) {}

  /** Devices of a site by name, or without one those that are calling, by serial number. */
  async list(siteId: string | null): Promise<DeviceView[]> {
    const where = siteId === null ? { siteId: null, online: true } : { siteId };
    return this.views(await Device.findAll({ where, order: siteId === null ? ['serial'] : ['name'] }));
  }

  async get(id: string): Promise<DeviceView> {
    const device = await Device.findByPk(id);
    if (!device) throw unknown('device');
    return (await this.views([device]))[0]!;
  }

  /** What happened to a device, newest first; a box that replaced another goes on with the other's. */
  async history(id: string): Promise<HistoryEntry[]> {
    const rows = await this.database.query<{
      at: Date;
      act: string;
      detail: Record<string, unknown>;
      name: string | null;
    }>(
      `SELECT j.at, j.act, j.detail, p.name FROM journal j LEFT JOIN person p ON p.id = j.person_id
       WHERE j.device_id = :id ORDER BY j.id DESC LIMIT ${HISTORY}`,
      { replacements: { id }, type: QueryTypes.SELECT },
    );
    return rows.map(({ at, act, detail, name }) => ({
      at: at.toISOString(),
      by: name,
      words: historyWords(act, detail),
    }));
  }

  /** What a device should run against what it runs, line by line; `null` when it should run nothing. */
  async difference(id: string): Promise<{ difference: Difference | null; known: boolean }> {
    const device = await Device.findByPk(id);
    if (!device) throw unknown('device');
    const documents = await this.rosters.documents([device.runs, device.wants]);
    const wants = device.wants === null ? undefined : documents.get(device.wants);
    const runs = device.runs === null ? undefined : documents.get(device.runs);
    return {
      difference: wants ? differenceOf(runs ?? null, wants) : null,
      known: device.runs === null || runs !== undefined,
    };
  }

  private async views(devices: readonly Device[]): Promise<DeviceView[]> {
    if (devices.length === 0) return [];
    const { rows } = await this.reader.rows({ ids: devices.map((device) => device.id) });
    const byId = new Map(rows.map((row) => [row.id, row]));
    const heard = devices.flatMap((device) => (device.report?.neighbours ?? []).map((each) => each.chassis));
    const others = await Device.findAll({
      attributes: ['id', 'mac', 'name', 'serial'],
      where: { mac: { [Op.in]: [...new Set(heard)] } },
    });
    const byMac = new Map(others.map((other) => [other.mac, other]));
    return devices.flatMap((device): DeviceView[] => {
      const row = byId.get(device.id);
      if (!row) return []; // neither claimed, nor expected, nor calling
      return [
        {
          ...row,
          version: device.version,
          // Read at another moment than the row: what belongs together comes from one of them.
          state: device.state,
          trouble: device.trouble,
          updating: device.updating,
          fingerprint: device.publicKey ? fingerprintOf(device.publicKey) : (device.expectedKey ?? ''),
          runs: device.runs,
          wants: device.wants,
          clients: device.report?.clients ?? [],
          neighbours: (device.report?.neighbours ?? []).map(({ port, chassis, theirPort }): NeighbourView => {
            const other = byMac.get(chassis);
            return {
              port,
              theirPort,
              name: other ? (other.name ?? other.serial) : chassis,
              deviceId: other?.id ?? null,
            };
          }),
          first: firstOf(device),
          fixed: device.fixed,
          lightOff: device.lightOff,
          purpose: device.purpose,
          policy: device.policy,
          ports: device.hardware?.ports.map((port) => port.name) ?? [],
          portFacts: device.report?.ports ?? [],
          radioFacts: device.report?.radios ?? [],
          mesh: device.report?.mesh ?? null,
          tunnel: device.report?.tunnel ?? null,
          landings: device.report?.landings ?? [],
        },
      ];
    });
  }
}

/** What was said at a gateway’s own page, without the password. */
function firstOf({ first }: Device): FirstView | null {
  if (!first) return null;
  const { login, ...said } = first;
  return login ? { ...said, user: login.user } : said;
}
