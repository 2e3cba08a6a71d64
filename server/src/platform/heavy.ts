import type {
  Answer,
  Consequences,
  ConsequencesInput,
  Question,
  ReachCell,
  ReachInput,
  ReachMatrix,
  Unanswered,
} from '@iron-lattice/core/assess';
import type { SeatAnswer, SeatQuestion } from '@iron-lattice/core/bench';
import type { CheckedList } from '@iron-lattice/core/base';
import type { ExpectedDevice, SerialListContext } from '@iron-lattice/core/intake';
import { Piscina } from 'piscina';
import { AppError } from './app-error';
import type { ReadRelease } from '../firmware/release-file';
import type { ReadTable } from '../intake/list-table';

type Table = readonly (readonly string[])[];

/** What a worker thread can be given to do. */
export type HeavyTask =
  | { readonly do: 'consequences'; readonly input: ConsequencesInput }
  | { readonly do: 'reach'; readonly input: ReachInput; readonly minute: number | null }
  | { readonly do: 'reach-cell'; readonly input: ReachInput; readonly asked: CellAsked }
  | { readonly do: 'ask'; readonly input: ReachInput; readonly asked: QuestionAsked }
  | { readonly do: 'seat'; readonly input: ReachInput; readonly question: SeatQuestion; readonly minute: number }
  | { readonly do: 'read-table'; readonly bytes: Uint8Array }
  | { readonly do: 'read-release'; readonly bytes: Uint8Array }
  | { readonly do: 'check-serials'; readonly table: Table; readonly context: SerialListContext };

/** A cell of the reach matrix. */
export interface CellAsked extends AskedOn {
  readonly from: string;
  readonly to: string;
}
export interface QuestionAsked extends AskedOn {
  readonly question: Question;
  /** Names of the DNS in it, and what they stand for. */
  readonly lookedUp?: NonNullable<Answer['lookedUp']>;
}
interface AskedOn {
  readonly on: 'draft' | 'live';
  /** Of the week; null for the first at which other rules are in force. */
  readonly minute: number | null;
}

/** What reading a file may take: seconds on the clock, megabytes, and files that wait. */
const FILE_MS = 20_000;
const MOST_FILE_MB = 384;
const MOST_FILES_WAITING = 20;

/** Heavy functions on worker threads, so that the event loop stays free for lines and people. */
export class Heavy {
  private readonly pool = new Piscina({
    filename: new URL('./worker-entry.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: 2,
    idleTimeout: 60_000,
  });

  /** For what strangers made: one at a time, with little memory and time, and gone when it takes more. */
  private readonly fenced = new Piscina({
    filename: new URL('./worker-entry.mjs', import.meta.url).href,
    minThreads: 0,
    maxThreads: 1,
    maxQueue: MOST_FILES_WAITING,
    idleTimeout: 60_000,
    resourceLimits: { maxOldGenerationSizeMb: MOST_FILE_MB, maxYoungGenerationSizeMb: 64 },
  });

  consequences(input: ConsequencesInput): Promise<Consequences> {
    return this.run({ do: 'consequences', input });
  }

  reach(input: ReachInput, minute: number | null): Promise<ReachMatrix> {
    return this.run({ do: 'reach', input, minute });
  }

  reachCell(input: ReachInput, asked: CellAsked): Promise<ReachCell> {
    return this.run({ do: 'reach-cell', input, asked });
  }

  ask(input: ReachInput, asked: QuestionAsked): Promise<Answer | Unanswered> {
    return this.run({ do: 'ask', input, asked });
  }

  /** What a draft's rules say of what a seat tries. */
  seatDraft(input: ReachInput, question: SeatQuestion, minute: number): Promise<SeatAnswer['draft']> {
    return this.run({ do: 'seat', input, question, minute });
  }

  /** Reads a list that somebody uploaded. */
  readTable(bytes: Uint8Array): Promise<ReadTable> {
    return this.readFile<ReadTable>({ do: 'read-table', bytes });
  }

  /** Reads a release of firmware from its file. */
  readRelease(bytes: Uint8Array): Promise<ReadRelease> {
    return this.readFile<ReadRelease>({ do: 'read-release', bytes });
  }

  private async readFile<T>(task: HeavyTask): Promise<T | { readonly ok: false; readonly reason: string }> {
    try {
      const signal = AbortSignal.timeout(FILE_MS);
      return (await this.fenced.run(task, { signal })) as T;
    } catch (error) {
      if (error instanceof Error && error.message === 'Task queue is at limit')
        throw new AppError('controller.busy', 'Too many files are being read. Try again in a moment.');
      const { name, code } = error as NodeJS.ErrnoException;
      if (name === 'AbortError')
        return { ok: false, reason: `It takes longer than ${FILE_MS / 1000} s to read. Part it.` };
      if (code === 'ERR_WORKER_OUT_OF_MEMORY')
        return { ok: false, reason: 'It takes too much memory to read. Part it.' };
      throw error;
    }
  }

  checkSerials(table: Table, context: SerialListContext): Promise<CheckedList<ExpectedDevice>> {
    return this.run({ do: 'check-serials', table, context });
  }

  async close(): Promise<void> {
    await Promise.all([this.pool.destroy(), this.fenced.destroy()]);
  }

  private run<T>(task: HeavyTask): Promise<T> {
    return this.pool.run(task) as Promise<T>;
  }
}
