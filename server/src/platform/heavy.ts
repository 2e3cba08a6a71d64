import { Piscina } from 'piscina';
import { AppError } from './app-error';

/**
 * What worker threads can be given to do, by name: functions on plain values. Each part of the controller adds its own
 * here (declaration merging), and hands over the file that has them as `tasks`.
 */
// eslint-disable-next-line @typescript-eslint/no-empty-object-type -- filled by the parts
export interface HeavyTasks {}

type Name = Extract<keyof HeavyTasks, string>;
type Work<K extends Name> = HeavyTasks[K] extends (...args: infer A) => infer R ? (...args: A) => R : never;

/** The tasks of a file, as they are written there. */
export type TasksOf<K extends Name> = { readonly [N in K]: Work<N> };

/** Why a file could not be read. */
export interface Unread {
  readonly ok: false;
  readonly reason: string;
}

/** What reading a file may take: seconds on the clock, megabytes, and files that wait. */
const FILE_MS = 20_000;
const MOST_FILE_MB = 384;
const MOST_FILES_WAITING = 20;

/** Heavy functions on worker threads, so that the event loop stays free for lines and people. */
export class Heavy {
  private readonly pool: Piscina;
  /** For what strangers made: one at a time, with little memory and time, and gone when it takes more. */
  private readonly fenced: Piscina;
  private closing = false;

  /** @param files modules that have tasks. */
  constructor(files: readonly URL[]) {
    const shared = {
      filename: new URL('./heavy-worker.mjs', import.meta.url).href,
      workerData: { files: files.map(({ href }) => href) },
      idleTimeout: 60_000,
    };
    this.pool = new Piscina({ ...shared, minThreads: 1, maxThreads: 2 });
    this.fenced = new Piscina({
      ...shared,
      minThreads: 0,
      maxThreads: 1,
      maxQueue: MOST_FILES_WAITING,
      resourceLimits: { maxOldGenerationSizeMb: MOST_FILE_MB, maxYoungGenerationSizeMb: 64 },
    });
  }

  /** Has a task done. */
  async run<K extends Name>(name: K, ...args: Parameters<Work<K>>): Promise<Awaited<ReturnType<Work<K>>>> {
    try {
      return (await this.pool.run({ name, args })) as Awaited<ReturnType<Work<K>>>;
    } catch (error) {
      if (this.closing)
        throw new AppError('controller.busy', 'The controller is being stopped. Try again in a moment.');
      throw error;
    }
  }

  /** Has a file read that somebody uploaded. */
  async read<K extends Name>(name: K, ...args: Parameters<Work<K>>): Promise<Awaited<ReturnType<Work<K>>> | Unread> {
    try {
      const signal = AbortSignal.timeout(FILE_MS);
      return (await this.fenced.run({ name, args }, { signal })) as Awaited<ReturnType<Work<K>>>;
    } catch (error) {
      if (error instanceof Error && error.message === 'Task queue is at limit')
        throw new AppError('controller.busy', 'Too many files are being read. Try again in a moment.');
      const { name: kind, code } = error as NodeJS.ErrnoException;
      if (kind === 'AbortError')
        return { ok: false, reason: `It takes longer than ${FILE_MS / 1000} s to read. Part it.` };
      if (code === 'ERR_WORKER_OUT_OF_MEMORY')
        return { ok: false, reason: 'It takes too much memory to read. Part it.' };
      throw error;
    }
  }

  /** What is being done is left undone; whoever waits for it is told so. */
  async close(): Promise<void> {
    this.closing = true;
    await Promise.all([this.pool.destroy(), this.fenced.destroy()]);
  }
}
