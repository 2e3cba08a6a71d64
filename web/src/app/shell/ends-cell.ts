import { Component, inject, input, output } from '@angular/core';
import { Cell } from '../ui/cell';
import { TokenField } from '../ui/token-field';
import { TrafficTokens } from './traffic-tokens';

/** A cell in which ends of traffic are typed or chosen. */
@Component({
  selector: 'il-ends-cell',
  imports: [Cell, TokenField],
  template: `
    <il-cell [label]="label()" [for]="for()" [hint]="hint()" [flaw]="flaw()" size="wide">
      <il-token-field
        [label]="label()"
        [for]="for()"
        [value]="value()"
        [source]="tokens.ends()"
        [readonly]="readonly()"
        placeholder="Crew, 10.20.1.7, any…"
        (typed)="typed.emit($event)"
      />
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class EndsCell {
  protected readonly tokens = inject(TrafficTokens);
  readonly label = input.required<string>();
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly readonly = input(false);
  readonly hint = input<string | null>('');
  readonly flaw = input<string | null | undefined>('');
  readonly typed = output<string>();
}
