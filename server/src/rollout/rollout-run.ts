import type { Rollout } from './rollout.model';
import { RolloutStep } from './rollout.model';
import { Device } from '../roster/device.model';
import type { Bus } from '../platform/bus';
import { findMute, Interrupted, waitForDevice } from '../roster/device-watch';

/** What a run needs besides the rows. */
export interface RunTools {
  readonly bus: Bus;
  readonly keepWithinSeconds: number;
  /** Tells people that the rollout moved. */
  readonly moved: () => Promise<void>;
  /** Whether somebody asked for something else than to go on. */
  readonly asked: () => Promise<boolean>;
  /** Says that somebody else goes on: this process is about to end, or lost its lease. Nothing new is begun. */
  readonly stop: AbortSignal;
}

/** Sites that are told side by side. */
const SITES_SIDE_BY_SIDE = 8;
/** After the controller itself was away, devices have this long to call back before they count as silent. */
const CALL_BACK_MS = 20_000;
/** Longest time for a device to take a document, prove it, and say so, beyond the time it has to go back. */
const GRACE_MS = 5000;

/** How telling a wave ended, unless it is through. `held`: the hours of sites that are left. */
export type Halt = { readonly asked: true } | { readonly failed: string } | { readonly held: true };

/**
 * Tells the devices of a wave: sites side by side, the devices of each one after the other, from the gateway outwards. Looks at
 * the rows before each step, so it can be called again for a rollout that was interrupted anywhere. What fails at one site lets
 * the others end the device they are at. A site that is begun is told to its end.
 * @param mayBegin whether a site has hours now that are enough for so many devices.
 * @returns null when every device keeps its document or will get it when it calls.
 */
export async function tellWave(
  rollout: Rollout,
  tools: RunTools,
  mayBegin: (siteId: string | null, devices: number) => boolean,
): Promise<Halt | null> {
  const steps = await RolloutStep.findAll({
    where: { rolloutId: rollout.id, wave: rollout.wave },
    order: ['position'],
  });
  let halt: Halt | null = null;
  let held = false;
  await bySite(steps, async (mine) => {
    const left = mine.filter(({ state }) => state !== 'kept' && state !== 'later');
    if (left.length === mine.length && !mayBegin(mine[0]!.siteId, left.length)) {
      held = true;
      return;
    }
    for (const step of mine) {
      if (step.state === 'kept' || step.state === 'later') continue;
      if (tools.stop.aborted) throw new Interrupted();
      if (halt) return;
      if (await tools.asked()) {
        halt ??= { asked: true };
        return;
      }
      // Told before we were away: what went wrong then is said late, and is no reason to give it up now.
      const wasTold = rollout.resumed && step.state === 'telling';
      let failure = await tell(step, rollout.resumed, tools);
      if (failure?.from === 'device' && wasTold) failure = await tell(step, rollout.resumed, tools);
      if (failure) await step.update({ state: 'failed', reason: failure.reason });
      await tools.moved();
      if (!failure) continue;
      halt = { failed: failure.reason };
      return;
    }
  });
  return halt ?? (held ? { held: true } : null);
}

/** Does something with the steps of each site, a few sites at a time; the first error ends it once the others are through. */
async function bySite(
  steps: readonly RolloutStep[],
  work: (steps: readonly RolloutStep[]) => Promise<void>,
): Promise<void> {
  const sites = new Map<string | null, RolloutStep[]>();
  for (const step of steps) sites.set(step.siteId, [...(sites.get(step.siteId) ?? []), step]);
  const waiting = [...sites.values()];
  const lane = async (): Promise<void> => {
    for (let next = waiting.shift(); next; next = waiting.shift()) await work(next);
  };
  const ended = await Promise.allSettled(Array.from({ length: SITES_SIDE_BY_SIDE }, lane));
  const failed = ended.find(({ status }) => status === 'rejected');
  if (failed) throw (failed as PromiseRejectedResult).reason;
}

/** Why a step failed: the device itself said so, or others were seen to lose their way. */
interface Failure {
  readonly from: 'device' | 'others';
  readonly reason: string;
}

async function tell(step: RolloutStep, resumed: boolean, tools: RunTools): Promise<Failure | null> {
  const called = resumed
    ? await waitForDevice(tools.bus, step.deviceId, CALL_BACK_MS, (device) => device.online, tools.stop)
    : null;
  const device = called ?? (await Device.findByPk(step.deviceId, { rejectOnEmpty: true }));
  if (tools.stop.aborted) throw new Interrupted();
  if (!device.online) {
    await device.update({ wants: step.hash, trouble: null });
    await step.update({ state: 'later', reason: 'Silent: it gets its document when it calls.' });
    return null;
  }
  const before = await Device.findAll({ attributes: ['id', 'name'], where: { siteId: device.siteId, online: true } });
  await step.update({ state: 'telling' });
  await device.update({ wants: step.hash, trouble: null });
  await tools.moved();
  await tools.bus.send('sync', { deviceId: device.id, urgent: true });

  const patience = tools.keepWithinSeconds * 1000 + GRACE_MS;
  const { hash } = step;
  const settled = (now: Device): boolean => now.runs === hash || now.trouble !== null;
  const onTrial = (now: Device): boolean => settled(now) || now.applied === hash;
  const applied = await waitForDevice(tools.bus, device.id, patience, onTrial, tools.stop);
  if (applied && applied.applied === hash && applied.runs !== hash) {
    const mute = await findMute(
      tools.bus,
      before.map((each) => each.id),
      probeMs(tools),
    );
    if (mute.length > 0) {
      const names = before.filter((each) => mute.includes(each.id)).map((each) => each.name);
      await waitForDevice(tools.bus, device.id, patience, (now) => now.applied === null, tools.stop);
      const lost = names.join(', ');
      return {
        from: 'others',
        reason: `${device.name} went back by itself: with its new document ${lost} no longer reached the controller.`,
      };
    }
    await tools.bus.send('keep', { deviceId: device.id, hash });
  }
  const ended = await waitForDevice(tools.bus, device.id, patience, settled, tools.stop);
  if (ended?.runs === hash) {
    await step.update({ state: 'kept', reason: null });
    return null;
  }
  return { from: 'device', reason: `${device.name}: ${ended?.trouble ?? 'no answer; its line may be lost.'}` };
}

/**
 * Makes devices that were told run what they ran before: sites side by side, at each the last told first. Silent ones get it
 * when they call.
 * @param stays sites that are left as they were told.
 */
export async function putBack(rollout: Rollout, tools: RunTools, stays: ReadonlySet<string>): Promise<void> {
  const all = await RolloutStep.findAll({ where: { rolloutId: rollout.id }, order: [['position', 'DESC']] });
  const steps = all.filter(({ siteId }) => siteId === null || !stays.has(siteId));
  const idle = steps.filter(({ state }) => state === 'waiting');
  await RolloutStep.update(
    { state: 'not-told' },
    { where: { rolloutId: rollout.id, position: idle.map(({ position }) => position), state: 'waiting' } },
  );
  const told = steps.filter(({ state }) => !['waiting', 'put-back', 'not-told'].includes(state));
  await bySite(told, async (mine) => {
    for (const step of mine) {
      if (tools.stop.aborted) throw new Interrupted();
      const device = await Device.findByPk(step.deviceId, { rejectOnEmpty: true });
      await device.update({ wants: step.beforeHash, trouble: null });
      await tools.bus.send('sync', { deviceId: device.id, urgent: true });
      if (device.online && step.beforeHash !== null) {
        const patience = tools.keepWithinSeconds * 1000 + GRACE_MS;
        const isBack = (now: Device): boolean => now.runs === step.beforeHash || !now.online;
        await waitForDevice(tools.bus, device.id, patience, isBack, tools.stop);
      }
      if (step.state !== 'failed') await step.update({ state: 'put-back' });
      await tools.moved();
    }
  });
}

/** Longest that signs of life are waited for, in milliseconds. */
const MOST_PROBE_MS = 20_000;
/** Half of the time the device on trial has: the other half is for telling it to keep its document. */
const probeMs = ({ keepWithinSeconds }: RunTools): number => Math.min(MOST_PROBE_MS, keepWithinSeconds * 500);
