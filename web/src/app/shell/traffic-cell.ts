import { Component, computed, inject, input, output } from '@angular/core';
import type { EndNames } from '@iron-lattice/core/rules';
import { Cell } from '../ui/cell';
import { TokenField } from '../ui/token-field';
import { TrafficTokens } from './traffic-tokens';

const EXAMPLES = { ends: 'Crew, 10.20.1.7, any…', services: 'tcp 443, ssh, ping…' } as const;

/** A cell in which ends or services of traffic are typed or chosen. */
@Component({
  selector: 'il-traffic-cell',
  imports: [Cell, TokenField],
  template: `
    <il-cell
      [label]="label()"
      [for]="for()"
      [hint]="hint()"
      [flaw]="flaw()"
      [size]="of() === 'ends' ? 'wide' : 'plain'"
    >
      <il-token-field
        [label]="label()"
        [for]="for()"
        [value]="value()"
        [source]="source()"
        [readonly]="readonly()"
        [placeholder]="examples[of()]"
        (typed)="typed.emit($event)"
      />
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class TrafficCell {
  private readonly tokens = inject(TrafficTokens);
  readonly of = input.required<'ends' | 'services'>();
  readonly label = input.required<string>();
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly readonly = input(false);
  /** Names that ends may be typed as, where they are not those of the site in front. */
  readonly names = input<Required<EndNames> | null>(null);
  readonly hint = input<string | null>('');
  readonly flaw = input<string | null | undefined>('');
  readonly typed = output<string>();
  protected readonly examples = EXAMPLES;
  protected readonly source = computed(() => {
    const names = this.names();
    return names && this.of() === 'ends' ? this.tokens.endsAmong(names) : this.tokens[this.of()]();
  });
}
