import { Component, input, output } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { BANDS, type Band } from '@iron-lattice/core/hardware';
import { Cell } from '../ui/cell';

/** The bands that an SSID is sent at; what belongs to them stands below. */
@Component({
  selector: 'il-ssid-bands',
  imports: [MatCheckboxModule, Cell],
  template: `
    <il-cell label="Bands" size="wide" role="group" aria-label="Bands" [hint]="hint()" [flaw]="flaw()">
      @for (band of all; track band) {
        <mat-checkbox [disabled]="!mayChange()" [checked]="bands().includes(band)" (change)="toggle(band)"
          >{{ band }} GHz</mat-checkbox
        >
      }
      <ng-content />
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidBands {
  readonly bands = input.required<readonly Band[]>();
  readonly hint = input('');
  readonly flaw = input<string | undefined>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<readonly Band[]>();
  protected readonly all = BANDS;

  protected toggle(band: Band): void {
    this.changed.emit(this.all.filter((each) => (each === band) !== this.bands().includes(each)));
  }
}
