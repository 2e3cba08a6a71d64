import { Component, inject, output, signal } from '@angular/core';
import { attempt, type Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';

/** Where this controller answers, as rules and guarantees of every site mean it. */
@Component({
  selector: 'il-controller-sheet',
  imports: [Sheet, TextCell],
  template: `
    <il-sheet heading="Where this controller answers" note="For every site" (closed)="closed.emit()">
      <div class="cells">
        <il-text-cell
          label="Addresses, as devices reach it"
          for="controller-addresses"
          hint="What “controller” means in rules and guarantees. A draft that would cut devices off from it has to be confirmed."
          [flaw]="problem()?.message"
          size="wide"
          [mono]="true"
          example="203.0.113.200"
          [value]="(shared.estate()?.controller ?? []).join(', ')"
          (done)="put($event)"
        />
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class ControllerSheet {
  protected readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  readonly closed = output<void>();
  protected readonly problem = signal<Problem | null>(null);

  protected async put(text: string): Promise<void> {
    const from = this.shared.estate()?.controller ?? [];
    const to = text
      .split(',')
      .map((part) => part.trim())
      .filter((part) => part !== '');
    await attempt(null, this.problem, () => this.store.edit([{ type: 'controller.set', from, to }]));
  }
}
