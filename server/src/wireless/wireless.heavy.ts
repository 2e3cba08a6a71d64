import { planBand, type BandPlan, type BandPlanInput } from '@iron-lattice/core/wireless';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** @param shared how far it is, in thousandths; and 1 where it is to end. */
    'band-plan': (input: BandPlanInput, shared: Int32Array) => BandPlan | null;
  }
}

/** Places of what a task and who waits for it share. */
export const [DONE, STOP] = [0, 1];

export const tasks: TasksOf<'band-plan'> = {
  'band-plan': (input, shared) =>
    planBand(input, (done) => {
      Atomics.store(shared, DONE, Math.round(done * 1000));
      return Atomics.load(shared, STOP) === 0;
    }),
};
