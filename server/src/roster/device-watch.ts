import { randomUUID } from 'node:crypto';
import { Device } from './device.model';
import type { Bus } from '../platform/bus';

/** A message may be lost while the bus reconnects, so rows are looked at again this often. */
const LOOK_AGAIN_MS = 1000;

/** Thrown to leave work where it is, for whoever takes it up. */
export class Interrupted extends Error {
  override message = 'somebody else goes on with this';
}

/**
 * Waits until a device's row satisfies a condition.
 * @returns the row, or null when the time is up.
 * @throws Interrupted when `stopped` says so.
 */
export function waitForDevice(
  bus: Bus,
  deviceId: string,
  withinMs: number,
  until: (device: Device) => boolean,
  stopped: AbortSignal,
): Promise<Device | null> {
  return new Promise((resolve, reject) => {
    if (stopped.aborted) return reject(new Interrupted());
    const look = (): void => {
      Device.findByPk(deviceId).then((device) => {
        if (device && until(device)) done(device);
      }, fail);
    };
    const deadline = setTimeout(() => done(null), withinMs);
    const again = setInterval(look, LOOK_AGAIN_MS);
    const stop = bus.on('live', (event) => {
      if (event.type === 'device' && event.deviceIds.includes(deviceId)) look();
    });
    const interrupt = (): void => fail(new Interrupted());
    stopped.addEventListener('abort', interrupt, { once: true });
    const clear = (): void => {
      clearTimeout(deadline);
      clearInterval(again);
      stop();
      stopped.removeEventListener('abort', interrupt);
    };
    const done = (device: Device | null): void => {
      clear();
      resolve(device);
    };
    const fail = (error: Error): void => {
      clear();
      reject(error);
    };
    look();
  });
}

/** After how long devices that gave no sign of life are asked again, in milliseconds: a question may be lost. */
const ASK_AGAIN_MS = 3000;

/** Asks devices for a sign of life, those that give none again until the time is up. @returns ids of those that gave none in it. */
export async function findMute(bus: Bus, deviceIds: readonly string[], withinMs: number): Promise<readonly string[]> {
  let mute = deviceIds;
  for (let left = withinMs; left > 0 && mute.length > 0; left -= ASK_AGAIN_MS)
    mute = await askOnce(bus, mute, Math.min(left, ASK_AGAIN_MS));
  return mute;
}

function askOnce(bus: Bus, deviceIds: readonly string[], withinMs: number): Promise<string[]> {
  const token = randomUUID();
  const mute = new Set(deviceIds);
  return new Promise((resolve, reject) => {
    const done = (): void => {
      clearTimeout(deadline);
      stop();
      resolve([...mute]);
    };
    // Each process answers after `withinMs` at the latest; the rest is for the messages themselves.
    const deadline = setTimeout(done, withinMs + 500);
    const stop = bus.on('probed', (message) => {
      if (message.token !== token) return;
      for (const id of message.deviceIds) mute.delete(id);
      if (mute.size === 0) done();
    });
    bus.send('probe', { token, deviceIds: [...deviceIds], withinMs }).catch((error: Error) => {
      clearTimeout(deadline);
      stop();
      reject(error);
    });
  });
}
