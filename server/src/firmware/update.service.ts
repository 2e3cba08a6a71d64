import { randomUUID } from 'node:crypto';
import {
  firmwareState,
  newestOf,
  nextWindow,
  updateSteps,
  type UpdateBatchView,
  type UpdatePlanRow,
  type UpdateRequest,
  type UpdateView,
  type UpdateWindow,
} from '@iron-lattice/core/firmware';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { Device } from '../roster/device.model';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { Person } from '../session/person.model';
import type { CatalogueService } from '../roster/catalogue.service';
import { FirmwareBatch, FirmwareUpdate } from './firmware.model';
import { clock } from '../platform/clock';

const LISTED = 20;
export const OPEN_UPDATE = { endedAt: null } as const;

/** Updates of firmware: what they would do, asking for them, and how they get on. */
export class UpdateService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly catalogue: CatalogueService,
    private readonly bus: Bus,
  ) {}

  /** What an update would do, device by device; changes nothing. */
  async plan(
    { deviceIds, release, mode }: UpdateRequest,
    now: Date,
    transaction?: Transaction,
  ): Promise<UpdatePlanRow[]> {
    const within = transaction ? { transaction } : {};
    const releases = await this.catalogue.releases();
    const devices = await Device.findAll({
      where: { id: { [Op.in]: [...new Set(deviceIds)] } },
      order: ['name', 'serial'],
      ...within,
    });
    if (devices.length === 0) throw unknown('device');
    const open = await FirmwareUpdate.findAll({
      attributes: ['deviceId'],
      where: { ...OPEN_UPDATE, deviceId: devices.map((device) => device.id) },
      ...within,
    });
    const busy = new Set(open.map((row) => row.deviceId));
    const windows = await this.windows(transaction);
    const opensAt = (siteId: string | null): Date => {
      const { window, timeZone } = windows.get(siteId) ?? windows.get(null)!;
      return nextWindow(window, timeZone, now);
    };
    const canaries = new Set<string>();
    return devices.map((device): UpdatePlanRow => {
      const { id, model, firmware, serial } = device;
      const target = release ?? newestOf(releases, model)?.version;
      const steps = target === undefined ? null : updateSteps(releases, model, firmware, target);
      const refusal =
        target === undefined
          ? `The catalogue has no release for ${model}.`
          : busy.has(id)
            ? 'It is being updated already.'
            : steps === null
              ? releases.some((each) => each.model === model && each.version === target)
                ? `No chain of releases leads from ${firmware} to ${target}.`
                : `The catalogue has no ${target} for ${model}.`
              : steps.length === 0
                ? `It runs ${firmware} already.`
                : null;
      // One canary a model shows whether the release starts.
      const canary = mode === 'staged' && refusal === null && !canaries.has(model) && device.online;
      if (canary) canaries.add(model);
      return {
        deviceId: id,
        name: device.name ?? serial,
        model,
        running: firmware,
        state: firmwareState(releases, model, firmware),
        steps: (steps ?? []).map((step) => step.version),
        canary,
        notBefore: (mode === 'window' ? opensAt(device.siteId) : now).toISOString(),
        refusal,
      };
    });
  }

  /**
   * Asks for updates of those devices that can be updated. Whatever is refused is left out, and said in the plan.
   * @param personId null when a device's policy asks.
   * @throws AppError `firmware.refused` when no device can be updated.
   */
  async start(request: UpdateRequest, personId: string | null, now = clock.date()): Promise<UpdateBatchView> {
    const id = await this.database.transaction(async (transaction) => {
      await this.database.query('SELECT pg_advisory_xact_lock(8620003)', { transaction });
      const plan = (await this.plan(request, now, transaction)).filter((row) => row.refusal === null);
      if (plan.length === 0) {
        const [first] = await this.plan(request, now, transaction);
        throw new AppError('firmware.refused', `Nothing was started. ${first!.name}: ${first!.refusal}`);
      }
      const batch = await FirmwareBatch.create({ id: randomUUID(), mode: request.mode, personId }, { transaction });
      await FirmwareUpdate.bulkCreate(
        plan.flatMap((row) =>
          row.steps.map((release, position) => ({
            id: randomUUID(),
            batchId: batch.id,
            deviceId: row.deviceId,
            position,
            fromRelease: row.steps[position - 1] ?? row.running,
            release,
            state: 'waiting' as const,
            canary: row.canary,
            notBefore: new Date(row.notBefore),
          })),
        ),
        { transaction },
      );
      for (const row of plan)
        await note(
          this.database,
          personId,
          'firmware.update',
          { from: row.running, to: row.steps.at(-1), mode: request.mode },
          transaction,
          row.deviceId,
        );
      return batch.id;
    });
    await this.moved(id);
    await this.bus.send('firmware-due', {});
    return this.batch(id);
  }

  /** Latest batches, newest first. */
  async list(): Promise<UpdateBatchView[]> {
    const batches = await FirmwareBatch.findAll({ order: [['at', 'DESC']], limit: LISTED });
    return Promise.all(batches.map((batch) => this.view(batch)));
  }

  async batch(id: string): Promise<UpdateBatchView> {
    const batch = await FirmwareBatch.findByPk(id);
    if (!batch) throw unknown('batch of updates');
    return this.view(batch);
  }

  /** Calls off what has not begun. What is being written is not interrupted: that would harm the device. */
  async cancel(batchId: string, personId: string): Promise<UpdateBatchView> {
    const [count] = await FirmwareUpdate.update(
      { state: 'cancelled', endedAt: clock.date(), reason: 'It was called off.' },
      { where: { batchId, state: ['waiting', 'held'] } },
    );
    if (count === 0) throw new AppError('firmware.over', 'Nothing of it waits any more.');
    await note(this.database, personId, 'firmware.cancel', { batchId, count });
    await this.moved(batchId);
    return this.batch(batchId);
  }

  /** Lets the rest go on although the canary failed. */
  async goOn(batchId: string, personId: string): Promise<UpdateBatchView> {
    const [count] = await FirmwareUpdate.update(
      { state: 'waiting', reason: null },
      { where: { batchId, state: 'held' } },
    );
    if (count === 0) throw new AppError('firmware.over', 'Nothing of it is held back.');
    await note(this.database, personId, 'firmware.go-on', { batchId, count });
    await this.moved(batchId);
    await this.bus.send('firmware-due', {});
    return this.batch(batchId);
  }

  /** Tells people that a batch moved. */
  moved(batchId: string): Promise<void> {
    return this.bus.send('live', { type: 'firmware', batchId });
  }

  /** The update window of every site, with its time zone; under null the estate's own. */
  async windows(transaction?: Transaction): Promise<Map<string | null, { window: UpdateWindow; timeZone: string }>> {
    const within = transaction ? { transaction } : {};
    const estate = await this.intents.estate(transaction);
    const { intent } = await this.intents.live(transaction);
    const own = new Map((await Site.findAll(within)).map((site) => [site.id, site.updateWindow]));
    return new Map([
      [null, { window: estate.updateWindow, timeZone: estate.timeZone }],
      ...[...intent.sites.values()].map(
        ({ id, timeZone }) => [id, { window: own.get(id) ?? estate.updateWindow, timeZone }] as const,
      ),
    ]);
  }

  private async view(batch: FirmwareBatch): Promise<UpdateBatchView> {
    const rows = await FirmwareUpdate.findAll({ where: { batchId: batch.id }, order: ['position', 'notBefore'] });
    const devices = await Device.findAll({
      where: { id: rows.map((row) => row.deviceId) },
      attributes: ['id', 'name', 'serial', 'siteId'],
    });
    const byId = new Map(devices.map((device) => [device.id, device]));
    const person = batch.personId === null ? null : await Person.findByPk(batch.personId);
    const updates = rows.map((row): UpdateView => {
      const device = byId.get(row.deviceId);
      const { id, batchId, deviceId, release, state, percent, canary, reason } = row;
      return {
        id,
        batchId,
        deviceId,
        name: device?.name ?? device?.serial ?? '',
        siteId: device?.siteId ?? null,
        from: row.fromRelease,
        release,
        state,
        percent,
        canary,
        reason,
        notBefore: row.notBefore.toISOString(),
        endedAt: row.endedAt?.toISOString() ?? null,
      };
    });
    updates.sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
    return { id: batch.id, mode: batch.mode, by: person?.name ?? 'its policy', at: batch.at.toISOString(), updates };
  }
}
