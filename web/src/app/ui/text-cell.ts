import { Component, computed, effect, input, output, viewChild } from '@angular/core';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput, MatInputModule } from '@angular/material/input';
import { Cell } from './cell';

/** Of what is offered, shown at once. */
const MOST_OFFERED = 60;

/**
 * A cell in which text is typed: a line, or several. What belongs to the field stands beside it (`beside`), what belongs to
 * the cell below it.
 */
@Component({
  selector: 'il-text-cell',
  imports: [MatAutocompleteModule, MatFormFieldModule, MatInputModule, Cell],
  template: `
    <il-cell [label]="label()" [for]="for()" [hint]="hint()" [flaw]="flaw()" [size]="size()">
      <div class="row">
        <mat-form-field [class.mono-field]="mono()">
          @if (rows() > 0) {
            <textarea
              matInput
              spellcheck="false"
              [id]="for()"
              [rows]="rows()"
              [readonly]="readonly()"
              [placeholder]="example()"
              [value]="value()"
              (input)="typed.emit($any($event.target).value)"
              (change)="done.emit($any($event.target).value)"
            ></textarea>
          } @else {
            <input
              matInput
              [id]="for()"
              [type]="kind()"
              [autocomplete]="autocomplete()"
              [attr.maxlength]="most()"
              [readonly]="readonly()"
              [placeholder]="example()"
              [value]="value()"
              [matAutocomplete]="list"
              [matAutocompleteDisabled]="matching().length === 0"
              (input)="typed.emit($any($event.target).value)"
              (change)="done.emit($any($event.target).value)"
              (keydown.enter)="entered.emit()"
            />
          }
          <mat-autocomplete #list (optionSelected)="typed.emit($event.option.value)">
            @for (each of matching(); track each) {
              <mat-option [value]="each">{{ each }}</mat-option>
            }
          </mat-autocomplete>
        </mat-form-field>
        <ng-content select="[beside]" />
      </div>
      <ng-content />
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    .row {
      display: flex;
      align-items: center;
      gap: 6px;
    }
    mat-form-field {
      flex: 1;
      min-width: 0;
    }
  `,
})
export class TextCell {
  readonly label = input.required<string>();
  /** Id of the field. */
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly readonly = input(false);
  readonly hint = input<string | null | undefined>('');
  readonly flaw = input<string | null | undefined>('');
  readonly size = input<'plain' | 'wide' | 'full'>('plain');
  /** Whether it is of one width a character: addresses, numbers, names of devices. */
  readonly mono = input(false);
  /** Lines shown; 0: it is one line. */
  readonly rows = input(0);
  readonly kind = input<'text' | 'password' | 'email'>('text');
  readonly autocomplete = input('off');
  /** Shown where nothing is typed. */
  readonly example = input('');
  /** Characters at most. */
  readonly most = input<number | null>(null);
  /** What there is to choose from; anything else can be typed. */
  readonly offers = input<readonly string[]>([]);
  /** At every key. */
  readonly typed = output<string>();
  /** When somebody goes on. */
  readonly done = output<string>();
  readonly entered = output<void>();
  private readonly field = viewChild(MatInput);
  protected readonly matching = computed(() => {
    const [all, typed] = [this.offers(), this.value().toLowerCase()];
    if (all.includes(this.value())) return []; // chosen: nothing is left to offer
    return all.filter((each) => each.toLowerCase().includes(typed)).slice(0, MOST_OFFERED);
  });

  constructor() {
    effect(() => {
      const [field, wrong] = [this.field(), Boolean(this.flaw())];
      if (!field || field.errorState === wrong) return;
      field.errorState = wrong;
      field.stateChanges.next();
    });
  }
}
