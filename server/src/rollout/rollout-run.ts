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
  /** Whether somebody asked to stop. */
  readonly cancelled: () => Promise<boolean>;
  /** Says that somebody else goes on: this process is about to end, or lost its lease. Nothing new is begun. */
  readonly stop: AbortSignal;
}

/** After the controller itself was away, devices have this long to call back before they count as silent. */
const CALL_BACK_MS = 20_000;
/** Why a rollout was put back that somebody cancelled. */
export const CANCELLED = 'It was cancelled.';

/** Longest time for a device to take a document, prove it, and say so, beyond the time it has to go back. */
const GRACE_MS = 5000;

/**
 * Tells a rollout's devices one after the other, from the gateway outwards. Looks at the rows before each step,
 * so it can be called again for a rollout that was interrupted anywhere.
 * @returns null when every device keeps its document or will get it when it calls; else why not.
 */
export async function runSteps(rollout: Rollout, tools: RunTools): Promise<string | null> {
  const steps = await RolloutStep.findAll({ where: { rolloutId: rollout.id }, order: ['position'] });
  for (const step of steps) {
    if (step.state === 'kept' || step.state === 'later') continue;
    if (tools.stop.aborted) throw new Interrupted();
    if (await tools.cancelled()) return CANCELLED;
    // Told before we were away: what went wrong then is said late, and is no reason to give it up now.
    const wasTold = rollout.resumed && step.state === 'telling';
    let failure = await tell(step, rollout.resumed, tools);
    if (failure?.from === 'device' && wasTold) failure = await tell(step, rollout.resumed, tools);
    if (failure) await step.update({ state: 'failed', reason: failure.reason });
    await tools.moved();
    if (failure) return failure.reason;
  }
  return null;
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
 * Makes devices that were told run what they ran before, the last told first.
 * Silent ones get it when they call.
 */
export async function putBack(rollout: Rollout, tools: RunTools): Promise<void> {
  const steps = await RolloutStep.findAll({ where: { rolloutId: rollout.id }, order: [['position', 'DESC']] });
  for (const step of steps) {
    if (step.state === 'put-back' || step.state === 'not-told') continue;
    if (tools.stop.aborted) throw new Interrupted();
    if (step.state === 'waiting') {
      await step.update({ state: 'not-told' });
      continue;
    }
    const failed = step.state === 'failed';
    const device = await Device.findByPk(step.deviceId, { rejectOnEmpty: true });
    await device.update({ wants: step.beforeHash, trouble: null });
    await tools.bus.send('sync', { deviceId: device.id, urgent: true });
    if (device.online && step.beforeHash !== null) {
      const patience = tools.keepWithinSeconds * 1000 + GRACE_MS;
      const isBack = (now: Device): boolean => now.runs === step.beforeHash || !now.online;
      await waitForDevice(tools.bus, device.id, patience, isBack, tools.stop);
    }
    if (!failed) await step.update({ state: 'put-back' });
    await tools.moved();
  }
}

/** Signs of life are waited for no longer than a third of the time the device on trial has. */
const probeMs = ({ keepWithinSeconds }: RunTools): number => Math.min(3000, (keepWithinSeconds * 1000) / 3);
