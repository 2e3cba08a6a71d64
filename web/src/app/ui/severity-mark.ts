import { Component, input } from '@angular/core';
import type { Severity } from '@iron-lattice/core/assess';

/** A finding's severity by shape and colour, with the word for those who hear the page. */
@Component({
  selector: 'il-severity-mark',
  template: `<span class="visually-hidden">{{ severity() }}</span>
    <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
      @switch (severity()) {
        @case ('error') {
          <path d="M7 1.5 13 12.5H1Z" fill="var(--bad)" />
        }
        @case ('warning') {
          <path d="M7 1.5 12.5 7 7 12.5 1.5 7Z" fill="none" stroke="var(--caution)" stroke-width="1.6" />
        }
        @default {
          <path d="M7 6v6M7 2.5v1.6" stroke="var(--info)" stroke-width="2" />
        }
      }
    </svg>`,
  styles: ':host { display: inline-flex; padding-top: 2px; }',
})
export class SeverityMark {
  readonly severity = input.required<Severity>();
}
