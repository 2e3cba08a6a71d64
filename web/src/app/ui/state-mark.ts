import { Component, input } from '@angular/core';
import type { DeviceState } from '@iron-lattice/core/intake';

/** A device state's own shape; always shown with the word. */
@Component({
  selector: 'il-state-mark',
  template: `<svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
    @switch (state()) {
      @case ('in step') {
        <rect x="2" y="2" width="10" height="10" fill="var(--good)" />
      }
      @case ('behind') {
        <rect x="2.75" y="2.75" width="8.5" height="8.5" fill="none" stroke="var(--caution)" stroke-width="1.5" />
        <rect x="2" y="7" width="10" height="5" fill="var(--caution)" />
      }
      @case ('calling') {
        <path d="M7 1.5 12.5 7 7 12.5 1.5 7Z" fill="none" stroke="var(--info)" stroke-width="1.6" />
      }
      @case ('expected') {
        <circle cx="7" cy="7" r="2" fill="var(--soft)" />
      }
      @case ('silent') {
        <circle cx="7" cy="7" r="5" fill="none" stroke="var(--soft)" stroke-width="1.8" stroke-dasharray="1.8 1.6" />
      }
      @case ('stuck') {
        <path d="M7 1.5 13 12.5H1Z" fill="var(--bad)" />
      }
    }
  </svg>`,
  styles: ':host { display: inline-flex; vertical-align: -2px; }',
})
export class StateMark {
  readonly state = input.required<DeviceState>();
}
