import { Component, computed, input, output } from '@angular/core';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';
import { Cell } from './cell';

export interface Choice {
  readonly value: unknown;
  readonly label: string;
  /** It is named, and cannot be chosen yet. */
  readonly later?: boolean;
}
/** Shown as the value where several things are edited at once that do not agree. */
export const DIFFERS = '(differs)';

/** A cell in which one of a few values is chosen. What belongs to the field stands beside it, what belongs to the cell below it. */
@Component({
  selector: 'il-choice-cell',
  imports: [MatFormFieldModule, MatSelectModule, Cell],
  template: `
    <il-cell [label]="label()" [for]="for()" [hint]="hint()" [flaw]="flaw()" [size]="size()">
      <div class="row">
        <mat-form-field>
          <mat-select
            [id]="for()"
            [aria-label]="label()"
            [disabled]="disabled() || all().length === 0"
            [multiple]="several()"
            canSelectNullableOptions
            [placeholder]="example()"
            [value]="value()"
            (selectionChange)="chosen.emit($event.value)"
          >
            @for (option of all(); track option.value) {
              <mat-option [value]="option.value" [disabled]="option.value === differs || option.later === true">{{
                option.label
              }}</mat-option>
            }
          </mat-select>
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
export class ChoiceCell {
  readonly label = input.required<string>();
  /** Id of the field. */
  readonly for = input.required<string>();
  readonly options = input.required<readonly Choice[]>();
  readonly value = input.required<unknown>();
  /** Whether several may be chosen: the value is a list of them. */
  readonly several = input(false);
  readonly disabled = input(false);
  /** Shown where nothing is chosen. */
  readonly example = input('');
  readonly hint = input<string | null>('');
  readonly flaw = input<string | null | undefined>('');
  readonly size = input<'plain' | 'wide' | 'full'>('plain');
  // What is chosen comes from the options that were given.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  readonly chosen = output<any>();
  protected readonly differs = DIFFERS;
  protected readonly all = computed((): readonly Choice[] =>
    this.value() === DIFFERS ? [...this.options(), { value: DIFFERS, label: DIFFERS }] : this.options(),
  );
}
