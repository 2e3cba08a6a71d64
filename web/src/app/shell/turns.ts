import { afterNextRender, DestroyRef, inject, Injector } from '@angular/core';

/**
 * Does one thing after the other: an edit says what it changes from, so the next one is worked out only when the answer to the one before has come, and
 * stands in what is shown. Make it where injection is possible.
 */
export class Turns {
  private readonly injector = inject(Injector);
  private last: Promise<unknown> = Promise.resolve();

  /** @returns what the work gives, once all that was asked for before has ended, well or not. */
  take<T>(work: () => Promise<T> | T): Promise<T> {
    const done = this.last.then(work);
    this.last = done.catch(() => undefined).then(() => this.shown());
    return done;
  }

  /** What was answered stands in inputs of components only once they were drawn anew; where nothing is shown any more, nothing is waited for. */
  private shown(): Promise<void> {
    return new Promise((resolve) => {
      try {
        const gone = this.injector.get(DestroyRef).onDestroy(() => resolve());
        const drawn = (): void => {
          gone();
          resolve();
        };
        afterNextRender({ read: drawn }, { injector: this.injector });
      } catch {
        resolve();
      }
    });
  }
}
