import { isConnectionLost, isPoolBusy } from './connection-loss';
import { later } from './held-connection';

/** How entries of one key become one, how many are written at once, and what becomes of a bad one. */
export interface WriteBehindOptions<V> {
  /**
   * Writes entries, all or none.
   * @returns keys that could not be written now, because somebody else is writing there: they come again.
   */
  readonly write: (entries: ReadonlyMap<string, V>) => Promise<Iterable<string>>;
  /** What is written when a further entry of the same key came. */
  readonly merge: (older: V, newer: V) => V;
  /** An entry that cannot be written, whatever else is: it is dropped. */
  readonly bad: (key: string, error: unknown) => void;
  readonly failed: (error: unknown) => void;
  /** How long entries are gathered, in milliseconds. */
  readonly soonMs: number;
  /** Entries of one statement. */
  readonly most: number;
}

/** So often an entry is put back because its row is busy; one that never is free is gone. */
const MOST_TRIES = 50;
/** Waits between tries while the database is away, in milliseconds. */
const AWAY_MS = { first: 250, longest: 5000 } as const;

/**
 * Writes many small things in few statements. Nothing is forgotten that was not written: while the database is away all
 * of it waits, and a batch that is refused is parted until the bad entry is alone.
 */
export class WriteBehind<V> {
  private readonly waiting = new Map<string, V>();
  private readonly tries = new Map<string, number>();
  private timer: NodeJS.Timeout | null = null;
  private writing: Promise<void> | null = null;
  private awayMs = 0;
  private closed = false;

  constructor(private readonly options: WriteBehindOptions<V>) {}

  /** Number of keys that wait. */
  get size(): number {
    return this.waiting.size;
  }

  put(key: string, value: V): void {
    const before = this.waiting.get(key);
    this.waiting.set(key, before === undefined ? value : this.options.merge(before, value));
    this.soon();
  }

  /** Writes what waits, at once; what cannot be written now stays. */
  async flush(): Promise<void> {
    await this.writing;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.writing = this.writeAll().finally(() => {
      this.writing = null;
      if (this.waiting.size > 0) this.soon();
    });
    await this.writing;
  }

  /** Writes what waits and begins nothing more. */
  async close(): Promise<void> {
    this.closed = true;
    await this.flush();
  }

  private async writeAll(): Promise<void> {
    const all = [...this.waiting];
    this.waiting.clear();
    for (let at = 0; at < all.length; at += this.options.most) {
      try {
        await this.writePart(all.slice(at, at + this.options.most));
        this.awayMs = 0;
      } catch (error) {
        this.awayMs = Math.min(this.awayMs * 2 || AWAY_MS.first, AWAY_MS.longest);
        for (const [key, value] of all.slice(at)) this.putBack(key, value);
        this.options.failed(error);
        return;
      }
    }
  }

  /** @throws Error when the database is away. */
  private async writePart(part: readonly (readonly [string, V])[]): Promise<void> {
    let busy: Iterable<string>;
    try {
      busy = await this.options.write(new Map(part));
    } catch (error) {
      if (isConnectionLost(error) || isPoolBusy(error)) throw error;
      if (part.length > 1) {
        const half = Math.ceil(part.length / 2);
        await this.writePart(part.slice(0, half));
        await this.writePart(part.slice(half));
      } else for (const [key] of part) this.drop(key, error);
      return;
    }
    const again = new Set(busy);
    for (const [key, value] of part) {
      if (!again.has(key)) this.tries.delete(key);
      else {
        const tries = (this.tries.get(key) ?? 0) + 1;
        this.tries.set(key, tries);
        if (tries < MOST_TRIES) this.putBack(key, value);
        else this.tries.delete(key); // its row is gone
      }
    }
  }

  private putBack(key: string, value: V): void {
    const newer = this.waiting.get(key);
    this.waiting.set(key, newer === undefined ? value : this.options.merge(value, newer));
  }

  private drop(key: string, error: unknown): void {
    this.tries.delete(key);
    this.options.bad(key, error);
  }

  private soon(): void {
    if (this.closed && this.awayMs > 0) return; // nobody is left to wait for the database
    this.timer ??= later(Math.max(this.options.soonMs, this.awayMs), () => {
      this.timer = null;
      if (!this.writing) void this.flush();
    });
  }
}
