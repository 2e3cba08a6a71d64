import { Component, inject, input, output } from '@angular/core';
import { SessionStore } from '../session/session-store';
import { TextCell } from '../ui/text-cell';

/** The key that a pretend client gives where servers name those of a ring. What is typed is kept nowhere. */
@Component({
  selector: 'il-gives-key',
  imports: [TextCell],
  template: `
    @if (session.mayChange()) {
      <il-text-cell
        label="Gives the key"
        [for]="for()"
        kind="password"
        autocomplete="off"
        [hint]="flaw() ? '' : 'Held against those that servers name for its MAC address; kept nowhere'"
        [flaw]="flaw()"
        [most]="64"
        [value]="value()"
        (typed)="given.emit($event)"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class GivesKey {
  protected readonly session = inject(SessionStore);
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly given = output<string>();

  protected flaw(): string {
    const { length } = this.value();
    return length > 0 && length < LEAST_KEY ? `A key has ${LEAST_KEY} characters at least.` : '';
  }
}

/** Characters of a key at least (IEEE 802.11-2020 Annex J.4.1). */
export const LEAST_KEY = 8;
