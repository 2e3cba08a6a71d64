import { DatePipe } from '@angular/common';
import { Component, computed, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { RolloutState, RolloutView, StepState } from '@iron-lattice/core/rollout';
import { ProgressCount } from '../ui/progress-count';

const STATE_WORDS: Readonly<Record<RolloutState, string>> = {
  waiting: 'about to begin',
  running: 'under way',
  done: 'done',
  'putting-back': 'being put back',
  'put-back': 'put back',
  cancelled: 'being cancelled',
};
const STEP_WORDS: Readonly<Record<StepState, string>> = {
  waiting: 'waits',
  telling: 'being told',
  kept: 'in step',
  later: 'silent, gets it when it calls',
  failed: 'failed',
  'put-back': 'put back',
  'not-told': 'not told',
};

/** A rollout: one line a device, moving by itself. */
@Component({
  selector: 'il-rollout-progress',
  imports: [DatePipe, MatButtonModule, ProgressCount],
  template: `
    <details [open]="!folded()">
      <summary>
        <b>{{ rollout().revision === null ? rollout().draftName : 'Revision ' + rollout().revision }}</b>
        <span [class.good]="rollout().state === 'done'" [class.bad]="rollout().state === 'put-back'">{{
          words[rollout().state]
        }}</span>
        <span class="soft"
          >{{ rollout().startedBy }}, {{ rollout().startedAt | date: 'd MMM, HH:mm:ss'
          }}{{ rollout().resumed ? ', taken up again after an interruption' : '' }}</span
        >
        <span class="grow"></span>
        @if (mayCancel() && (rollout().state === 'running' || rollout().state === 'waiting')) {
          <button mat-stroked-button (click)="cancelled.emit(); $event.preventDefault()">Cancel and put back</button>
        }
        <il-progress-count [done]="told()" [of]="rollout().steps.length" what="devices" />
      </summary>
      @if (rollout().reason; as reason) {
        <p class="reason bad" role="status">
          {{ reason }}
          {{ rollout().state === 'put-back' ? 'Every device runs what it ran before; the draft is open again.' : '' }}
        </p>
      }
      <ol>
        @for (step of rollout().steps; track step.deviceId) {
          <li [class]="step.state">
            <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
              @switch (step.state) {
                @case ('kept') {
                  <rect x="2" y="2" width="10" height="10" fill="var(--good)" />
                }
                @case ('telling') {
                  <rect
                    x="2.75"
                    y="2.75"
                    width="8.5"
                    height="8.5"
                    fill="none"
                    stroke="var(--iron)"
                    stroke-width="1.5"
                  />
                  <rect class="move" x="4.5" y="4.5" width="5" height="5" fill="var(--iron)" />
                }
                @case ('failed') {
                  <path d="M7 1.5 13 12.5H1Z" fill="var(--bad)" />
                }
                @case ('later') {
                  <circle
                    cx="7"
                    cy="7"
                    r="5"
                    fill="none"
                    stroke="var(--soft)"
                    stroke-width="1.8"
                    stroke-dasharray="1.8 1.6"
                  />
                }
                @case ('put-back') {
                  <path d="M12 3v5H4M7 5 4 8l3 3" fill="none" stroke="var(--caution)" stroke-width="1.6" />
                }
                @default {
                  <rect
                    x="2.75"
                    y="2.75"
                    width="8.5"
                    height="8.5"
                    fill="none"
                    stroke="var(--strong)"
                    stroke-width="1.5"
                  />
                }
              }
            </svg>
            <span class="mono name">{{ step.name }}</span>
            <span class="state">{{ stepWords[step.state] }}</span>
            <span class="mono soft">+{{ step.added }} −{{ step.removed }}</span>
          </li>
        }
      </ol>
    </details>
  `,
  styles: `
    details {
      border-bottom: 1px solid var(--rule);
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 10px;
      padding: 7px 14px;
      cursor: pointer;
      background: var(--sheet);
    }
    .reason {
      padding: 6px 14px 0;
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 4px 14px 8px;
    }
    li {
      display: flex;
      align-items: center;
      gap: 10px;
      height: 25px;
    }
    .name {
      min-width: 100px;
    }
    .state {
      min-width: 110px;
    }
    .failed .state {
      color: var(--bad);
    }
    .move {
      animation: blink 0.8s infinite alternate;
    }
    @keyframes blink {
      to {
        opacity: 0.2;
      }
    }
  `,
})
export class RolloutProgress {
  readonly rollout = input.required<RolloutView>();
  readonly folded = input(false);
  readonly mayCancel = input(false);
  readonly cancelled = output<void>();
  protected readonly words = STATE_WORDS;
  protected readonly stepWords = STEP_WORDS;
  protected readonly told = computed(
    () => this.rollout().steps.filter((step) => step.state === 'kept' || step.state === 'later').length,
  );
}
