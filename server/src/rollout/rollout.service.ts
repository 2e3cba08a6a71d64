import { randomUUID } from 'node:crypto';
import {
  AT_ONCE,
  type RolloutCheck,
  type RolloutRequest,
  type RolloutView,
  type RolloutWish,
  type WaveForeseen,
  type WavePlan,
} from '@iron-lattice/core/rollout';
import { Op, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import type { OpenedDraft } from '../intent/opened-draft';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import type { RosterService } from '../roster/roster.service';
import { Rollout, RolloutSite, RolloutStep } from './rollout.model';
import { listed, viewOf } from './rollout-view';
import type { SideBySide } from './side-by-side';
import { refuseLeft, type RolloutPlan, type WavePlanner } from './wave-plan';

const LISTED = 50;
/** So often a plan is made anew because somebody changed what it rests on. */
const MOST_PLANS = 4;
/** Steps that are written in one statement. */
const WRITTEN_AT_ONCE = 1000;
/** What each wish may take the place of: of two people the one who asks for more safety wins. */
const OVER: Readonly<Record<RolloutWish, readonly (RolloutWish | null)[]>> = {
  pause: [null],
  stop: [null, 'pause'],
  back: [null, 'pause', 'stop'],
};
const WISHED: Readonly<Record<RolloutWish, string>> = {
  pause: 'This rollout cannot be paused now.',
  stop: 'This rollout cannot be stopped any more.',
  back: 'This rollout can no longer be cancelled.',
};

/** Sends drafts out and keeps the numbered results. A runner does what is written down here. */
export class RolloutService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly planner: WavePlanner,
    private readonly side: SideBySide,
    private readonly rosters: RosterService,
    private readonly bus: Bus,
  ) {}

  /** Rollouts, newest first, without their devices. */
  async list(): Promise<RolloutView[]> {
    return listed(await Rollout.findAll({ order: [['startedAt', 'DESC']], limit: LISTED }));
  }

  async get(id: string): Promise<RolloutView> {
    const rollout = await Rollout.findByPk(id);
    if (!rollout) throw unknown('rollout');
    return viewOf(rollout);
  }

  /** What rolling a draft out comes to, and what stands against it. */
  check = (draftId: string, address: string): Promise<RolloutCheck> => this.planner.check(draftId, address);

  /** The waves in which a draft would be rolled out. @throws AppError `rollout.waves`. */
  foreseen = (draftId: string, how: WavePlan): Promise<WaveForeseen[]> => this.planner.foreseen(draftId, how);

  /**
   * Starts rolling a draft out.
   * @param address where the person is now, so that they do not cut themselves off.
   * @param left whether they stopped waiting: until it is written down, nothing begins then.
   * @throws AppError `rollout.moved`, `rollout.findings`, `rollout.guarantee`, `rollout.lock-out`, `rollout.empty`, `rollout.busy`,
   * `rollout.waves`, `rollout.left`, `draft.misfits`.
   */
  async start(request: RolloutRequest, personId: string, address: string, left: AbortSignal): Promise<RolloutView> {
    const { draftId } = request;
    const seen = (done: number, of: number): Promise<void> =>
      this.bus.send('live', { type: 'planning', draftId, done, of });
    for (let tries = 0; tries < MOST_PLANS; tries++) {
      // Planned without a lock, which it may take seconds to hold; what it rests on is looked at again under it.
      const opened = await this.drafts.open(draftId);
      this.refuseUnready(opened);
      if (request.head !== undefined && request.head !== opened.draft.head)
        throw new AppError(
          'rollout.moved',
          'This draft was edited since you looked at it. Look at it again, then roll it out.',
        );
      const plan = await this.planner.plan(opened, request.waves ?? AT_ONCE, address, { seen, left });
      refuseUnsafe(plan.check, request);
      const rollout = await this.begin(request, opened, plan, personId, left);
      if (!rollout) continue;
      await this.bus.send('rollout-due', { id: rollout.id });
      await this.turned(rollout);
      return viewOf(rollout);
    }
    throw new AppError('rollout.moved', 'Others keep changing what this would do. Look at it again, then roll it out.');
  }

  /** Writes a rollout down, unless what was planned rests on something that changed. */
  private begin(
    { draftId, despiteErrors = false, reason = '', waves: how = AT_ONCE }: RolloutRequest,
    planned: OpenedDraft,
    { steps, waves, sites, check: { broken, lockOuts }, broken: accepted }: RolloutPlan,
    personId: string,
    left: AbortSignal,
  ): Promise<Rollout | null> {
    return changeIntent(this.database, async (transaction) => {
      refuseLeft(left);
      const draft = await this.drafts.editable(draftId, transaction);
      const opened = await this.drafts.open(draftId, transaction);
      this.refuseUnready(opened);
      if (this.drafts.basis(opened) !== this.drafts.basis(planned)) return null;
      const against = await this.side.against(opened, transaction);
      if (against !== null) throw new AppError('rollout.busy', against);
      const parts = await this.intents.store(opened.intent, transaction);
      const rollout = await Rollout.create(
        {
          ...{ id: randomUUID(), draftId, draftName: draft.name, state: 'waiting', personId, parts, plan: how },
          ...{ waves: waves.map(({ name }) => name), accepted: [...accepted], base: opened.liveRevision },
        },
        { transaction },
      );
      const rolloutId = rollout.id;
      await this.rosters.store(new Map(steps.map(({ deviceId, document }) => [deviceId, document])), transaction);
      const rows = steps.map(({ document: _document, ...step }, position) => {
        return { ...step, rolloutId, position, state: 'waiting' as const };
      });
      for (let at = 0; at < rows.length; at += WRITTEN_AT_ONCE)
        await RolloutStep.bulkCreate(rows.slice(at, at + WRITTEN_AT_ONCE), { transaction });
      const stand = await Site.findAll({ where: { id: [...sites.keys()] }, transaction });
      await RolloutSite.bulkCreate(
        stand.map(({ id: siteId, liveEstate, livePart, liveRevision }) => ({
          ...{ rolloutId, siteId, wave: sites.get(siteId)! },
          ...{ beforeEstate: liveEstate, beforePart: livePart, beforeRevision: liveRevision },
        })),
        { transaction },
      );
      await draft.update({ state: 'rolling-out' }, { transaction });
      await note(
        this.database,
        personId,
        'rollout.start',
        {
          ...{ rolloutId, draftId, despiteErrors, waves: waves.length },
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
  private refuseUnready(opened: OpenedDraft): void {
    if (opened.draft.state !== 'open') this.drafts.refuseOver(opened.draft);
    if (opened.misfits.length > 0)
      throw new AppError('draft.misfits', 'Some edits no longer fit what is live. Drop or redo them first.');
    const { edits, behind } = this.drafts.view(opened);
    if (edits === 0 && behind === 0) throw new AppError('rollout.empty', 'This draft changes nothing.');
  }

  /**
   * Asks something of a rollout that is under way: it ends at the device that is told now. Going back stands over stopping, and
   * stopping over pausing.
   * @throws AppError `rollout.over` when it is over, or does that or more already.
   */
  async ask(id: string, wish: RolloutWish, personId: string): Promise<void> {
    const [count] = await Rollout.update(
      { asked: wish },
      {
        where: {
          id,
          endedAt: null,
          asked: { [Op.or]: [...OVER[wish]] },
          state: { [Op.notIn]: wish === 'pause' ? ['paused', 'putting-back', 'stopping'] : ['putting-back'] },
        },
      },
    );
    if (count === 0) throw new AppError('rollout.over', WISHED[wish]);
    await note(this.database, personId, `rollout.${wish === 'back' ? 'cancel' : wish}`, { rolloutId: id });
    await this.bus.send('rollout-due', { id }); // whoever runs it notices; when nobody does, somebody does it
    await this.moved(id);
  }

  /** Goes on with one that is paused: what failed is tried again; between two waves the next one begins. */
  async goOn(id: string, personId: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      const rollout = await Rollout.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE });
      if (!rollout) throw unknown('rollout');
      if (rollout.state !== 'paused' || rollout.asked !== null)
        throw new AppError('rollout.over', 'This rollout is not paused.');
      const rested = rollout.restUntil !== null;
      await rollout.update(
        {
          state: 'waiting',
          reason: null,
          resumed: false,
          restUntil: null,
          ...(rested ? { wave: rollout.wave + 1 } : {}),
        },
        { transaction },
      );
      await RolloutStep.update(
        { state: 'waiting', reason: null },
        { where: { rolloutId: id, state: 'failed' }, transaction },
      );
      await note(this.database, personId, 'rollout.go-on', { rolloutId: id }, transaction);
    });
    await this.bus.send('rollout-due', { id });
    await this.moved(id);
  }

  /** Tells people that a rollout moved. */
  moved(rolloutId: string): Promise<void> {
    return this.bus.send('live', { type: 'rollout', rolloutId });
  }

  /** Tells people that a rollout began, began another wave, or is over: the draft and what is live moved too. */
  async turned({ id, draftId }: Rollout): Promise<void> {
    await this.bus.send('live', { type: 'draft', draftId, head: -1 });
    await this.moved(id);
  }
}

/** @throws AppError when a person has not said that they know what stands against it. */
function refuseUnsafe(check: RolloutCheck, request: RolloutRequest): void {
  const { devices, errors, broken, lockOuts, drifted, held } = check;
  if (held.length > 0)
    throw new AppError(
      'rollout.busy',
      `“${held[0]!.draftName}” is being rolled out at ${held[0]!.siteName}. Wait until that is over, or stop it.`,
    );
  if (request.devices !== undefined && request.devices !== devices)
    throw new AppError(
      'rollout.moved',
      `It would tell ${devices === 1 ? '1 device' : `${devices} devices`} by now, not ${request.devices}. Look at it again, then roll it out.`,
    );
  if (errors > 0 && !request.despiteErrors) {
    const text = errors === 1 ? 'There is an error' : `There are ${errors} errors`;
    throw new AppError('rollout.findings', `${text} among the findings. Mend, or say that you roll out all the same.`);
  }
  if (drifted.length > 0 && !request.putRight)
    throw new AppError(
      'rollout.drift',
      `${drifted[0]!.name} at ${drifted[0]!.siteName}${drifted.length > 1 ? ` and ${drifted.length - 1} more` : ''} runs what somebody changed by hand. Take that over into the draft, or say that it is put right.`,
    );
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
