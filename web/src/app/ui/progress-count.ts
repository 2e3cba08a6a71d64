import { Component, computed, input } from '@angular/core';

/** How far some work has come: a bar, and how many of how many where there is room. */
@Component({
  selector: 'il-progress-count',
  template: `
    <progress [value]="done()" [max]="of() || 1" [attr.aria-label]="whole() + ' of ' + of() + ' ' + what()"></progress>
    <span class="mono">{{ whole().toLocaleString('en') }}/{{ of().toLocaleString('en') }}</span>
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 10px;
    }
    progress {
      appearance: none;
      width: 130px;
      height: 9px;
      border: 1px solid var(--ink);
      background: none;
    }
    progress::-webkit-progress-bar {
      background: none;
    }
    progress::-webkit-progress-value {
      background: var(--good);
    }
  `,
})
export class ProgressCount {
  readonly done = input.required<number>();
  readonly of = input.required<number>();
  /** What is counted, for whoever listens. */
  readonly what = input.required<string>();
  /** What is done of one that is under way moves the bar, and is no count. */
  protected readonly whole = computed(() => Math.floor(this.done()));
}
