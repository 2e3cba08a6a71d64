import { Component, input } from '@angular/core';

/** One cell of a sheet's title block: a label, whatever is shown or typed, a hint, and what is wrong with it. */
@Component({
  selector: 'il-cell',
  template: `
    @if (for()) {
      <label [for]="for()">{{ label() }}</label>
    } @else {
      <span class="label">{{ label() }}</span>
    }
    <ng-content />
    @if (hint()) {
      <p class="hint">{{ hint() }}</p>
    }
    @if (flaw()) {
      <p class="flaw" role="alert">{{ flaw() }}</p>
    }
  `,
  styles: ':host { display: block; }',
  host: { class: 'cell', '[class.wide]': "size() === 'wide'", '[class.full]': "size() === 'full'" },
})
export class Cell {
  readonly label = input.required<string>();
  /** Id of the field it labels; none for what is only shown. */
  readonly for = input<string>();
  readonly hint = input<string | null | undefined>('');
  readonly flaw = input<string | null | undefined>('');
  readonly size = input<'plain' | 'wide' | 'full'>('plain');
}
