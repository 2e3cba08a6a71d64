import { Component, computed, input, output } from '@angular/core';
import { parseIp } from '@iron-lattice/core/address';
import { TextCell } from '../ui/text-cell';

/** Where a walk may go to: an address of IPv4; empty, and it goes to the internet. Null: what is typed is none. */
export function walkTarget(typed: string): string | null {
  const text = typed.trim();
  return text === '' || parseIp(text)?.version === 4 ? text : null;
}

/** A cell in which is typed where a walk goes to. */
@Component({
  selector: 'il-walk-to',
  imports: [TextCell],
  template: `
    <il-text-cell
      label="To"
      for="walk-to"
      example="the internet"
      hint="Or an address, here or at a joined site"
      [mono]="true"
      [flaw]="flaw()"
      [value]="value()"
      (typed)="typed.emit($event)"
    />
  `,
  styles: ':host { display: contents; }',
})
export class WalkTo {
  readonly value = input.required<string>();
  readonly typed = output<string>();
  protected readonly flaw = computed(() =>
    walkTarget(this.value()) === null ? `“${this.value().trim()}” is no IPv4 address, such as 10.20.5.7.` : '',
  );
}
