import { pbkdf2Sync } from 'node:crypto';
import { keyKind, pairwiseKey, planBand, type BandPlan, type BandPlanInput } from '@iron-lattice/core/wireless';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** @param shared how far it is, in thousandths; and 1 where it is to end. */
    'band-plan': (input: BandPlanInput, shared: Int32Array) => BandPlan | null;
    /** Pairwise master keys of keys for a network, in hex. @param ssid octets of its name. */
    'master-keys': (keys: readonly string[], ssid: Uint8Array) => string[];
  }
}

/** Places of what a task and who waits for it share. */
export const [DONE, STOP] = [0, 1];

/** As core does it, by OpenSSL: many times as fast. */
function masterKey(key: string, ssid: Uint8Array): string {
  if (keyKind(key) !== 'passphrase') return pairwiseKey(key, ssid);
  return pbkdf2Sync(key, ssid, 4096, 32, 'sha1').toString('hex');
}

export const tasks: TasksOf<'band-plan' | 'master-keys'> = {
  'master-keys': (keys, ssid) => keys.map((key) => masterKey(key, ssid)),
  'band-plan': (input, shared) =>
    planBand(input, (done) => {
      Atomics.store(shared, DONE, Math.round(done * 1000));
      return Atomics.load(shared, STOP) === 0;
    }),
};
