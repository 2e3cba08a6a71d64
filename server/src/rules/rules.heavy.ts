import {
  ask,
  reachAcross,
  reachCell,
  reachCellAcross,
  reachMatrix,
  type AcrossInput,
  type Answer,
  type Asked,
  type Question,
  type ReachCell,
  type ReachInput,
  type ReachMatrix,
  type Unanswered,
} from '@iron-lattice/core/assess';
import { book } from '../intent/policy-book';
import type { TasksOf } from '../platform/heavy';

interface AskedOn {
  readonly on: 'draft' | 'live';
  /** Of the week; null for the first at which other rules are in force. */
  readonly minute: number | null;
}

/** A cell of the reach matrix. */
export interface CellAsked extends AskedOn {
  readonly from: string;
  readonly to: string;
}

/** A question about all packets of a kind. */
export interface QuestionAsked extends AskedOn {
  readonly question: Question;
  /** Names of the DNS in it, and what they stand for. */
  readonly lookedUp?: NonNullable<Answer['lookedUp']>;
  /** The packet that is followed. */
  readonly follow?: NonNullable<Asked['follows']>;
}

declare module '../platform/heavy' {
  interface HeavyTasks {
    reach: (input: ReachInput, minute: number | null) => ReachMatrix;
    'reach-cell': (input: ReachInput, asked: CellAsked) => ReachCell;
    'reach-across': (input: AcrossInput, minute: number | null) => ReachMatrix;
    'reach-cell-across': (input: AcrossInput, asked: CellAsked) => ReachCell;
    ask: (input: ReachInput, asked: QuestionAsked) => Asked | Unanswered;
  }
}

export const tasks: TasksOf<'reach' | 'reach-cell' | 'reach-across' | 'reach-cell-across' | 'ask'> = {
  reach: (input, minute) => reachMatrix(input, minute, book),
  'reach-cell': (input, asked) => reachCell(input, asked, book),
  'reach-across': (input, minute) => reachAcross(input, minute, book),
  'reach-cell-across': (input, asked) => reachCellAcross(input, asked, book),
  ask: (input, asked) => ask(input, asked, book),
};
