import type { DeviceKind } from '@iron-lattice/core/hardware';
import { newestOf, isInWindow, updateSteps } from '@iron-lattice/core/firmware';
import { Op, type Sequelize } from 'sequelize';
import { Device } from '../roster/device.model';
import { devicesToTell } from '../roster/in-rollout';
import { Estate } from '../intent/intent.model';
import type { Lines } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import type { Lease } from '../platform/lease';
import { Recurring } from '../platform/recurring';
import type { CatalogueService } from '../roster/catalogue.service';
import { FirmwareUpdate } from './firmware.model';
import type { UpdateService } from './update.service';
import { clock } from '../platform/clock';

/** Who restarts first: what hangs furthest out, so that nobody loses the way while fetching. */
const RANK: Readonly<Record<DeviceKind, number>> = { ap: 0, switch: 1, gateway: 2 };
const MOST_AT_ONCE = 50;
/** A device that does not get on for this long has failed. */
const PATIENCE_MS = { sending: 60_000, restarting: 60_000 } as const;
const LOOK_MS = 5000;
const POLICIES_MS = 60_000;
/** Key of the lease under which updates are moved on. */
export const UPDATE_LEASE = 8_620_004;

/**
 * Moves updates on. All it knows is in the rows, so any controller can do it and goes on where another stopped;
 * a lock sees to it that only one does at a time.
 */
export class UpdateRunner {
  private stops: (() => void)[] = [];
  private readonly recurring: Recurring;
  private policiesAt = 0;

  constructor(
    private readonly database: Sequelize,
    private readonly lease: Lease,
    private readonly catalogue: CatalogueService,
    private readonly updates: UpdateService,
    private readonly lines: Lines,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    this.recurring = new Recurring(() => this.once(), LOOK_MS, failed);
  }

  open(): void {
    this.stops.push(
      this.bus.on('firmware-due', ({ policies }) => {
        if (policies) this.policiesAt = 0;
        this.recurring.look();
      }),
    );
    this.stops.push(
      this.bus.on('firmware', ({ deviceId, updateId }) => {
        if (this.lines.holds(deviceId)) void this.send(deviceId, updateId).catch(this.failed);
      }),
    );
    this.recurring.open(500);
  }

  async close(): Promise<void> {
    for (const stop of this.stops) stop();
    await this.recurring.close();
    await this.lease.close();
  }

  /** Has a device fetch and start a release. */
  private async send(deviceId: string, updateId: string): Promise<void> {
    const [update, device] = await Promise.all([FirmwareUpdate.findByPk(updateId), Device.findByPk(deviceId)]);
    if (!update || !device) return;
    const release = (await this.catalogue.releases()).find(
      (each) => each.model === device.model && each.version === update.release,
    );
    if (!release) return this.refused(deviceId, updateId, 'The release is no longer in the catalogue');
    const { size, sha256, version } = release;
    const path = `/line/firmware/${encodeURIComponent(device.model)}/${version}`;
    this.lines.say(deviceId, { type: 'firmware', id: updateId, release: version, size, sha256, path });
  }

  private async once(): Promise<void> {
    await this.lease.run(async () => {
      await this.followPolicies();
      await this.giveUp();
      await this.begin();
    });
  }

  /** Asks for updates of devices whose policy says so, while their site's window is open. */
  private async followPolicies(): Promise<void> {
    const now = clock.date();
    if (now.getTime() - this.policiesAt < POLICIES_MS) return;
    this.policiesAt = now.getTime();
    if ((await Estate.count()) === 0) return;
    const releases = await this.catalogue.releases();
    const open = [...(await this.updates.windows())].flatMap(([siteId, { window, timeZone }]) =>
      siteId !== null && isInWindow(window, timeZone, now) ? [siteId] : [],
    );
    const devices = await Device.findAll({
      where: { policy: 'window', online: true, updating: null, siteId: open },
    });
    const older = devices.filter((device) => {
      const newest = newestOf(releases, device.model);
      return newest && (updateSteps(releases, device.model, device.firmware, newest.version)?.length ?? 0) > 0;
    });
    const failedLately = await FirmwareUpdate.findAll({
      attributes: ['deviceId'],
      where: { state: 'failed', endedAt: { [Op.gt]: new Date(now.getTime() - 86_400_000) } },
    });
    const skip = new Set(failedLately.map((row) => row.deviceId));
    const ids = older.map((device) => device.id).filter((id) => !skip.has(id));
    const waiting = await FirmwareUpdate.count({ where: { deviceId: ids, endedAt: null } });
    if (ids.length > 0 && waiting < ids.length)
      await this.updates.start({ deviceIds: ids, mode: 'window' }, null, now).catch(this.failed);
  }

  private async giveUp(): Promise<void> {
    const rows = await FirmwareUpdate.findAll({ where: { state: ['sending', 'restarting'] } });
    for (const row of rows) {
      const patience = PATIENCE_MS[row.state as 'sending' | 'restarting'];
      if (clock.now() - row.movedAt.getTime() < patience) continue;
      const device = await Device.findByPk(row.deviceId, { rejectOnEmpty: true });
      await this.end(row, device, `It said nothing for ${patience / 1000} s; what it runs shows when it calls again.`);
    }
  }

  /** Begins what is due: the canary before the rest, outer devices before those they hang on, one switch at a time. */
  private async begin(): Promise<void> {
    const open = await FirmwareUpdate.findAll({ where: { endedAt: null }, order: ['notBefore', 'position'] });
    if (open.length === 0) return;
    const devices = new Map(
      (await Device.findAll({ where: { id: [...new Set(open.map((row) => row.deviceId))] } })).map((each) => [
        each.id,
        each,
      ]),
    );
    const inRollout = await devicesToTell(this.database);
    const under = open.filter((row) => row.state === 'sending' || row.state === 'restarting');
    let room = MOST_AT_ONCE - under.length;
    const now = clock.now();
    const due = open.filter((row) => row.state === 'waiting' && row.notBefore.getTime() <= now);
    const rankOf = (row: FirmwareUpdate): number => RANK[devices.get(row.deviceId)!.hardware?.kind ?? 'ap'];
    const siteOf = (row: FirmwareUpdate): string => devices.get(row.deviceId)!.siteId ?? row.deviceId;
    /** Lowest rank that is due or under way, by site and batch. */
    const turn = new Map<string, number>();
    for (const row of [...under, ...due]) {
      if (!devices.get(row.deviceId)!.online && row.state === 'waiting') continue;
      turn.set(siteOf(row), Math.min(turn.get(siteOf(row)) ?? 9, rankOf(row)));
    }
    const busySites = new Set(under.filter((row) => rankOf(row) > 0).map(siteOf));
    const touched = new Set<string>();
    for (const row of due) {
      if (room <= 0) break;
      const device = devices.get(row.deviceId)!;
      if (!device.online || device.updating !== null || device.applied !== null || inRollout.has(device.id)) continue;
      if (
        open.some(
          (other) => other.deviceId === row.deviceId && other.batchId === row.batchId && other.position < row.position,
        )
      )
        continue;
      if (!row.canary && open.some((other) => other.batchId === row.batchId && other.canary)) continue;
      if (rankOf(row) > turn.get(siteOf(row))!) continue;
      if (rankOf(row) > 0 && busySites.has(siteOf(row))) continue;
      // Whoever was held or stopped since it was looked at is not begun.
      const [begun] = await FirmwareUpdate.update(
        { state: 'sending', percent: 0, movedAt: clock.date() },
        { where: { id: row.id, state: 'waiting', endedAt: null } },
      );
      if (begun === 0) continue;
      if (rankOf(row) > 0) busySites.add(siteOf(row));
      room--;
      await device.update({ updating: row.release });
      this.bus.changed(device);
      await this.bus.send('firmware', { deviceId: device.id, updateId: row.id });
      touched.add(row.batchId);
    }
    for (const batchId of touched) await this.updates.moved(batchId);
  }

  /** The device says how it gets on. */
  async progress(deviceId: string, updateId: string, percent: number, restarting: boolean): Promise<void> {
    const row = await FirmwareUpdate.findOne({ where: { id: updateId, deviceId, state: ['sending', 'restarting'] } });
    if (!row) return;
    await row.update({ percent, state: restarting ? 'restarting' : 'sending', movedAt: clock.date() });
    await this.updates.moved(row.batchId);
  }

  /** The device could not fetch or write it, and says why; it never restarted. */
  async refused(deviceId: string, updateId: string, reason: string): Promise<void> {
    const row = await FirmwareUpdate.findOne({ where: { id: updateId, deviceId, state: ['sending', 'restarting'] } });
    const device = await Device.findByPk(deviceId);
    if (row && device) await this.end(row, device, `${reason}. It still runs ${device.firmware}.`);
  }

  /**
   * A device called: what it runs now tells how its update went.
   * @param failure what it says of a release that did not start.
   */
  async called(
    device: Device,
    failure: { readonly release: string; readonly reason: string } | undefined,
  ): Promise<void> {
    if (device.updating === null) return;
    const row = await FirmwareUpdate.findOne({
      where: { deviceId: device.id, state: ['sending', 'restarting'] },
      order: ['position'],
    });
    if (!row) {
      await device.update({ updating: null });
      return;
    }
    if (device.firmware === row.release) return this.end(row, device, null);
    if (failure?.release === row.release)
      return this.end(row, device, `${failure.reason}. It went back to ${device.firmware} by itself.`);
    if (row.state === 'restarting')
      return this.end(row, device, `It came back with ${device.firmware} and did not say why.`);
    // Its line ended while it was fetching: it is told again.
    await row.update({ movedAt: clock.date() });
    await this.bus.send('firmware', { deviceId: device.id, updateId: row.id });
  }

  private async end(row: FirmwareUpdate, device: Device, reason: string | null): Promise<void> {
    if (!(await this.ended(row, device, reason))) return;
    await device.update({ updating: null });
    this.bus.changed(device);
    await this.updates.moved(row.batchId);
    await this.bus.send('sync', { deviceId: device.id });
    await this.bus.send('firmware-due', {});
  }

  /**
   * Writes down how an update ended, and with it what becomes of those behind it: nobody sees that a canary is done with before the rest
   * is held. @returns false where that was written already.
   */
  private ended(row: FirmwareUpdate, device: Device, reason: string | null): Promise<boolean> {
    const now = clock.date();
    const failed = reason !== null;
    return this.database.transaction(async (transaction) => {
      const [count] = await FirmwareUpdate.update(
        { state: failed ? 'failed' : 'done', percent: failed ? row.percent : 100, reason, endedAt: now },
        { where: { id: row.id, endedAt: null }, transaction },
      );
      if (count === 0) return false;
      const { fromRelease: from, release: to } = row;
      const act = failed ? 'firmware.failed' : 'firmware.done';
      await note(this.database, null, act, { from, to, reason }, transaction, device.id);
      if (!failed) return true;
      await FirmwareUpdate.update(
        { state: 'cancelled', endedAt: now, reason: 'The step before it failed.' },
        { where: { batchId: row.batchId, deviceId: device.id, endedAt: null }, transaction },
      );
      if (row.canary)
        await FirmwareUpdate.update(
          { state: 'held', reason: `${device.name ?? device.serial} went first and failed.` },
          { where: { batchId: row.batchId, state: 'waiting', canary: false }, transaction },
        );
      return true;
    });
  }
}
