import { pbkdf2Sync, randomFillSync } from 'node:crypto';
import type { CheckedList } from '@iron-lattice/core/base';
import {
  keyKind,
  pairwiseKey,
  planBand,
  type BandPlan,
  type BandPlanInput,
  checkKeyList,
  newKeysFlaws,
  readNewKeys,
  type NewRingKey,
  type RingKeyFlaw,
} from '@iron-lattice/core/wireless';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** @param shared how far it is, in thousandths; and 1 where it is to end. */
    'band-plan': (input: BandPlanInput, shared: Int32Array) => BandPlan | null;
    /** Reads keys that are to be made, and what is wrong with them; `refused`: they are no keys. */
    'new-keys': (bytes: Uint8Array) => {
      readonly keys: readonly NewRingKey[];
      readonly flaws: readonly RingKeyFlaw[];
      readonly refused: string | null;
    };
    /** Looks at a list of keys row by row, for itself. */
    'key-list': (table: readonly (readonly string[])[]) => CheckedList<NewRingKey>;
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

export const tasks: TasksOf<'band-plan' | 'new-keys' | 'key-list' | 'master-keys'> = {
  'new-keys': (bytes) => {
    const keys = readNewKeys(new TextDecoder().decode(bytes));
    if (typeof keys === 'string') return { keys: [], flaws: [], refused: keys };
    return { keys, flaws: newKeysFlaws(keys), refused: null };
  },
  'key-list': (table) => checkKeyList(table, (count) => randomFillSync(new Uint32Array(count))),
  'master-keys': (keys, ssid) => keys.map((key) => masterKey(key, ssid)),
  'band-plan': (input, shared) =>
    planBand(input, (done) => {
      Atomics.store(shared, DONE, Math.round(done * 1000));
      return Atomics.load(shared, STOP) === 0;
    }),
};
