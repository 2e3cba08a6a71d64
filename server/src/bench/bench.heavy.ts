import type { ReachInput } from '@iron-lattice/core/assess';
import { draftOfSeat, type SeatAnswer, type SeatKey, type SeatQuestion } from '@iron-lattice/core/bench';
import { book } from '../intent/policy-book';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What a draft's rules say of what a seat tries. */
    seat: (input: ReachInput, question: SeatQuestion, moment: number, given: SeatKey) => SeatAnswer['draft'];
  }
}

export const tasks: TasksOf<'seat'> = {
  seat: (input, question, moment, given) => draftOfSeat(input, question, moment, given, book),
};
