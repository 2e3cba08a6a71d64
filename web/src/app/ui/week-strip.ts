import { Component, computed, input } from '@angular/core';

const PER_DAY = 48;
const DAYS = [0, 1, 2, 3, 4, 5, 6] as const;

/** A week in one line, from Monday: where it is filled something applies. */
@Component({
  selector: 'il-week-strip',
  template: `
    <svg viewBox="0 0 336 12" preserveAspectRatio="none" role="img" [attr.aria-label]="label()">
      @for (each of stretches(); track each.from) {
        <rect class="on" [attr.x]="each.from" y="0" [attr.width]="each.length" height="12" />
      }
      @for (day of days; track day) {
        <line [attr.x1]="day * perDay" [attr.x2]="day * perDay" y1="0" y2="12" vector-effect="non-scaling-stroke" />
      }
      <line x1="336" x2="336" y1="0" y2="12" vector-effect="non-scaling-stroke" />
      <line x1="0" x2="336" y1="12" y2="12" vector-effect="non-scaling-stroke" />
    </svg>
  `,
  styles: `
    :host {
      display: block;
      min-width: 180px;
    }
    svg {
      display: block;
      width: 100%;
      height: 14px;
    }
    .on {
      fill: var(--ink);
    }
    line {
      stroke: var(--strong);
    }
  `,
})
export class WeekStrip {
  /** Half hours from Monday, 00:00. */
  readonly value = input.required<readonly boolean[]>();
  readonly label = input.required<string>();
  protected readonly days = DAYS;
  protected readonly perDay = PER_DAY;
  protected readonly stretches = computed(() => {
    const found: { readonly from: number; readonly length: number }[] = [];
    const value = this.value();
    for (let from = 0; from < value.length; from++) {
      if (!value[from] || (from > 0 && value[from - 1])) continue;
      let to = from + 1;
      while (to < value.length && value[to]) to++;
      found.push({ from, length: to - from });
    }
    return found;
  });
}
