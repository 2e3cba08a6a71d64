import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { RegisteredClient } from '@iron-lattice/core/entry';
import { counted } from '../../ui/counted';
import { Sheet } from '../../ui/sheet';
import { RegisterStore } from './register-store';
import { calledOf } from './register-view';

/** So many are named before they are erased. */
const MOST_NAMED = 12;

/** Asks before clients are erased: nothing brings them back. */
@Component({
  selector: 'il-forget-sheet',
  imports: [MatButtonModule, Sheet],
  template: `
    <il-sheet heading="Erase from the register" [note]="counted(clients().length, 'client')" (closed)="closed.emit()">
      <button actions mat-flat-button type="button" (click)="erase()">
        Erase {{ counted(clients().length, 'client') }}
      </button>
      <div class="cells">
        <p class="cell full">{{ names() }}</p>
        <p class="cell full caution">
          When they were seen, where, as what, their names and notes are erased, at every site; nothing brings that
          back.
          {{ noted() }} Nobody is kept out by it: whoever comes again is new here.
        </p>
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class ForgetSheet {
  private readonly store = inject(RegisterStore);
  readonly clients = input.required<readonly RegisteredClient[]>();
  readonly closed = output<void>();
  protected readonly counted = counted;
  protected readonly names = computed(() => {
    const all = this.clients().map(calledOf);
    const more = all.length - MOST_NAMED;
    return `${all.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
  });
  protected readonly noted = computed(() => {
    const noted = this.clients().filter(({ name, note }) => name !== '' || note !== '').length;
    return noted === 0 ? '' : `${counted(noted, 'of them has', 'of them have')} a name or a note.`;
  });

  protected async erase(): Promise<void> {
    await this.store.forget(this.clients().map(({ mac }) => mac));
  }
}
