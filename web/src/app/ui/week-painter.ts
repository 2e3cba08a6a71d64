import { Component, ElementRef, computed, inject, input, output, signal } from '@angular/core';

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
/** Half hours of a day. */
const PER_DAY = 48;
const ALL = DAYS.length * PER_DAY;

/** The time of a half hour of a day: `08:30`. */
const timeOf = (half: number): string => `${String(half >> 1).padStart(2, '0')}:${half % 2 === 0 ? '00' : '30'}`;

/**
 * A week painted by half hours: a drag paints the block it spans, arrows move, blank turns one, and with shift arrows paint on.
 */
@Component({
  selector: 'il-week-painter',
  template: `
    <div
      class="week"
      role="grid"
      [attr.aria-label]="label()"
      [attr.aria-readonly]="readonly()"
      (pointermove)="over($event)"
      (pointerup)="end()"
      (pointercancel)="end()"
      (keydown)="onKey($event)"
    >
      <div class="hours" aria-hidden="true">
        @for (hour of hours; track hour) {
          <span [style.grid-column]="hour * 2 + 2">{{ hour }}</span>
        }
      </div>
      @for (day of days; track day; let row = $index) {
        <div class="row" role="row">
          <span class="day" role="rowheader">{{ day }}</span>
          @for (half of halves; track half) {
            <span
              role="gridcell"
              class="half"
              [class.on]="shown()[row * perDay + half]"
              [class.hour]="half % 2 === 0"
              [attr.data-at]="row * perDay + half"
              [attr.aria-label]="names[row * perDay + half]"
              [attr.aria-selected]="shown()[row * perDay + half]"
              [attr.tabindex]="at() === row * perDay + half ? 0 : -1"
              (pointerdown)="begin($event, row * perDay + half)"
            ></span>
          }
        </div>
      }
    </div>
  `,
  styles: `
    .week {
      user-select: none;
      touch-action: none;
      max-width: 900px;
    }
    .hours,
    .row {
      display: grid;
      grid-template-columns: 34px repeat(48, minmax(3px, 1fr));
    }
    .hours span {
      font-size: 11px;
      color: var(--soft);
      width: 0;
    }
    .day {
      font-size: 12px;
      line-height: 18px;
      color: var(--soft);
    }
    .half {
      height: 18px;
      border-bottom: 1px solid var(--rule);
      cursor: cell;
    }
    .half.hour {
      border-left: 1px solid var(--rule);
    }
    .half.on {
      background: var(--ink);
      border-color: var(--soft);
    }
    .week[aria-readonly='true'] .half {
      cursor: default;
    }
    .half:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -1px;
      z-index: 1;
    }
    @media (max-width: 720px) {
      .hours span:nth-child(2n) {
        visibility: hidden;
      }
    }
  `,
})
export class WeekPainter {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly label = input.required<string>();
  /** Half hours from Monday, 00:00. */
  readonly value = input.required<readonly boolean[]>();
  readonly readonly = input(false);
  readonly painted = output<boolean[]>();

  protected readonly days = DAYS;
  protected readonly perDay = PER_DAY;
  protected readonly halves = Array.from({ length: PER_DAY }, (_, i) => i);
  protected readonly hours = Array.from({ length: 12 }, (_, i) => i * 2);
  protected readonly names = Array.from({ length: ALL }, (_, at) => {
    const half = at % PER_DAY;
    return `${DAYS[Math.floor(at / PER_DAY)]} ${timeOf(half)} to ${timeOf(half + 1)}`;
  });
  /** The half hour that keys are at. */
  protected readonly at = signal(16);
  /** A block that is painted: where it began, where it is, and what it paints. */
  private readonly block = signal<{ readonly from: number; readonly to: number; readonly on: boolean } | null>(null);
  protected readonly shown = computed((): readonly boolean[] => {
    const [value, block] = [this.value(), this.block()];
    if (!block) return value;
    const [rows, columns] = [span(block, (at) => Math.floor(at / PER_DAY)), span(block, (at) => at % PER_DAY)];
    return value.map((on, at) => {
      const [row, column] = [Math.floor(at / PER_DAY), at % PER_DAY];
      const inside = row >= rows[0] && row <= rows[1] && column >= columns[0] && column <= columns[1];
      return inside ? block.on : on;
    });
  });

  protected begin(event: PointerEvent, at: number): void {
    if (this.readonly() || event.button !== 0) return;
    this.at.set(at);
    this.block.set({ from: at, to: at, on: !this.value()[at] });
  }

  protected over(event: PointerEvent): void {
    const block = this.block();
    if (!block) return;
    const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-at]');
    if (cell && this.host.nativeElement.contains(cell)) this.block.set({ ...block, to: Number(cell.dataset['at']) });
  }

  protected end(): void {
    if (!this.block()) return;
    const shown = [...this.shown()];
    this.block.set(null);
    this.painted.emit(shown);
  }

  protected onKey(event: KeyboardEvent): void {
    const at = this.at();
    if (event.key === ' ' || event.key === 'Enter') {
      event.preventDefault();
      event.stopPropagation();
      this.turn(at, !this.value()[at]);
      return;
    }
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -PER_DAY, ArrowDown: PER_DAY }[event.key];
    const row = Math.floor(at / PER_DAY) * PER_DAY;
    const to =
      event.key === 'Home' ? row : event.key === 'End' ? row + PER_DAY - 1 : by === undefined ? undefined : at + by;
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    if (to < 0 || to >= ALL) return;
    this.at.set(to);
    if (event.shiftKey) this.turn(to, this.value()[at]!);
    this.host.nativeElement.querySelector<HTMLElement>(`[data-at="${to}"]`)?.focus();
  }

  private turn(at: number, on: boolean): void {
    if (this.readonly() || this.value()[at] === on) return;
    this.painted.emit(this.value().map((each, i) => (i === at ? on : each)));
  }
}

function span(
  { from, to }: { readonly from: number; readonly to: number },
  of: (at: number) => number,
): readonly [number, number] {
  const ends = [of(from), of(to)];
  return [Math.min(...ends), Math.max(...ends)];
}
