import {
  leaveBehind,
  nameDevices,
  replacementLosses,
  type Leftover,
  type ReplacementLoss,
} from '@iron-lattice/core/intake';
import { resolve } from '@iron-lattice/core/intent';
import type { Sequelize, Transaction } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import { Device } from '../roster/device.model';
import type { DeviceChangeService } from './device-change.service';
import { rosterOf, type RosterService } from '../roster/roster.service';

/** What of a row belongs to the box itself and goes with it when it takes another's place. */
const HARDWARE = [
  'serial',
  'model',
  'sheet',
  'mac',
  'firmware',
  'publicKey',
  'runs',
  'applied',
  'online',
  'lineOwner',
  'heardAt',
  'report',
  'address',
  'bootedAt',
  'calls',
] as const;

/** A device's place in the network: giving it to another box, moving it to another site, taking it away. */
export class PlaceService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly changes: DeviceChangeService,
    private readonly commands: CommandService,
    private readonly bus: Bus,
  ) {}

  /** What the site would be left with without a device. */
  async leftovers(id: string): Promise<Leftover[]> {
    const device = await Device.findByPk(id);
    if (!device || device.siteId === null) throw unknown('device of ours');
    const [live, devices] = await Promise.all([this.intents.live(), this.rosters.devices(device.siteId)]);
    const { estate, site: part } = live.pairs.get(device.siteId)!;
    const site = resolve(estate, part);
    return leaveBehind(site, devices.map(rosterOf), this.rosters.linksAmong(devices), device.toRoster());
  }

  /** Boxes that call and are nobody's, with what would be lost if each took a device's place; best first. */
  async candidates(id: string): Promise<{ serial: string; model: string; losses: readonly ReplacementLoss[] }[]> {
    const device = await Device.findByPk(id);
    if (!device || device.siteId === null) throw unknown('device of ours');
    const boxes = await Device.findAll({ where: { siteId: null, online: true }, order: ['serial'] });
    const compare = await this.comparison(device);
    return boxes
      .map((box) => ({ serial: box.serial, model: box.model, losses: compare(box) }))
      .sort((a, b) => weight(a.losses) - weight(b.losses));
  }

  /**
   * Lets a box that calls take a device's place: its name, address, port duties, radios and history stay with the
   * place; the old box goes back to factory state when it is heard.
   * @param despiteLosses whether the person saw what would be lost.
   * @throws AppError `replace.refused`, `replace.losses`.
   */
  async replace(id: string, serial: string, despiteLosses: boolean, personId: string): Promise<void> {
    const { boxId, told } = await changeIntent(this.database, async (transaction) => {
      const device = await this.changes.idle(id, transaction);
      const box = await Device.findOne({
        where: { serial: serial.trim().toUpperCase() },
        transaction,
        lock: transaction.LOCK.UPDATE,
      });
      if (!box) throw new AppError('replace.refused', `No device with serial number ${serial} has ever called.`);
      if (box.siteId !== null) throw new AppError('replace.refused', `${serial} is ours already, as ${box.name}.`);
      if (!box.online) throw new AppError('replace.refused', `${serial} does not call. Check its power and cable.`);
      if (box.updating !== null)
        throw new AppError('device.updating', `${serial} is being updated. Wait until it is through.`);
      const losses = (await this.comparison(device, transaction))(box);
      const refused = losses.find((loss) => loss.severity === 'refused');
      if (refused) throw new AppError('replace.refused', refused.message);
      if (losses.length > 0 && !despiteLosses)
        throw new AppError('replace.losses', `${losses[0]!.message} Say that you replace it all the same.`);
      const from = device.serial;
      await this.swap(device, box, transaction);
      await note(this.database, personId, 'device.replace', { from, to: device.serial }, transaction, id);
      const live = await this.intents.live(transaction);
      const told = await this.rosters.retarget(live.pairs.get(device.siteId!)!, device.siteId!, transaction);
      return { boxId: box.id, told };
    });
    // Both call again and are known by their serial numbers for what they are now.
    for (const deviceId of [id, boxId]) await this.bus.send('drop', { deviceId });
    for (const deviceId of [id, boxId]) this.bus.changed({ id: deviceId, siteId: null });
    await this.bus.send('live', { type: 'hitch' });
    await this.rosters.sync(told);
  }

  /** Takes a device to another site: it gets that site's next name and documents. */
  async move(id: string, siteId: string, personId: string): Promise<void> {
    const { device, told } = await changeIntent(this.database, async (transaction) => {
      const device = await this.changes.idle(id, transaction);
      const live = await this.intents.live(transaction);
      const [from, to] = [live.intent.sites.get(device.siteId!)!, live.intent.sites.get(siteId)];
      if (!to) throw unknown('site');
      if (from.id === to.id) throw new AppError('device.refused', `${device.name} is at ${to.name} already.`);
      const taken = await Device.findAll({ attributes: ['name', 'expectedName'], transaction });
      const names = taken.flatMap((row) => [row.name, row.expectedName]).filter((name) => name !== null);
      const [name] = nameDevices(to.code, [device.toRoster()], names);
      await device.update({ siteId, name: name!, fixed: null, hangsOnId: null, hangsOnPort: null }, { transaction });
      await note(this.database, personId, 'device.move', { from: from.name, to: to.name }, transaction, id);
      const told = [
        ...(await this.rosters.retarget(live.pairs.get(from.id)!, from.id, transaction)),
        ...(await this.rosters.retarget(live.pairs.get(to.id)!, to.id, transaction)),
      ];
      return { device, told };
    });
    this.bus.changed({ id: device.id, siteId: null });
    this.bus.changed(device);
    await this.rosters.sync(told);
  }

  /** Lets a device go: back to factory state, at once or, when it is silent, as soon as it is heard. */
  async release(id: string, personId: string): Promise<void> {
    const found = await Device.findByPk(id);
    if (!found || found.siteId === null) throw unknown('device of ours');
    // Once its row is nobody's the line would not ask it any more.
    const forgot =
      found.online && found.updating === null
        ? this.commands.ask(id, 'forget', '', { personId }).catch((error: unknown) => {
            if (!(error instanceof AppError)) throw error; // it is told when it calls
          })
        : Promise.resolve();
    await forgot;
    const { siteId, told } = await changeIntent(this.database, async (transaction) => {
      const device = await this.changes.idle(id, transaction);
      const siteId = device.siteId!;
      const live = await this.intents.live(transaction);
      const from = live.intent.sites.get(siteId)!.name;
      await note(this.database, personId, 'device.release', { from, name: device.name }, transaction, id);
      await device.update(vacant(), { transaction });
      return { siteId, told: await this.rosters.retarget(live.pairs.get(siteId)!, siteId, transaction) };
    });
    await this.bus.send('drop', { deviceId: id });
    this.bus.changed({ id, siteId });
    this.bus.changed({ id, siteId: null });
    await this.rosters.sync(told);
  }

  private async comparison(device: Device, transaction?: Transaction): Promise<(box: Device) => ReplacementLoss[]> {
    const live = await this.intents.live(transaction);
    const devices = await this.rosters.devices(device.siteId!, transaction);
    const links = this.rosters.linksAmong(devices);
    const ports = live.pairs.get(device.siteId!)!.site.ports[device.id];
    return ({ model, sheet }) =>
      replacementLosses(device.toRoster(), { model, ...(sheet ? { sheet } : {}) }, ports, links);
  }

  private async swap(device: Device, box: Device, transaction: Transaction): Promise<void> {
    const take = (row: Device) => Object.fromEntries(HARDWARE.map((key) => [key, row.get(key)]));
    const [mine, theirs] = [take(device), take(box)];
    await box.update({ serial: `~${box.id}` }, { transaction }); // serial numbers are unique at every moment
    const away = { online: false, lineOwner: null, lineId: null }; // until they call again
    await device.update({ ...theirs, ...away, trouble: null, updating: null }, { transaction });
    await box.update(
      { ...vacant(), ...mine, ...away, expectedSiteId: null, expectedName: null, expectedAt: null },
      { transaction },
    );
    const [newSerial, oldSerial] = [device.serial, box.serial];
    await this.database.query(
      `UPDATE hitch SET settled_at = now() WHERE settled_at IS NULL AND serial IN (:newSerial, :oldSerial)`,
      { replacements: { newSerial, oldSerial }, transaction },
    );
  }
}

/** A box without a place. */
const vacant = () =>
  ({
    siteId: null,
    name: null,
    wants: null,
    trouble: null,
    claimedAt: null,
    fixed: null,
    first: null,
    lightOff: false,
    policy: 'leave' as const,
    tags: [],
    hangsOnId: null,
    hangsOnPort: null,
    runsRevision: null,
  }) satisfies Partial<Record<keyof Device, unknown>>;

const weight = (losses: readonly ReplacementLoss[]): number =>
  losses.reduce((sum, loss) => sum + (loss.severity === 'refused' ? 100 : 1), 0);
