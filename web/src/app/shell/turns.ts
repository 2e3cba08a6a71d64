/**
 * Does one thing after the other: an edit says what it changes from, so the next one is worked out
 * only when the answer to the one before has come.
 */
export class Turns {
  private last: Promise<unknown> = Promise.resolve();

  /** @returns what the work gives, once all that was asked for before has ended, well or not. */
  take<T>(work: () => Promise<T> | T): Promise<T> {
    const done = this.last.then(work);
    this.last = done.catch(() => undefined);
    return done;
  }
}
