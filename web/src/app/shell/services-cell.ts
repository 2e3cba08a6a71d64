import { Component, inject, input, output } from '@angular/core';
import { Cell } from '../ui/cell';
import { TokenField } from '../ui/token-field';
import { TrafficTokens } from './traffic-tokens';

/** A cell in which services are typed or chosen. */
@Component({
  selector: 'il-services-cell',
  imports: [Cell, TokenField],
  template: `
    <il-cell label="Services" [for]="for()" [hint]="hint()" [flaw]="flaw()">
      <il-token-field
        label="Services"
        [for]="for()"
        [value]="value()"
        [source]="tokens.services()"
        [readonly]="readonly()"
        placeholder="tcp 443, ssh, ping…"
        (typed)="typed.emit($event)"
      />
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class ServicesCell {
  protected readonly tokens = inject(TrafficTokens);
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly readonly = input(false);
  readonly hint = input<string | null>('');
  readonly flaw = input<string | null | undefined>('');
  readonly typed = output<string>();
}
