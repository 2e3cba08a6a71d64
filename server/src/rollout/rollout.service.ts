import { randomUUID } from 'node:crypto';
import { lockOutOf } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { resolve, touchedSites } from '@iron-lattice/core/intent';
import {
  compileSite,
  type RevisionView,
  type RolloutCheck,
  type RolloutRequest,
  type RolloutView,
} from '@iron-lattice/core/rollout';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { Device } from '../roster/device.model';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { DraftReview } from '../intent/draft-review';
import type { DraftService, OpenedDraft } from '../intent/draft.service';
import { Draft, Estate, Revision } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { isConnectionLost, isPoolBusy } from '../platform/connection-loss';
import { note } from '../platform/journal';
import type { Lease } from '../platform/lease';
import { Recurring } from '../platform/recurring';
import { Interrupted } from '../roster/device-watch';
import { CANCELLED, putBack, runSteps, type RunTools } from './rollout-run';
import { Rollout, RolloutStep } from './rollout.model';
import { namesOf, viewOf } from './rollout-view';

/** Key of the lease under which a rollout is run. */
export const ROLLOUT_LEASE = 8_620_003;
const LISTED = 50;
/** How often a rollout that nobody runs is looked for, in milliseconds. */
const LOOK_MS = 2000;
/** A rollout that fails on our side is tried so often, then given up and put back. */
const MOST_TRIES = 3;
/** So often a plan is made anew because somebody changed what it rests on. */
const MOST_PLANS = 4;

const NONE: Pick<RolloutCheck, 'broken' | 'lockOuts'> = { broken: [], lockOuts: [] };

interface PlannedStep {
  readonly deviceId: string;
  readonly document: DeviceDocument;
  readonly hash: string;
  readonly beforeHash: string | null;
  readonly added: number;
  readonly removed: number;
}

/** Sends drafts out and keeps the numbered results. All it knows is in the rows: any controller goes on with it. */
export class RolloutService {
  private readonly ending = new AbortController();
  private readonly runner: Recurring;
  private stopListening: () => void = () => {};
  /** Called with the sites that a rollout touched, once it is live. */

  constructor(
    private readonly database: Sequelize,
    private readonly lease: Lease,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly reviews: DraftReview,
    private readonly rosters: RosterService,
    private readonly bus: Bus,
    private readonly keepWithinSeconds: number,
    private readonly failed: (error: unknown) => void,
  ) {
    this.runner = new Recurring(() => this.runDue(), LOOK_MS, failed);
  }

  /** Begins nothing new: what runs is left where it is, for the next start. */
  async close(): Promise<void> {
    this.stopListening();
    this.ending.abort();
    await this.runner.close();
    await this.lease.close();
  }

  /** Serves rollouts, and takes up what another process left in the middle. */
  open(): void {
    this.stopListening = this.bus.on('rollout-due', () => this.runner.look());
    this.runner.open(0);
  }

  async list(): Promise<RolloutView[]> {
    const rollouts = await Rollout.findAll({ order: [['startedAt', 'DESC']], limit: LISTED });
    return Promise.all(rollouts.map((rollout) => viewOf(rollout)));
  }

  async get(id: string): Promise<RolloutView> {
    const rollout = await Rollout.findByPk(id);
    if (!rollout) throw unknown('rollout');
    return viewOf(rollout);
  }

  async revisions(): Promise<RevisionView[]> {
    const rows = await Revision.findAll({ order: [['number', 'DESC']], limit: LISTED });
    const names = await namesOf(rows.map((row) => row.personId));
    return rows.map(({ number, name, personId, at }) => ({
      number,
      name,
      by: names.get(personId) ?? '',
      at: at.toISOString(),
    }));
  }

  /**
   * Starts rolling a draft out.
   * @param address where the person is now, so that they do not cut themselves off.
   * @throws AppError `rollout.moved`, `rollout.findings`, `rollout.guarantee`, `rollout.lock-out`, `rollout.empty`, `rollout.busy`,
   * `draft.misfits`.
   */
  async start(request: RolloutRequest, personId: string, address: string): Promise<RolloutView> {
    for (let tries = 0; tries < MOST_PLANS; tries++) {
      // Planned without a lock, which it may take seconds to hold; what it rests on is looked at again under it.
      const opened = await this.drafts.open(request.draftId);
      await this.refuseUnready(opened);
      const { steps, check } = await this.plan(opened, address);
      refuseUnsafe(check, request);
      const rollout = await this.begin(request, opened, steps, check, personId);
      if (!rollout) continue;
      await this.bus.send('rollout-due', { id: rollout.id });
      await this.bus.send('live', { type: 'draft', draftId: request.draftId, head: -1 });
      await this.moved(rollout.id);
      return viewOf(rollout);
    }
    throw new AppError('rollout.moved', 'Others keep changing what this would do. Look at it again, then roll it out.');
  }

  /** Writes a rollout down, unless what was planned rests on something that changed. */
  private begin(
    { draftId, despiteErrors = false, reason = '' }: RolloutRequest,
    planned: OpenedDraft,
    steps: readonly PlannedStep[],
    { broken, lockOuts }: RolloutCheck,
    personId: string,
  ): Promise<Rollout | null> {
    return changeIntent(this.database, async (transaction) => {
      const draft = await this.drafts.editable(draftId, transaction);
      const opened = await this.drafts.open(draftId, transaction);
      await this.refuseUnready(opened, transaction);
      if (this.drafts.basis(opened) !== this.drafts.basis(planned)) return null;
      const parts = await this.intents.store(opened.intent, transaction);
      const rollout = await Rollout.create(
        { id: randomUUID(), draftId, draftName: draft.name, state: 'waiting', personId, parts },
        { transaction },
      );
      await this.rosters.store(new Map(steps.map(({ deviceId, document }) => [deviceId, document])), transaction);
      await RolloutStep.bulkCreate(
        steps.map(({ document: _document, ...step }, position) => ({
          ...step,
          rolloutId: rollout.id,
          position,
          state: 'waiting' as const,
        })),
        { transaction },
      );
      await draft.update({ state: 'rolling-out' }, { transaction });
      await note(
        this.database,
        personId,
        'rollout.start',
        {
          rolloutId: rollout.id,
          draftId,
          despiteErrors,
          ...(broken.length > 0
            ? { reason: reason.trim(), broken: broken.map(({ siteName, words }) => `${siteName}: ${words}`) }
            : {}),
          ...(lockOuts.length > 0 ? { cutOff: lockOuts.map(({ siteName, name }) => `${siteName}: ${name}`) } : {}),
        },
        transaction,
      );
      return rollout;
    });
  }

  /** @throws AppError when nothing can be rolled out now, whatever it would do. */
  private async refuseUnready(opened: OpenedDraft, transaction?: Transaction): Promise<void> {
    if (opened.draft.state !== 'open') this.drafts.refuseOver(opened.draft);
    if (opened.misfits.length > 0)
      throw new AppError('draft.misfits', 'Some edits no longer fit what is live. Drop or redo them first.');
    if (await Rollout.findOne({ where: { endedAt: null }, ...(transaction ? { transaction } : {}) }))
      throw new AppError('rollout.busy', 'Another rollout is under way. Wait until it is over.');
    if (this.drafts.view(opened).edits === 0) throw new AppError('rollout.empty', 'This draft changes nothing.');
  }

  /** Stops a rollout before its next device and puts back those already told. */
  async cancel(id: string, personId: string): Promise<void> {
    const [count] = await Rollout.update(
      { state: 'cancelled' },
      { where: { id, endedAt: null, state: ['waiting', 'running'] } },
    );
    if (count === 0) throw new AppError('rollout.over', 'This rollout can no longer be cancelled.');
    await note(this.database, personId, 'rollout.cancel', { rolloutId: id });
    await this.bus.send('rollout-due', { id }); // whoever runs it notices; when nobody does, somebody ends it
    await this.moved(id);
  }

  /** What rolling a draft out comes to, and what stands against it. */
  async check(draftId: string, address: string): Promise<RolloutCheck> {
    const { intent } = await this.drafts.recent(draftId);
    const { sites } = await this.reviews.touched(draftId);
    const check = { devices: 0, silent: 0, errors: 0, broken: [...NONE.broken], lockOuts: [...NONE.lockOuts] };
    for (const { id, name: siteName } of sites) {
      const [review] = await this.reviews.at(draftId, [id]);
      const site = intent.sites.get(id);
      if (!review || !site) continue;
      const silent = new Set(review.silent);
      check.devices += review.changes.length;
      check.silent += review.changes.filter(({ deviceId }) => silent.has(deviceId)).length;
      check.errors += review.counts.error;
      for (const { words, packet = '' } of review.broken) check.broken.push({ siteName, words, packet });
      const self = lockOutOf(intent.estate, site, (await this.rosters.devices(id)).map(rosterOf), address);
      for (const { name, packet, why } of [...review.lockOuts, ...(self ? [self] : [])])
        check.lockOuts.push({ siteName, name, packet, why });
    }
    return check;
  }

  /** Every device that would be told something else, in order, and what stands against it. */
  private async plan(
    { intent, live }: OpenedDraft,
    address: string,
  ): Promise<{ steps: PlannedStep[]; check: RolloutCheck }> {
    const steps: PlannedStep[] = [];
    let errors = 0;
    const broken: RolloutCheck['broken'][number][] = [];
    const cut: RolloutCheck['lockOuts'][number][] = [];
    let silent = 0;
    for (const siteId of touchedSites(live, intent)) {
      const site = intent.sites.get(siteId)!;
      const devices = await this.rosters.devices(siteId);
      const consequences = await this.drafts.consequences(intent, siteId, devices);
      for (const { state, words, packet = '' } of consequences.guarantees)
        if (state === 'broken') broken.push({ siteName: site.name, words, packet });
      const roster = devices.map(rosterOf);
      const self = lockOutOf(intent.estate, site, roster, address);
      for (const { name, packet, why } of [...consequences.lockOuts, ...(self ? [self] : [])])
        cut.push({ siteName: site.name, name, packet, why });
      errors += consequences.findings.filter((finding) => finding.severity === 'error').length;
      if (consequences.changes.length === 0) continue;
      const documents = compileSite(resolve(intent.estate, site), roster);
      for (const change of consequences.changes) {
        const device = devices.find((each) => each.id === change.deviceId)!;
        const { added, removed } = change.difference;
        if (!device.online) silent++;
        steps.push({
          deviceId: device.id,
          hash: change.hash,
          beforeHash: device.wants,
          added,
          removed,
          document: documents.get(device.id)!,
        });
      }
    }
    return { steps, check: { devices: steps.length, silent, errors, broken, lockOuts: cut } };
  }

  /** Runs the rollout that is not over, unless another process does. */
  private async runDue(): Promise<void> {
    if (this.ending.signal.aborted) return;
    const due = await Rollout.findOne({ attributes: ['id'], where: { endedAt: null } });
    if (due) await this.lease.run((lost) => this.attempt(due.id, AbortSignal.any([lost, this.ending.signal])));
  }

  /** Runs a rollout; one that fails for a reason of ours is tried again by the next look, then given up. */
  private async attempt(id: string, stop: AbortSignal): Promise<void> {
    try {
      await this.runLocked(id, stop);
    } catch (error) {
      if (error instanceof Interrupted || stop.aborted) return;
      if (isConnectionLost(error) || isPoolBusy(error)) throw error; // nobody's fault: taken up when it is back
      this.failed(error);
      await Rollout.increment({ attempts: 1 }, { where: { id } });
      const rollout = await Rollout.findByPk(id, { rejectOnEmpty: true });
      if (rollout.attempts >= MOST_TRIES) await this.giveUp(rollout);
    }
  }

  private async runLocked(id: string, stop: AbortSignal): Promise<void> {
    const rollout = await Rollout.findByPk(id, { rejectOnEmpty: true });
    if (rollout.endedAt !== null) return;
    // Somebody was in the middle of it: devices may have to call back first.
    if (rollout.state !== 'waiting' && !rollout.resumed) await rollout.update({ resumed: true });
    const tools: RunTools = {
      bus: this.bus,
      keepWithinSeconds: this.keepWithinSeconds,
      moved: () => this.moved(id),
      stop,
      cancelled: async () => (await Rollout.findByPk(id, { rejectOnEmpty: true })).state === 'cancelled',
    };
    let reason = rollout.reason;
    if (rollout.state !== 'putting-back') {
      await Rollout.update({ state: 'running' }, { where: { id, state: 'waiting' } });
      await this.moved(id);
      reason = await runSteps(rollout, tools);
      // Whoever cancelled while the last device was told was answered that it is cancelled.
      if (reason === null && (await this.finish(rollout))) return;
      reason ??= CANCELLED;
      await rollout.update({ state: 'putting-back', reason });
      await this.moved(id);
    }
    await putBack(rollout, tools);
    await this.database.transaction(async (transaction) => {
      await rollout.update({ state: 'put-back', endedAt: new Date() }, { transaction });
      await Draft.update({ state: 'open' }, { where: { id: rollout.draftId }, transaction });
      await note(this.database, null, 'rollout.put-back', { rolloutId: id, reason }, transaction);
    });
    await this.over(rollout);
  }

  /** Ends a rollout that cannot be run: every device that was told is to run what it ran before, when it is heard. */
  private async giveUp(rollout: Rollout): Promise<void> {
    const { id, draftId } = rollout;
    const reason = 'It could not be gone on with for a fault on our side, and was put back. The log says more.';
    const told = await this.database.transaction(async (transaction) => {
      const steps = await RolloutStep.findAll({ where: { rolloutId: id }, transaction });
      const told = steps.filter((step) => step.state !== 'waiting' && step.state !== 'not-told');
      for (const { deviceId, hash, beforeHash } of told)
        await Device.update(
          { wants: beforeHash, trouble: null },
          { where: { id: deviceId, wants: { [Op.in]: [hash, beforeHash ?? hash] } }, transaction },
        );
      const left = { rolloutId: id };
      await RolloutStep.update({ state: 'not-told' }, { where: { ...left, state: 'waiting' }, transaction });
      await RolloutStep.update(
        { state: 'put-back' },
        { where: { ...left, state: ['telling', 'kept', 'later'] }, transaction },
      );
      await rollout.update({ state: 'put-back', reason, endedAt: new Date() }, { transaction });
      await Draft.update({ state: 'open' }, { where: { id: draftId, state: 'rolling-out' }, transaction });
      await note(this.database, null, 'rollout.put-back', { rolloutId: id, reason }, transaction);
      return told.map((step) => step.deviceId);
    });
    await this.rosters.sync(told);
    await this.over(rollout);
  }

  /**
   * Makes the draft live as the next revision; devices claimed meanwhile follow it too.
   * @returns whether it did: not when it was cancelled meanwhile.
   */
  private async finish(rollout: Rollout): Promise<boolean> {
    const told = new Set<string>();
    const changed = await changeIntent(this.database, async (transaction) => {
      const estate = await this.intents.estate(transaction);
      const revision = estate.liveRevision + 1;
      const { draftName: name, personId, parts, id } = rollout;
      const [count] = await Rollout.update(
        { state: 'done', revision, endedAt: new Date() },
        { where: { id, state: 'running' }, transaction },
      );
      if (count === 0) return null;
      // A site founded while this ran is not among the parts and stands as it was founded.
      await Revision.create({ number: revision, name, personId, parts }, { transaction });
      await Estate.update({ liveRevision: revision }, { where: { id: estate.id }, transaction });
      await Draft.update({ state: 'rolled-out' }, { where: { id: rollout.draftId }, transaction });
      await this.drafts.ensure(personId, transaction);
      await note(this.database, personId, 'rollout.done', { rolloutId: id, revision }, transaction);
      const live = await this.intents.live(transaction);
      const touched = await RolloutStep.findAll({ where: { rolloutId: id }, transaction });
      const sites = await Device.findAll({
        attributes: ['siteId'],
        where: { id: touched.map((step) => step.deviceId) },
        transaction,
      });
      const ids: string[] = [];
      for (const siteId of new Set(sites.map((row) => row.siteId))) {
        if (!siteId) continue;
        told.add(siteId);
        await this.rosters.settleFixed(live.intent, siteId, transaction);
        ids.push(...(await this.rosters.retarget(live.intent, siteId, transaction)));
      }
      return ids;
    });
    if (changed === null) return false;
    await this.rosters.sync(changed);
    await this.over(rollout);
    this.intents.wentLive([...told]);
    return true;
  }

  private async over(rollout: Rollout): Promise<void> {
    await this.bus.send('live', { type: 'draft', draftId: rollout.draftId, head: -1 });
    await this.moved(rollout.id);
  }

  private moved(rolloutId: string): Promise<void> {
    return this.bus.send('live', { type: 'rollout', rolloutId });
  }
}

/** @throws AppError when a person has not said that they know what stands against it. */
function refuseUnsafe({ devices, errors, broken, lockOuts }: RolloutCheck, request: RolloutRequest): void {
  if (request.devices !== undefined && request.devices !== devices)
    throw new AppError(
      'rollout.moved',
      `It would tell ${devices === 1 ? '1 device' : `${devices} devices`} by now, not ${request.devices}. Look at it again, then roll it out.`,
    );
  if (errors > 0 && !request.despiteErrors) {
    const text = errors === 1 ? 'There is an error' : `There are ${errors} errors`;
    throw new AppError('rollout.findings', `${text} among the findings. Mend, or say that you roll out all the same.`);
  }
  if (broken.length > 0 && (request.reason ?? '').trim() === '')
    throw new AppError(
      'rollout.guarantee',
      `It would break a guarantee at ${broken[0]!.siteName}: ${broken[0]!.words}. Say why it is rolled out all the same.`,
    );
  const typed = new Set((request.sites ?? []).map((name) => name.trim()));
  const cut = lockOuts.find(({ siteName }) => !typed.has(siteName));
  if (cut)
    throw new AppError(
      'rollout.lock-out',
      `It would cut off ${cut.name} at ${cut.siteName} from this controller. Type the site’s name to do it all the same.`,
    );
}
