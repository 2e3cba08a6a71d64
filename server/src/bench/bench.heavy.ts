import type { ReachInput } from '@iron-lattice/core/assess';
import {
  draftOfSeat,
  getsRows,
  gotTried,
  ifServerDies,
  placeAskers,
  type AskedOne,
  type GetsRow,
  type GetsTry,
  type LosesServer,
  type PlaceAsker,
  type SeatAnswer,
  type SeatKey,
  type SeatQuestion,
  type Stood,
  type Whom,
} from '@iron-lattice/core/bench';
import type { ResolvedSite, RosterDevice } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import { book } from '../intent/policy-book';
import type { TasksOf } from '../platform/heavy';

/** A site and its devices, as a draft has them. */
interface Drafted {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
}

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What somebody would get at a site by a draft. */
    gets: (input: ReachInput, whom: Whom, minute: number) => GetsRow[];
    /** Which devices can ask at a place. */
    'gets-askers': (site: ResolvedSite, roster: readonly RosterDevice[], place: GetsTry['place']) => PlaceAsker[];
    /** What came of asking at a place. */
    'gets-tried': (of: Drafted, whom: Whom, stood: Stood, asked: readonly AskedOne[]) => ReturnType<typeof gotTried>;
    /** What happens when a server dies. */
    'server-dies': (site: ResolvedSite, roster: readonly RosterDevice[], name: string) => LosesServer[];
    /** What a draft's rules say of what a seat tries. */
    seat: (input: ReachInput, question: SeatQuestion, moment: number, given: SeatKey) => SeatAnswer['draft'];
  }
}

export const tasks: TasksOf<'gets' | 'gets-askers' | 'gets-tried' | 'server-dies' | 'seat'> = {
  gets: (input, whom, minute) => getsRows(input, whom, minute, book),
  'gets-askers': placeAskers,
  'gets-tried': gotTried,
  'server-dies': (site, roster, name) => ifServerDies({ site, documents: compileSite(site, roster) }, name),
  seat: (input, question, moment, given) => draftOfSeat(input, question, moment, given, book),
};
