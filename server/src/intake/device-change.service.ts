import type { Flaw } from '@iron-lattice/core/base';
import {
  checkDeviceName,
  checkStaticAddress,
  nameDevices,
  proposeStaticAddress,
  type DeviceChange,
  type DevicesChange,
  type ManyResult,
  type TakenAddress,
} from '@iron-lattice/core/intake';
import type { Segment, StaticAddress } from '@iron-lattice/core/intent';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import { Device } from '../roster/device.model';
import { devicesToTell } from '../roster/in-rollout';
import type { RosterService } from '../roster/roster.service';

/** What may be said of a device itself. It acts at once; the device takes it on trial like any document. */
export class DeviceChangeService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly bus: Bus,
  ) {}

  /** @throws AppError `device.refused` with the flaws, `rollout.busy`, `device.updating`. */
  async change(id: string, change: DeviceChange, personId: string): Promise<void> {
    const { device, told } = await changeIntent(this.database, async (transaction) => {
      const device = await this.idle(id, transaction);
      if (change.version !== undefined && change.version !== device.version)
        throw new AppError(
          'device.stale',
          `Somebody changed ${device.name} meanwhile. Look at what it is now, then change it.`,
        );
      device.version++;
      const noted: [string, object][] = [];
      if (change.name !== undefined && change.name !== device.name) {
        const name = change.name.trim().toLowerCase();
        refuseIf(checkDeviceName(name, await this.holderOf(name, id, transaction)));
        noted.push(['device.rename', { from: device.name, to: name }]);
        device.name = name;
      }
      if (change.fixed !== undefined) {
        device.fixed = change.fixed === null ? null : await this.address(device, change.fixed, transaction);
        noted.push(['device.address', { to: device.fixed?.address ?? null }]);
      }
      if (change.lightOff !== undefined && change.lightOff !== device.lightOff) {
        device.lightOff = change.lightOff;
        noted.push(['device.light', { off: change.lightOff }]);
      }
      if (change.purpose !== undefined && change.purpose.trim() !== device.purpose) {
        device.purpose = change.purpose.trim();
        noted.push(['device.purpose', { to: device.purpose }]);
      }
      if (change.tags !== undefined) {
        device.tags = [...change.tags];
        noted.push(['device.tags', { to: device.tags }]);
      }
      if (change.policy !== undefined && change.policy !== device.policy) {
        device.policy = change.policy;
        noted.push(['device.policy', { to: change.policy }]);
      }
      await device.save({ transaction });
      for (const [act, detail] of noted) await note(this.database, personId, act, detail, transaction, id);
      const live = await this.intents.live(transaction);
      return {
        device,
        told: await this.rosters.retarget(live.pairs.get(device.siteId!)!, device.siteId!, transaction),
      };
    });
    this.bus.changed(device);
    await this.rosters.sync(told);
    if (change.policy !== undefined) await this.bus.send('firmware-due', { policies: true });
  }

  /** The name the convention would give a device: the next free number. */
  async proposeName(id: string): Promise<string> {
    const device = await Device.findByPk(id);
    if (!device || device.siteId === null) throw unknown('device of ours');
    const live = await this.intents.live();
    const taken = await Device.findAll({ attributes: ['name', 'expectedName'] });
    const names = taken.flatMap((row) => [row.name, row.expectedName]).filter((name) => name !== null);
    return nameDevices(live.intent.sites.get(device.siteId)!.code, [device.toRoster()], names)[0]!;
  }

  /** What a form for a fixed address begins with: the lowest free one, or null when none is left. */
  async proposeAddress(id: string): Promise<{ address: StaticAddress | null; segment: Segment }> {
    const device = await Device.findByPk(id);
    if (!device || device.siteId === null) throw unknown('device of ours');
    const { segment, taken } = await this.surroundings(device);
    return {
      address: proposeStaticAddress(
        segment,
        taken.map((each) => each.address),
      ),
      segment,
    };
  }

  /** Changes many devices at once; what cannot be done is said, device by device. */
  async changeMany({ deviceIds, addTags, removeTags, policy }: DevicesChange, personId: string): Promise<ManyResult> {
    const gone = new Set(removeTags ?? []);
    let done = 0;
    for (const id of new Set(deviceIds)) {
      // Added to and taken from what is there at that moment: nobody's tags are overwritten.
      const device = await this.database.transaction(async (transaction) => {
        const device = await Device.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE });
        if (!device) return null;
        const tags = [...new Set([...device.tags, ...(addTags ?? [])])].filter((tag) => !gone.has(tag));
        if (tags.join() !== device.tags.join())
          await note(this.database, personId, 'device.tags', { to: tags }, transaction, device.id);
        if (policy !== undefined && policy !== device.policy)
          await note(this.database, personId, 'device.policy', { to: policy }, transaction, device.id);
        const changes = { tags, ...(policy === undefined ? {} : { policy }), version: device.version + 1 };
        return device.update(changes, { transaction });
      });
      if (!device) continue;
      done++;
      this.bus.changed(device);
    }
    if (policy !== undefined) await this.bus.send('firmware-due', { policies: true });
    return { done, failed: [] };
  }

  /** A claimed device that neither a rollout nor an update is busy with. */
  async idle(id: string, transaction: Transaction): Promise<Device> {
    const device = await Device.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE });
    if (!device || device.siteId === null) throw unknown('device of ours');
    if (device.updating !== null)
      throw new AppError(
        'device.updating',
        `${device.name} is being updated to ${device.updating}. Wait until it is through.`,
      );
    if ((await devicesToTell(this.database, transaction)).has(id))
      throw new AppError('rollout.busy', `A rollout is telling ${device.name} something. Wait until it is over.`);
    return device;
  }

  private async holderOf(name: string, id: string, transaction: Transaction): Promise<string | undefined> {
    const other = await Device.findOne({
      where: { id: { [Op.ne]: id }, [Op.or]: [{ name }, { expectedName: name }] },
      transaction,
    });
    return other
      ? other.name === null
        ? `${other.serial}, which is expected`
        : `the device ${other.serial}`
      : undefined;
  }

  private async address(
    device: Device,
    wish: NonNullable<DeviceChange['fixed']>,
    transaction: Transaction,
  ): Promise<StaticAddress> {
    const { segment, taken, holdsGateway } = await this.surroundings(device, transaction);
    const checked = checkStaticAddress(segment, wish, taken, holdsGateway);
    if (!checked.ok) throw new AppError('device.refused', checked.flaws[0]!.message, checked.flaws);
    return checked.address;
  }

  /** The segment a device lives in, and who has which address there. */
  private async surroundings(
    device: Device,
    transaction?: Transaction,
  ): Promise<{ segment: Segment; taken: TakenAddress[]; holdsGateway: boolean }> {
    const live = await this.intents.live(transaction);
    const { site } = live.pairs.get(device.siteId!)!;
    const segment = site.segments.find((each) => each.id === site.managementId)!;
    const devices = await this.rosters.devices(device.siteId!, transaction);
    const taken: TakenAddress[] = [];
    for (const other of devices) {
      if (other.fixed && other.id !== device.id) taken.push({ address: other.fixed.address, by: other.name! });
      else if (other.address && other.id !== device.id) taken.push({ address: other.address, by: other.name! });
      for (const lease of other.report?.leases ?? [])
        if (lease.vlan === segment.vlan && lease.mac !== device.mac)
          taken.push({ address: lease.address, by: `${lease.mac}, by a lease` });
    }
    const gateways = devices.filter((each) => each.hardware?.kind === 'gateway').map((each) => each.name!);
    // Gateways of a pair have addresses of their own beside those that they share.
    const { pair } = site;
    const paired = pair?.firstId === device.id || pair?.secondId === device.id;
    return { segment, taken, holdsGateway: !paired && gateways.sort()[0] === device.name };
  }
}

function refuseIf(flaws: readonly Flaw[]): void {
  if (flaws.length > 0) throw new AppError('device.refused', flaws[0]!.message, flaws);
}
