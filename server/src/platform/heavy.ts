import type { Consequences, ConsequencesInput } from '@iron-lattice/core/assess';
import type { CheckedList } from '@iron-lattice/core/base';
import type { ExpectedDevice, SerialListContext } from '@iron-lattice/core/intake';
import { Piscina } from 'piscina';
import type { ReadTable } from '../intake/list-table';

type Table = readonly (readonly string[])[];

/** What a worker thread can be given to do. */
export type HeavyTask =
  | { readonly do: 'consequences'; readonly input: ConsequencesInput }
  | { readonly do: 'read-table'; readonly bytes: Uint8Array }
  | { readonly do: 'check-serials'; readonly table: Table; readonly context: SerialListContext };

/** Heavy functions on worker threads, so that the event loop stays free for lines and people. */
export class Heavy {
  private readonly pool = new Piscina({
    filename: new URL('./worker-entry.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: 2,
    idleTimeout: 60_000,
  });

  consequences(input: ConsequencesInput): Promise<Consequences> {
    return this.run({ do: 'consequences', input });
  }

  /** Reads a list that somebody uploaded. */
  readTable(bytes: Uint8Array): Promise<ReadTable> {
    return this.run({ do: 'read-table', bytes });
  }

  checkSerials(table: Table, context: SerialListContext): Promise<CheckedList<ExpectedDevice>> {
    return this.run({ do: 'check-serials', table, context });
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }

  private run<T>(task: HeavyTask): Promise<T> {
    return this.pool.run(task) as Promise<T>;
  }
}
