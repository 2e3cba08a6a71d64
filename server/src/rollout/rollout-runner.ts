import { setTimeout as wait } from 'node:timers/promises';
import { fitsHours, nextHours, TELL_SECONDS, wholeSites } from '@iron-lattice/core/rollout';
import { Op } from 'sequelize';
import type { IntentService, LivePair } from '../intent/intent.service';
import type { Bus } from '../platform/bus';
import { isConnectionLost, isPoolBusy } from '../platform/connection-loss';
import type { Lease } from '../platform/lease';
import { Recurring } from '../platform/recurring';
import { Device } from '../roster/device.model';
import { Interrupted } from '../roster/device-watch';
import type { RosterService } from '../roster/roster.service';
import { putBack, tellWave, type RunTools } from './rollout-run';
import { planOf, Rollout, RolloutSite, RolloutStep } from './rollout.model';
import type { WaveChecks } from './wave-checks';
import { Clash, type CommitHow, type WaveCommit } from './wave-commit';
import { clock } from '../platform/clock';

/** How often a rollout that nobody runs is looked for, in milliseconds. */
const LOOK_MS = 2000;
/** A rollout that fails on our side is tried so often, then given up. */
const MOST_TRIES = 3;
/** Why a rollout was put back that somebody cancelled. */
export const CANCELLED = 'It was cancelled.';
const OUR_FAULT = 'It could not be gone on with for a fault on our side';

/** What the runner needs of others. */
export interface RunnerOf {
  readonly lease: Lease;
  readonly intents: IntentService;
  readonly rosters: RosterService;
  readonly commits: WaveCommit;
  readonly checks: WaveChecks;
  readonly bus: Bus;
  readonly keepWithinSeconds: number;
  readonly failed: (error: unknown) => void;
  /** Tells people that a rollout moved. */
  readonly moved: (rolloutId: string) => Promise<void>;
  /** Tells people that a rollout began another wave or is over: what is live, and the draft, moved too. */
  readonly turned: (rollout: Rollout) => Promise<void>;
}

/** Runs rollouts that are not over, beside each other, wave by wave, in whichever controller holds the lease. All it knows is in the rows. */
export class RolloutRunner {
  private readonly ending = new AbortController();
  private readonly recurring: Recurring;
  private stopListening: () => void = () => {};
  /** Has whoever runs look again at once which rollouts there are. */
  private wake: () => void = () => {};

  constructor(private readonly of: RunnerOf) {
    this.recurring = new Recurring(() => this.runDue(), LOOK_MS, of.failed);
  }

  /** Takes up what another process left in the middle. */
  open(): void {
    this.stopListening = this.of.bus.on('rollout-due', () => {
      this.recurring.look();
      this.wake();
    });
    this.recurring.open(0);
  }

  /** Begins nothing new: what runs is left where it is, for the next start. */
  async close(): Promise<void> {
    this.stopListening();
    this.ending.abort();
    await this.recurring.close();
    await this.of.lease.close();
  }

  private async runDue(): Promise<void> {
    if (this.ending.signal.aborted || (await this.due()).length === 0) return;
    await this.of.lease.run((lost) => this.runAll(AbortSignal.any([lost, this.ending.signal])));
  }

  private async due(): Promise<readonly string[]> {
    const due = await Rollout.findAll({
      attributes: ['id'],
      where: { endedAt: null, [Op.or]: [{ state: { [Op.ne]: 'paused' } }, { asked: { [Op.ne]: null } }] },
    });
    return due.map(({ id }) => id);
  }

  /** Runs all that are due, and those that become so meanwhile; none waits for another. */
  private async runAll(stop: AbortSignal): Promise<void> {
    const active = new Map<string, Promise<void>>();
    do {
      const asked = new Promise<void>((resolve) => (this.wake = resolve));
      for (const id of await this.due())
        if (!active.has(id))
          active.set(
            id,
            this.attempt(id, stop)
              .catch(this.of.failed) // the same while it was counted
              .finally(() => active.delete(id)),
          );
      if (active.size === 0) return;
      const looking = new AbortController();
      const later = wait(LOOK_MS, undefined, { signal: looking.signal }).catch(() => undefined);
      await Promise.race([asked, later, Promise.all(active.values())]);
      looking.abort();
    } while (active.size > 0 && !stop.aborted);
    await Promise.all(active.values());
  }

  /** Runs a rollout; one that fails for a reason of ours is tried again by the next look, then given up. */
  private async attempt(id: string, stop: AbortSignal): Promise<void> {
    try {
      await this.run(id, stop);
    } catch (error) {
      if (error instanceof Interrupted || stop.aborted) return;
      this.of.failed(error);
      if (isConnectionLost(error) || isPoolBusy(error)) return; // nobody's fault: taken up when it is back
      await Rollout.increment({ attempts: 1 }, { where: { id } });
      const rollout = await Rollout.findByPk(id, { rejectOnEmpty: true });
      if (rollout.attempts >= MOST_TRIES) await this.giveUp(rollout);
    }
  }

  private async run(id: string, stop: AbortSignal): Promise<void> {
    const rollout = await Rollout.findByPk(id, { rejectOnEmpty: true });
    // Somebody was in the middle of it: devices may have to call back first.
    if (['running', 'putting-back', 'stopping'].includes(rollout.state) && !rollout.resumed)
      await rollout.update({ resumed: true });
    const tools: RunTools = {
      bus: this.of.bus,
      keepWithinSeconds: this.of.keepWithinSeconds,
      moved: () => this.of.moved(id),
      stop,
      asked: async () => (await Rollout.findByPk(id, { rejectOnEmpty: true })).asked !== null,
    };
    while (await this.next(rollout, tools)) await rollout.reload();
  }

  /** Does what is next. @returns whether there is more to do now. */
  private async next(rollout: Rollout, tools: RunTools): Promise<boolean> {
    if (tools.stop.aborted) throw new Interrupted();
    if (rollout.endedAt !== null) return false;
    if (rollout.asked === 'back' || rollout.state === 'putting-back') {
      await this.goBack(rollout, tools, rollout.reason ?? CANCELLED);
      return false;
    }
    if (rollout.asked === 'stop' || rollout.state === 'stopping') return this.stopHere(rollout, tools);
    if (rollout.asked === 'pause') return this.pause(rollout, 'Somebody paused it.');
    if (rollout.state === 'paused') return false;
    if (rollout.state === 'resting') return this.rest(rollout, tools);
    if (rollout.state === 'holding' && (rollout.restUntil?.getTime() ?? 0) > clock.now()) return false; // looked at again
    await this.count(rollout);
    const [began] = await Rollout.update(
      { state: 'running', restUntil: null },
      { where: { id: rollout.id, state: ['waiting', 'holding'] } },
    );
    if (began > 0) rollout.set({ state: 'running' });
    await this.of.moved(rollout.id);
    const hours = await this.hours(rollout);
    const halt = await tellWave(rollout, tools, hours.mayBegin);
    if (halt && 'asked' in halt) return true;
    if (halt && 'held' in halt) {
      const held = { state: 'holding', restUntil: new Date(await hours.next()) } as const;
      await Rollout.update(held, { where: { id: rollout.id, state: 'running' } });
      await this.of.moved(rollout.id);
      return false;
    }
    if (halt) return this.fail(rollout, tools, halt.failed);
    return this.through(rollout, tools);
  }

  /** When sites may be told. */
  private async hours(rollout: Rollout): Promise<{
    mayBegin: (siteId: string | null, devices: number) => boolean;
    next: () => Promise<number>;
  }> {
    const { within } = planOf(rollout);
    const { pairs } = within === undefined ? { pairs: new Map<string, LivePair>() } : await this.of.intents.live();
    const zoneOf = (siteId: string | null): string => pairs.get(siteId ?? '')?.site.timeZone ?? 'UTC';
    return {
      mayBegin: (siteId, devices) =>
        within === undefined || fitsHours(within, zoneOf(siteId), clock.now(), devices * TELL_SECONDS),
      next: async () => {
        const steps = await RolloutStep.findAll({
          where: { rolloutId: rollout.id, wave: rollout.wave, state: 'waiting' },
          attributes: ['siteId'],
        });
        const zones = new Set(steps.map(({ siteId }) => zoneOf(siteId)));
        const now = clock.now();
        // Hours that last, but not long enough for what is left of a site, are looked at again in a minute.
        return Math.max(now + 60_000, Math.min(...[...zones].map((zone) => nextHours(within ?? '', zone, now))));
      },
    };
  }

  /** A wave was told as a whole. */
  private async through(rollout: Rollout, tools: RunTools): Promise<boolean> {
    const more = { rolloutId: rollout.id, wave: { [Op.gt]: rollout.wave } };
    const last = (await RolloutStep.count({ where: more })) === 0;
    const sites = await RolloutSite.findAll({ where: { rolloutId: rollout.id, wave: rollout.wave, live: false } });
    const ids = sites.map(({ siteId }) => siteId);
    const changed = await this.commit(rollout, tools, ids, last ? 'last' : 'wave');
    if (changed === 'clash') return false;
    if (changed === null) return true; // whoever asked to go back while the last device was told was answered that it does
    await this.of.rosters.sync(changed);
    await this.of.turned(rollout);
    this.of.intents.wentLive(ids);
    return !last;
  }

  /** Makes it live at sites; where others leave no room for it, it goes back instead. */
  private async commit(rollout: Rollout, tools: RunTools, siteIds: readonly string[], how: CommitHow) {
    try {
      return await this.of.commits.commit(rollout, siteIds, how);
    } catch (error) {
      if (!(error instanceof Clash)) throw error;
      await rollout.reload(); // as it was before
      await this.goBack(rollout, tools, 'What another rollout brought meanwhile leaves no room for it.');
      return 'clash';
    }
  }

  /** Waits after a wave, and looks whether the next one may begin. */
  private async rest(rollout: Rollout, tools: RunTools): Promise<boolean> {
    const { id, wave, restUntil } = rollout;
    if (restUntil !== null && restUntil.getTime() > clock.now()) return false; // looked at again
    if (planOf(rollout).forSilent && (await this.of.checks.silent(rollout)).length > 0) return false;
    const against = await this.of.checks.against(rollout);
    if (against !== null) return this.fail(rollout, tools, against);
    await Rollout.update(
      { state: 'running', wave: wave + 1, restUntil: null, resumed: false },
      { where: { id, state: 'resting', wave } },
    );
    await this.of.turned(rollout);
    return true;
  }

  /** Remembers how many clients are at the sites of a wave before it begins. */
  private async count({ id: rolloutId, wave }: Rollout): Promise<void> {
    const sites = await RolloutSite.findAll({ where: { rolloutId, wave, clients: null } });
    const clients = await this.of.checks.clients(sites.map(({ siteId }) => siteId));
    for (const site of sites) await site.update({ clients: clients.get(site.siteId) ?? 0 });
  }

  private async fail(rollout: Rollout, tools: RunTools, reason: string): Promise<boolean> {
    if (planOf(rollout).onFailure === 'pause') return this.pause(rollout, reason);
    await this.goBack(rollout, tools, reason);
    return false;
  }

  private async pause(rollout: Rollout, reason: string): Promise<boolean> {
    const { id } = rollout;
    // What was waited for is another thing than the rest between two waves.
    const hours = rollout.state === 'holding' ? { restUntil: null } : {};
    await Rollout.update({ state: 'paused', reason, ...hours }, { where: { id, endedAt: null } });
    // Whoever asked for more meanwhile is heard at once.
    const [count] = await Rollout.update({ asked: null }, { where: { id, asked: { [Op.or]: [null, 'pause'] } } });
    await this.of.turned(rollout);
    return count === 0;
  }

  private async goBack(rollout: Rollout, tools: RunTools, reason: string): Promise<void> {
    await rollout.update({ state: 'putting-back', reason });
    await this.of.moved(rollout.id);
    await putBack(rollout, tools, new Set());
    await this.of.rosters.sync(await this.of.commits.takeBack(rollout, reason));
    await this.of.turned(rollout);
  }

  /** Ends it with the sites that were told as a whole; without any, nothing is left of it. @returns whether more is to be done. */
  private async stopHere(rollout: Rollout, tools: RunTools): Promise<boolean> {
    const { id: rolloutId } = rollout;
    const steps = await RolloutStep.findAll({ where: { rolloutId }, order: ['position'] });
    const whole = wholeSites(steps.map(({ siteId, state }) => ({ siteId: siteId ?? '', state })));
    if (whole.size === 0) {
      await this.goBack(rollout, tools, 'It was stopped before a site was told as a whole.');
      return false;
    }
    await rollout.update({ state: 'stopping', reason: 'It was stopped.' });
    await this.of.moved(rolloutId);
    await putBack(rollout, tools, whole);
    const sites = await RolloutSite.findAll({ where: { rolloutId, live: false } });
    const ids = sites.map(({ siteId }) => siteId).filter((id) => whole.has(id));
    const changed = await this.commit(rollout, tools, ids, 'stopped');
    if (changed === 'clash') return false;
    if (changed === null) return true;
    await this.of.rosters.sync(changed);
    await this.of.turned(rollout);
    this.of.intents.wentLive(ids);
    return false;
  }

  /** Gives up what cannot be run: it is paused, or every device that was told is to run what it ran before, when it is heard. */
  private async giveUp(rollout: Rollout): Promise<void> {
    if (planOf(rollout).onFailure === 'pause' && rollout.asked === null && rollout.state !== 'putting-back') {
      await Rollout.update({ attempts: 0 }, { where: { id: rollout.id } });
      await this.pause(rollout, `${OUR_FAULT}. The log says more.`);
      return;
    }
    const rolloutId = rollout.id;
    const reason = `${OUR_FAULT}, and was put back. The log says more.`;
    await rollout.update({ state: 'putting-back', reason });
    const steps = await RolloutStep.findAll({ where: { rolloutId } });
    const told = steps.filter(({ state }) => state !== 'waiting' && state !== 'not-told');
    for (const { deviceId, hash, beforeHash } of told)
      await Device.update(
        { wants: beforeHash, trouble: null },
        { where: { id: deviceId, wants: { [Op.in]: [hash, beforeHash ?? hash] } } },
      );
    await RolloutStep.update({ state: 'not-told' }, { where: { rolloutId, state: 'waiting' } });
    await RolloutStep.update({ state: 'put-back' }, { where: { rolloutId, state: ['telling', 'kept', 'later'] } });
    const changed = await this.of.commits.takeBack(rollout, reason);
    await this.of.rosters.sync([...told.map(({ deviceId }) => deviceId), ...changed]);
    await this.of.turned(rollout);
  }
}
