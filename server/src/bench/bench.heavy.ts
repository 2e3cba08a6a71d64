import type { ReachInput } from '@iron-lattice/core/assess';
import {
  draftOfSeat,
  getsRows,
  type GetsRow,
  type SeatAnswer,
  type SeatKey,
  type SeatQuestion,
  type Whom,
} from '@iron-lattice/core/bench';
import { book } from '../intent/policy-book';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What somebody would get at a site by a draft. */
    gets: (input: ReachInput, whom: Whom, minute: number) => GetsRow[];
    /** What a draft's rules say of what a seat tries. */
    seat: (input: ReachInput, question: SeatQuestion, moment: number, given: SeatKey) => SeatAnswer['draft'];
  }
}

export const tasks: TasksOf<'gets' | 'seat'> = {
  gets: (input, whom, minute) => getsRows(input, whom, minute, book),
  seat: (input, question, moment, given) => draftOfSeat(input, question, moment, given, book),
};
