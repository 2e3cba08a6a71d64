import { Component, inject, input, output, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { RolloutRequest } from '@iron-lattice/core/rollout';
import { MatButtonModule } from '@angular/material/button';
import { Subject } from 'rxjs';
import { LiveEvents } from '../shell/live-events';
import { SiteStore } from '../shell/site-store';
import { problemOf, type Problem } from '../session/problem';
import { anewFor } from '../ui/anew-for';
import { ProgressCount } from '../ui/progress-count';
import { RolloutApi } from './rollout-api';

/** Rolls a draft out. Every site is looked at once more before: of many it is shown how far that is, and it can be left. */
@Component({
  selector: 'il-rollout-start',
  imports: [MatButtonModule, ProgressCount],
  template: `
    @if (busy() && planned(); as far) {
      <span class="soft" role="status">{{
        far.done < far.of ? 'Looking at every site once more' : 'Writing down what is told'
      }}</span>
      <il-progress-count [done]="far.done" [of]="far.of" what="sites" />
      <button mat-button (click)="left.next()">Leave it</button>
    }
    @if (problem(); as why) {
      <p class="bad" role="alert">{{ why.message }}</p>
    }
    <button mat-flat-button [disabled]="busy() || !ready()" (click)="start()">{{ label() }}</button>
  `,
  styles: `
    :host {
      display: inline-flex;
      margin-left: auto;
      justify-content: flex-end;
      align-items: center;
      flex-wrap: wrap;
      gap: 6px 12px;
    }
  `,
})
export class RolloutStart {
  private readonly api = inject(RolloutApi);
  private readonly store = inject(SiteStore);
  readonly label = input.required<string>();
  readonly ready = input.required<boolean>();
  /** What is asked when it is pressed. */
  readonly request = input.required<RolloutRequest>();
  /** It was refused: what was seen may no longer be so. */
  readonly refused = output();
  protected readonly busy = signal(false);
  /** Why it was not begun: it stays in sight until it is pressed once more, or the draft is another. */
  protected readonly problem = anewFor<Problem | null>(
    () => `${this.request().draftId} ${this.request().head}`,
    () => null,
  );
  protected readonly left = new Subject<void>();
  /** How many of the sites have been looked at; null: not told. */
  protected readonly planned = signal<{ readonly done: number; readonly of: number } | null>(null);

  constructor() {
    inject(LiveEvents)
      .all.pipe(takeUntilDestroyed())
      .subscribe((event) => {
        if (event.type === 'planning' && event.draftId === this.request().draftId) this.planned.set(event);
      });
  }

  protected async start(): Promise<void> {
    this.busy.set(true);
    this.planned.set(null);
    this.problem.set(null);
    try {
      await this.api.start(this.request(), this.left);
    } catch (error) {
      const problem = problemOf(error);
      this.problem.set(problem);
      // What was seen is not so any more: it is looked at anew before anybody presses again.
      await this.store.reload().catch(() => undefined);
      this.refused.emit();
    }
    this.busy.set(false);
  }
}
