import { Component, input } from '@angular/core';
import type { RolloutStepView, StepState } from '@iron-lattice/core/rollout';

const WORDS: Readonly<Record<StepState, string>> = {
  waiting: 'waits',
  telling: 'being told',
  kept: 'in step',
  later: 'silent, gets it when it calls',
  failed: 'failed',
  'put-back': 'put back',
  'not-told': 'not told',
};

/** A device of a rollout: one line that moves by itself. */
@Component({
  selector: 'il-rollout-step',
  template: `
    <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
      @switch (step().state) {
        @case ('kept') {
          <rect x="2" y="2" width="10" height="10" fill="var(--good)" />
        }
        @case ('telling') {
          <rect x="2.75" y="2.75" width="8.5" height="8.5" fill="none" stroke="var(--iron)" stroke-width="1.5" />
          <rect class="move" x="4.5" y="4.5" width="5" height="5" fill="var(--iron)" />
        }
        @case ('failed') {
          <path d="M7 1.5 13 12.5H1Z" fill="var(--bad)" />
        }
        @case ('later') {
          <circle cx="7" cy="7" r="5" fill="none" stroke="var(--soft)" stroke-width="1.8" stroke-dasharray="1.8 1.6" />
        }
        @case ('put-back') {
          <path d="M12 3v5H4M7 5 4 8l3 3" fill="none" stroke="var(--caution)" stroke-width="1.6" />
        }
        @default {
          <rect x="2.75" y="2.75" width="8.5" height="8.5" fill="none" stroke="var(--strong)" stroke-width="1.5" />
        }
      }
    </svg>
    <span class="mono name">{{ step().name }}</span>
    <span class="state" [class.bad]="step().state === 'failed'">{{ words[step().state] }}</span>
    <span class="mono soft">+{{ step().added }} −{{ step().removed }}</span>
    @if (site()) {
      <span class="soft">{{ step().siteName }}</span>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 10px;
      min-height: 25px;
    }
    .name {
      min-width: 100px;
    }
    .state {
      min-width: 110px;
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
export class RolloutStep {
  readonly step = input.required<RolloutStepView>();
  /** Whether the site is said too. */
  readonly site = input(false);
  protected readonly words = WORDS;
}
