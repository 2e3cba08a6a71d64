import type { Flaw } from '@iron-lattice/core/base';
import { requireSheet } from '@iron-lattice/core/hardware';
import { nameDevices, type DeviceView } from '@iron-lattice/core/intake';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { lockIntent } from '../platform/database';
import { note } from '../platform/journal';
import { Device } from './device.model';
import type { RosterService } from './roster.service';

/** Devices as people see them, and taking them in. */
export class DeviceService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly bus: Bus,
  ) {}

  /** Devices of a site by name, or without one those that are calling, by serial number. */
  async list(siteId: string | null): Promise<DeviceView[]> {
    const where = siteId === null ? { siteId: null, online: true } : { siteId };
    const devices = await Device.findAll({ where, order: siteId === null ? ['serial'] : ['name'] });
    const byMac = new Map(devices.map((device) => [device.mac, device]));
    return devices.map((device) => device.toView(hangsOn(device, byMac)));
  }

  async get(id: string): Promise<DeviceView> {
    const device = await Device.findByPk(id);
    if (!device) throw unknown('device');
    const all = device.siteId === null ? [] : await this.rosters.devices(device.siteId);
    return device.toView(hangsOn(device, new Map(all.map((each) => [each.mac, each]))));
  }

  /** Names that a claim of these serial numbers would give, in their order. @throws AppError `claim.refused`. */
  async previewClaim(siteId: string, serials: readonly string[]): Promise<string[]> {
    return (await this.plan(siteId, serials)).names;
  }

  /**
   * Claims calling devices into a site: they are named and told their first document. All or none.
   * @throws AppError `claim.refused` with one flaw for each serial number that cannot be claimed, named by `field`.
   */
  async claim(siteId: string, serials: readonly string[], personId: string): Promise<DeviceView[]> {
    const { ids, changed } = await this.database.transaction(async (transaction) => {
      await lockIntent(this.database, transaction);
      const { devices, names } = await this.plan(siteId, serials, transaction);
      for (const [i, device] of devices.entries())
        await device.update({ siteId, name: names[i]!, claimedAt: new Date(), trouble: null }, { transaction });
      const live = await this.intents.live(transaction);
      const changed = await this.rosters.retarget(live.intent, siteId, transaction);
      await note(this.database, personId, 'device.claim', { siteId, serials, names }, transaction);
      return { ids: devices.map((device) => device.id), changed };
    });
    await this.rosters.sync([...new Set([...ids, ...changed])]);
    for (const deviceId of ids) await this.bus.send('live', { type: 'device', siteId, deviceId });
    return Promise.all(ids.map((id) => this.get(id)));
  }

  private async plan(
    siteId: string,
    serials: readonly string[],
    transaction?: Transaction,
  ): Promise<{ devices: Device[]; names: string[] }> {
    const within = transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {};
    const site = await Site.findByPk(siteId, transaction ? { transaction } : {});
    if (!site) throw unknown('site');
    const wanted = [...new Set(serials.map((serial) => serial.trim().toUpperCase()))];
    const rows = await Device.findAll({ where: { serial: { [Op.in]: wanted } }, ...within });
    const bySerial = new Map(rows.map((row) => [row.serial, row]));
    const sites = new Map((await Site.findAll(transaction ? { transaction } : {})).map((each) => [each.id, each.name]));
    const flaws = wanted.flatMap((serial) => objection(serial, bySerial.get(serial), siteId, sites));
    if (flaws.length > 0) {
      const rest = flaws.length > 1 ? ` And ${flaws.length - 1} more.` : '';
      throw new AppError('claim.refused', `Nothing was claimed. ${flaws[0]!.message}${rest}`, flaws);
    }
    const devices = wanted.map((serial) => bySerial.get(serial)!);
    const taken = await Device.findAll({
      attributes: ['name'],
      where: { name: { [Op.ne]: null } },
      ...(transaction ? { transaction } : {}),
    });
    const names = nameDevices(
      site.code,
      devices.map((device) => device.model),
      taken.map((row) => row.name!),
    );
    return { devices, names };
  }
}

function objection(
  serial: string,
  device: Device | undefined,
  siteId: string,
  sites: ReadonlyMap<string, string>,
): Flaw[] {
  const refuse = (code: string, message: string): Flaw[] => [{ code, message, field: serial }];
  if (!device) return refuse('claim.unknown', `No device with serial number ${serial} has ever called.`);
  if (device.siteId === siteId) return refuse('claim.ours', `${serial} is already here, as ${device.name}.`);
  if (device.siteId !== null)
    return refuse('claim.elsewhere', `${serial} belongs to ${sites.get(device.siteId)}, as ${device.name}.`);
  if (!device.online) return refuse('claim.not-calling', `${serial} has stopped calling. Check its power and cable.`);
  return [];
}

/** What a device hangs on: for a gateway its live uplinks, else the neighbour on the shortest way to a gateway. */
function hangsOn(device: Device, byMac: ReadonlyMap<string, Device>): string | null {
  const up = device.report?.uplinks.filter((uplink) => uplink.up).map((uplink) => uplink.port) ?? [];
  if (up.length > 0) return up.join(', ');
  const seen = new Set([device.mac]);
  let ring = neighboursOf(device, byMac).map((first) => ({ first, at: first.device }));
  while (ring.length > 0) {
    const found = ring.find(({ at }) => requireSheet(at.model).kind === 'gateway');
    if (found) return `${found.first.device.name} · ${found.first.port}`;
    for (const { at } of ring) seen.add(at.mac);
    ring = ring.flatMap(({ first, at }) =>
      neighboursOf(at, byMac).flatMap((next) => (seen.has(next.device.mac) ? [] : [{ first, at: next.device }])),
    );
  }
  return null;
}

const neighboursOf = (device: Device, byMac: ReadonlyMap<string, Device>): { device: Device; port: string }[] =>
  (device.report?.neighbours ?? []).flatMap((each) => {
    const neighbour = byMac.get(each.chassis);
    return neighbour ? [{ device: neighbour, port: each.theirPort }] : [];
  });
