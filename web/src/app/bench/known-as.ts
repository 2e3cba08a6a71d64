import { Component, computed, inject, input, output } from '@angular/core';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';

/** A cell that says whose MAC address a pretend client takes; only there where some class knows clients. */
@Component({
  selector: 'il-known-as',
  imports: [ChoiceCell],
  template: `
    @if (options().length > 1) {
      <il-choice-cell
        label="Known as"
        [for]="for()"
        [options]="options()"
        [value]="mac()"
        (chosen)="chosen.emit($event)"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class KnownAs {
  private readonly store = inject(SiteStore);
  readonly for = input.required<string>();
  /** Empty: one that nobody knows. */
  readonly mac = input.required<string>();
  readonly chosen = output<string>();

  protected readonly options = computed(() => {
    const members = this.store
      .accessClasses()
      .flatMap((each) =>
        each.members.map(({ mac, name }) => ({ value: mac, label: `${name || mac}, of ${each.name}` })),
      );
    const gone = this.mac() !== '' && !members.some(({ value }) => value === this.mac());
    return [
      { value: '', label: 'nobody we know' },
      ...members,
      ...(gone ? [{ value: this.mac(), label: `${this.mac()}, of no class` }] : []),
    ];
  });
}
