import { Component, input, output } from '@angular/core';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import { WEEKDAYS, type UpdateWindow } from '@iron-lattice/core/firmware';

const LENGTHS = [30, 60, 120, 180, 240, 360] as const;

/** A weekly time in which devices may restart. */
@Component({
  selector: 'il-window-field',
  imports: [MatFormFieldModule, MatInputModule, MatSelectModule],
  template: `
    <mat-form-field class="day">
      <mat-select
        aria-label="Day"
        [value]="window().day"
        (valueChange)="changed.emit({ day: $event, from: window().from, minutes: window().minutes })"
      >
        @for (day of days; track day) {
          <mat-option [value]="$index">{{ day }}</mat-option>
        }
      </mat-select>
    </mat-form-field>
    <mat-form-field class="time">
      <input matInput type="time" aria-label="From" [value]="clock()" (change)="from($any($event.target).value)" />
    </mat-form-field>
    <mat-form-field class="length">
      <mat-select
        aria-label="For"
        [value]="window().minutes"
        (valueChange)="changed.emit({ day: window().day, from: window().from, minutes: $event })"
      >
        @for (each of lengths; track each) {
          <mat-option [value]="each">{{ each < 60 ? each + ' min' : each / 60 + ' h' }}</mat-option>
        }
      </mat-select>
    </mat-form-field>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin-top: 4px;
    }
    .day {
      width: 124px !important;
    }
    .time {
      width: 104px !important;
    }
    .length {
      width: 92px !important;
    }
  `,
})
export class WindowField {
  readonly window = input.required<UpdateWindow>();
  readonly changed = output<UpdateWindow>();
  protected readonly days = WEEKDAYS;
  protected readonly lengths = LENGTHS;

  protected clock(): string {
    const { from } = this.window();
    return `${String(Math.floor(from / 60)).padStart(2, '0')}:${String(from % 60).padStart(2, '0')}`;
  }

  protected from(text: string): void {
    const [hours, minutes] = text.split(':').map(Number);
    const { day, minutes: length } = this.window();
    if (hours !== undefined && minutes !== undefined)
      this.changed.emit({ day, from: hours * 60 + minutes, minutes: length });
  }
}
