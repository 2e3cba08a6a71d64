import type { Consequences, ConsequencesInput } from '@iron-lattice/core/assess';
import { Piscina } from 'piscina';

/** Core's heavy functions on worker threads, so that the event loop stays free for lines and people. */
export class Heavy {
  private readonly pool = new Piscina({
    filename: new URL('./worker-entry.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: 2,
    idleTimeout: 60_000,
  });

  consequences(input: ConsequencesInput): Promise<Consequences> {
    return this.pool.run(input) as Promise<Consequences>;
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
