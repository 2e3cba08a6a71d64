import { randomUUID } from 'node:crypto';
import { lockOutOf } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { resolve, type Intent } from '@iron-lattice/core/intent';
import {
  compileSite,
  type RevisionView,
  type RolloutCheck,
  type RolloutRequest,
  type RolloutView,
} from '@iron-lattice/core/rollout';
import type pg from 'pg';
import type { Sequelize } from 'sequelize';
import { Device } from '../intake/device.model';
import { rosterOf, type RosterService } from '../intake/roster.service';
import type { DraftService } from '../intent/draft.service';
import { Draft, Estate, Revision } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { lockIntent } from '../platform/database';
import type { Jobs } from '../platform/jobs';
import { note } from '../platform/journal';
import { Person } from '../session/person.model';
import { Interrupted, putBack, runSteps, type RunTools } from './rollout-run';
import { Rollout, RolloutStep } from './rollout.model';

const QUEUE = 'rollout';
/** First key of the advisory locks that say which process runs a rollout. */
const RUN_LOCK = 8620;
const LISTED = 50;

interface PlannedStep {
  readonly deviceId: string;
  readonly document: DeviceDocument;
  readonly hash: string;
  readonly beforeHash: string | null;
  readonly added: number;
  readonly removed: number;
}

/** Sends drafts out and keeps the numbered results. */
export class RolloutService {
  private ending = false;
  /** Called with the sites that a rollout touched, once it is live. */
  private afterwards: (siteIds: readonly string[]) => void = () => {};

  constructor(
    private readonly database: Sequelize,
    private readonly pool: pg.Pool,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly jobs: Jobs,
    private readonly bus: Bus,
    private readonly keepWithinSeconds: number,
  ) {}

  /** Has something done after each rollout. */
  onLive(act: (siteIds: readonly string[]) => void): void {
    this.afterwards = act;
  }

  /** Begins nothing new: what runs is left where it is, for the next start. */
  close(): void {
    this.ending = true;
  }

  /** Serves rollout jobs, and takes up what another process left in the middle. */
  async open(): Promise<void> {
    const left = await Rollout.findAll({ where: { endedAt: null } });
    // Marked before any job is served: whoever goes on has to wait for devices to call back.
    for (const rollout of left) if (rollout.state !== 'waiting') await rollout.update({ resumed: true });
    await this.jobs.work<{ id: string }>(QUEUE, ({ id }) => this.run(id));
    for (const rollout of left) await this.jobs.send(QUEUE, { id: rollout.id });
  }

  async list(): Promise<RolloutView[]> {
    const rollouts = await Rollout.findAll({ order: [['startedAt', 'DESC']], limit: LISTED });
    return Promise.all(rollouts.map((rollout) => this.view(rollout)));
  }

  async get(id: string): Promise<RolloutView> {
    const rollout = await Rollout.findByPk(id);
    if (!rollout) throw unknown('rollout');
    return this.view(rollout);
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
   * @throws AppError `rollout.findings`, `rollout.guarantee`, `rollout.lock-out`, `rollout.empty`, `rollout.busy`,
   * `draft.misfits`.
   */
  async start(request: RolloutRequest, personId: string, address: string): Promise<RolloutView> {
    const { draftId, despiteErrors = false } = request;
    const reason = request.reason?.trim() ?? '';
    const rollout = await this.database.transaction(async (transaction) => {
      await lockIntent(this.database, transaction);
      const draft = await this.drafts.editable(draftId, transaction);
      const opened = await this.drafts.open(draftId, transaction);
      if (opened.misfits.length > 0)
        throw new AppError('draft.misfits', 'Some edits no longer fit what is live. Drop or redo them first.');
      if (await Rollout.findOne({ where: { endedAt: null }, transaction }))
        throw new AppError('rollout.busy', 'Another rollout is under way. Wait until it is over.');
      if (this.drafts.view(opened).edits === 0) throw new AppError('rollout.empty', 'This draft changes nothing.');
      const { steps, check } = await this.plan(opened.intent, address);
      const { errors, broken, lockOuts } = check;
      if (errors > 0 && !despiteErrors) {
        const text = errors === 1 ? 'There is an error' : `There are ${errors} errors`;
        throw new AppError(
          'rollout.findings',
          `${text} among the findings. Mend, or say that you roll out all the same.`,
        );
      }
      if (broken.length > 0 && reason === '')
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
      const parts = await this.intents.store(opened.intent, transaction);
      const rollout = await Rollout.create(
        { id: randomUUID(), draftId, draftName: draft.name, state: 'waiting', personId, parts },
        { transaction },
      );
      for (const step of steps) await this.rosters.store(new Map([[step.deviceId, step.document]]), transaction);
      await RolloutStep.bulkCreate(
        steps.map(({ deviceId, hash, beforeHash, added, removed }, position) => {
          return {
            rolloutId: rollout.id,
            position,
            deviceId,
            state: 'waiting' as const,
            hash,
            beforeHash,
            added,
            removed,
          };
        }),
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
            ? { reason, broken: broken.map(({ siteName, words }) => `${siteName}: ${words}`) }
            : {}),
          ...(lockOuts.length > 0 ? { cutOff: lockOuts.map(({ siteName, name }) => `${siteName}: ${name}`) } : {}),
        },
        transaction,
      );
      return rollout;
    });
    await this.jobs.send(QUEUE, { id: rollout.id });
    await this.bus.send('live', { type: 'draft', draftId, head: -1 });
    await this.moved(rollout.id);
    return this.view(rollout);
  }

  /** Stops a rollout before its next device and puts back those already told. */
  async cancel(id: string, personId: string): Promise<void> {
    const [count] = await Rollout.update(
      { state: 'cancelled' },
      { where: { id, endedAt: null, state: ['waiting', 'running'] } },
    );
    if (count === 0) throw new AppError('rollout.over', 'This rollout can no longer be cancelled.');
    await note(this.database, personId, 'rollout.cancel', { rolloutId: id });
    await this.moved(id);
  }

  /** What stands against rolling a draft out. */
  async check(draftId: string, address: string): Promise<RolloutCheck> {
    return (await this.plan((await this.drafts.open(draftId)).intent, address)).check;
  }

  /** Every device that would be told something else, in order, and what stands against it. */
  private async plan(intent: Intent, address: string): Promise<{ steps: PlannedStep[]; check: RolloutCheck }> {
    const live = await this.intents.live();
    const steps: PlannedStep[] = [];
    let errors = 0;
    const broken: RolloutCheck['broken'][number][] = [];
    const cut: RolloutCheck['lockOuts'][number][] = [];
    for (const [siteId, site] of intent.sites) {
      const same = this.intents.hash(live.intent.sites.get(siteId)!) === this.intents.hash(site);
      if (same && this.intents.hash(live.intent.estate) === this.intents.hash(intent.estate)) continue;
      const devices = await this.rosters.devices(siteId);
      const consequences = await this.drafts.consequences(intent, siteId, devices);
      for (const { state, words, packet = '' } of consequences.guarantees)
        if (state === 'broken') broken.push({ siteName: site.name, words, packet });
      const roster = devices.map(rosterOf);
      const self = lockOutOf(intent.estate, site, roster, address);
      for (const { name, packet, why } of [...consequences.lockOuts, ...(self ? [self] : [])])
        cut.push({ siteName: site.name, name, packet, why });
      if (consequences.changes.length === 0) continue;
      errors += consequences.findings.filter((finding) => finding.severity === 'error').length;
      const documents = compileSite(resolve(intent.estate, site), roster);
      for (const change of consequences.changes) {
        const device = devices.find((each) => each.id === change.deviceId)!;
        const { added, removed } = change.difference;
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
    return { steps, check: { errors, broken, lockOuts: cut } };
  }

  /** The job: runs a rollout, or leaves it to the process that does. */
  private async run(id: string): Promise<void> {
    const client = await this.pool.connect();
    try {
      const { rows } = await client.query<{ got: boolean }>('SELECT pg_try_advisory_lock($1, hashtext($2)) AS got', [
        RUN_LOCK,
        id,
      ]);
      if (!rows[0]!.got) return;
      try {
        await this.runLocked(id).catch((error: unknown) => {
          if (!(error instanceof Interrupted)) throw error;
        });
      } finally {
        await client.query('SELECT pg_advisory_unlock($1, hashtext($2))', [RUN_LOCK, id]);
      }
    } finally {
      client.release();
    }
  }

  private async runLocked(id: string): Promise<void> {
    const rollout = await Rollout.findByPk(id, { rejectOnEmpty: true });
    if (rollout.endedAt !== null) return;
    const tools: RunTools = {
      bus: this.bus,
      keepWithinSeconds: this.keepWithinSeconds,
      moved: () => this.moved(id),
      ending: () => this.ending,
      cancelled: async () => (await Rollout.findByPk(id, { rejectOnEmpty: true })).state === 'cancelled',
    };
    let reason = rollout.reason;
    if (rollout.state !== 'putting-back') {
      await Rollout.update({ state: 'running' }, { where: { id, state: 'waiting' } });
      await this.moved(id);
      reason = await runSteps(rollout, tools);
      if (reason === null) return this.finish(rollout);
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

  /** Makes the draft live as the next revision; devices claimed meanwhile follow it too. */
  private async finish(rollout: Rollout): Promise<void> {
    const told = new Set<string>();
    const changed = await this.database.transaction(async (transaction) => {
      await lockIntent(this.database, transaction);
      const estate = await this.intents.estate(transaction);
      const revision = estate.liveRevision + 1;
      const { draftName: name, personId, parts, id } = rollout;
      // A site founded while this ran is not among the parts and stands as it was founded.
      await Revision.create({ number: revision, name, personId, parts }, { transaction });
      await Estate.update({ liveRevision: revision }, { where: { id: estate.id }, transaction });
      await rollout.update({ state: 'done', revision, endedAt: new Date() }, { transaction });
      await Draft.update({ state: 'rolled-out' }, { where: { id: rollout.draftId }, transaction });
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
    await this.rosters.sync(changed);
    await this.over(rollout);
    this.afterwards([...told]);
  }

  private async over(rollout: Rollout): Promise<void> {
    await this.bus.send('live', { type: 'draft', draftId: rollout.draftId, head: -1 });
    await this.moved(rollout.id);
  }

  private moved(rolloutId: string): Promise<void> {
    return this.bus.send('live', { type: 'rollout', rolloutId });
  }

  private async view(rollout: Rollout): Promise<RolloutView> {
    const steps = await RolloutStep.findAll({ where: { rolloutId: rollout.id }, order: ['position'] });
    const devices = await Device.findAll({
      where: { id: steps.map((step) => step.deviceId) },
      attributes: ['id', 'siteId', 'name'],
    });
    const byId = new Map(devices.map((device) => [device.id, device]));
    const names = await namesOf([rollout.personId]);
    const { id, draftName, state, revision, reason, resumed, startedAt, endedAt } = rollout;
    return {
      id,
      draftName,
      state,
      revision,
      reason,
      resumed,
      startedBy: names.get(rollout.personId) ?? '',
      startedAt: startedAt.toISOString(),
      endedAt: endedAt?.toISOString() ?? null,
      steps: steps.map((step) => ({
        deviceId: step.deviceId,
        siteId: byId.get(step.deviceId)?.siteId ?? '',
        name: byId.get(step.deviceId)?.name ?? '',
        state: step.state,
        reason: step.reason,
        added: step.added,
        removed: step.removed,
      })),
    };
  }
}

async function namesOf(personIds: readonly string[]): Promise<Map<string, string>> {
  const people = await Person.findAll({ where: { id: [...new Set(personIds)] } });
  return new Map(people.map((person) => [person.id, person.name]));
}
