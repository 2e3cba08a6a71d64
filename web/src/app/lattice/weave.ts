import { Component, ElementRef, computed, inject, input, output } from '@angular/core';
import type { Crossing, GridColumn, GridRow, SegmentMark } from '@iron-lattice/core/lattice';
import { SegmentTag } from '../ui/segment-tag';

const STEP = 30;
const GROUP_GAP = 16;
const NAME_WIDTH = 222;
/** Width of a letter of a group's name, roughly. */
const LETTER = 6.4;
const WORDS: Readonly<Record<Crossing, string>> = {
  untagged: 'untagged',
  tagged: 'tagged',
  broadcast: 'broadcast',
  routed: 'routed',
  served: 'served',
  missing: 'missing here',
};

interface Strand {
  readonly x1: number;
  readonly x2: number;
  /** Next to a missing crossing: drawn in dots. */
  readonly broken: boolean;
}
interface Group {
  readonly name: string;
  readonly x: number;
  readonly width: number;
}

/** The weave itself: strands across, threads down, a glyph at every crossing. */
@Component({
  selector: 'il-weave',
  imports: [SegmentTag],
  template: `
    <div
      class="weave"
      role="grid"
      aria-label="Segments and what carries them"
      [style.width.px]="nameWidth + width()"
      (keydown.arrowLeft)="go($event, 0, -1)"
      (keydown.arrowRight)="go($event, 0, 1)"
      (keydown.arrowUp)="go($event, -1, 0)"
      (keydown.arrowDown)="go($event, 1, 0)"
    >
      <div class="head" role="row">
        <span class="corner" role="columnheader"><span class="visually-hidden">Segment</span></span>
        @for (column of columns(); track column.key) {
          <span
            class="column"
            role="columnheader"
            [style.left.px]="nameWidth + xs()[$index]!"
            [class.mono]="column.deviceId"
            >{{ column.label }}</span
          >
        }
        @for (group of groups(); track $index) {
          <span
            class="group"
            aria-hidden="true"
            [style.left.px]="nameWidth + group.x"
            [style.width.px]="group.width"
            [title]="group.name"
            >{{ group.name }}</span
          >
        }
      </div>
      @for (row of rows(); track row.segment.id; let r = $index) {
        <div class="row" role="row" [class.chosen]="chosenSegment() === row.segment.id">
          <div class="name" role="rowheader">
            <button
              class="pick"
              [attr.data-at]="r + ' -1'"
              (click)="choose.emit({ segmentId: row.segment.id, columnKey: null })"
            >
              @if (marks().get(row.segment.id); as mark) {
                <il-segment-tag [mark]="mark" />
              }
              <span class="words"
                ><b>{{ row.segment.name }}</b
                ><small class="mono soft">{{ row.segment.subnet }}</small></span
              >
              <span class="mono vlan">{{ row.segment.vlan }}</span>
            </button>
          </div>
          <svg class="strand" [attr.width]="width()" height="34" aria-hidden="true">
            @for (column of columns(); track column.key) {
              <line class="thread" [attr.x1]="xs()[$index]" [attr.x2]="xs()[$index]" y1="0" y2="34" />
            }
            @for (strand of strands()[r]; track $index) {
              <line
                [attr.x1]="strand.x1"
                [attr.x2]="strand.x2"
                y1="17"
                y2="17"
                stroke-width="2"
                [attr.stroke]="colour(row)"
                [attr.stroke-dasharray]="strand.broken ? '2 4' : null"
              />
            }
          </svg>
          @for (column of columns(); track column.key; let c = $index) {
            <span class="crossing" role="gridcell" [style.left.px]="nameWidth + xs()[c]! - step / 2">
              @if (row.cells[column.key]; as crossing) {
                <button
                  [attr.data-at]="r + ' ' + c"
                  [class.here]="chosenSegment() === row.segment.id && chosenColumn() === column.key"
                  [attr.aria-label]="
                    row.segment.name + ', ' + column.group + ' ' + column.label + ': ' + words[crossing]
                  "
                  (click)="choose.emit({ segmentId: row.segment.id, columnKey: column.key })"
                >
                  <svg
                    width="30"
                    height="34"
                    viewBox="-15 -17 30 34"
                    aria-hidden="true"
                    [style.color]="crossing === 'missing' ? 'var(--bad)' : colour(row)"
                  >
                    @switch (crossing) {
                      @case ('untagged') {
                        <rect x="-6" y="-6" width="12" height="12" fill="currentColor" />
                      }
                      @case ('tagged') {
                        <rect
                          x="-5.5"
                          y="-5.5"
                          width="11"
                          height="11"
                          fill="var(--ground)"
                          stroke="currentColor"
                          stroke-width="2"
                        />
                      }
                      @case ('broadcast') {
                        <rect x="-8" y="-5" width="16" height="10" fill="var(--ground)" />
                        <path d="M-7.5 0.5a8.5 8.5 0 0 1 15 0" fill="none" stroke="currentColor" stroke-width="2.2" />
                        <circle cy="2" r="2.6" fill="currentColor" />
                      }
                      @case ('routed') {
                        <path d="M0-8 8 0 0 8-8 0Z" fill="currentColor" />
                      }
                      @case ('served') {
                        <rect x="-3" y="-7" width="6" height="14" fill="currentColor" />
                      }
                      @case ('missing') {
                        <rect
                          x="-8.5"
                          y="-8.5"
                          width="17"
                          height="17"
                          fill="var(--ground)"
                          stroke="currentColor"
                          stroke-width="2"
                          stroke-dasharray="3 2"
                        />
                        <path d="M-3.5-3.5 3.5 3.5M3.5-3.5-3.5 3.5" stroke="currentColor" stroke-width="2" />
                      }
                    }
                  </svg>
                </button>
              }
            </span>
          }
        </div>
      }
    </div>
  `,
  styles: `
    .weave {
      position: relative;
      min-width: 100%;
    }
    .head {
      position: sticky;
      top: 0;
      z-index: 3;
      height: 146px;
      background: var(--ground);
    }
    .corner {
      position: sticky;
      left: 0;
      display: block;
      width: 222px;
      height: 146px;
      background: var(--ground);
      z-index: 2;
    }
    .group {
      position: absolute;
      top: 6px;
      height: 20px;
      border-bottom: 2px solid var(--ink);
      font:
        600 12px/17px 'Barlow Semi Condensed',
        Barlow;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .column {
      position: absolute;
      bottom: 5px;
      transform-origin: 0 100%;
      transform: rotate(-60deg) translateX(2px);
      white-space: nowrap;
      line-height: 14px;
      max-width: 128px;
      overflow: hidden;
      text-overflow: ellipsis;
      color: var(--soft);
    }
    .row {
      position: relative;
      height: 34px;
    }
    .row.chosen {
      background: var(--tint);
    }
    .name {
      position: sticky;
      left: 0;
      z-index: 2;
      width: 222px;
      height: 34px;
      background: var(--ground);
    }
    .row.chosen .name {
      background: color-mix(in srgb, var(--iron) 7%, var(--ground));
      box-shadow: inset 3px 0 0 var(--iron);
    }
    .pick {
      all: unset;
      cursor: pointer;
      box-sizing: border-box;
      display: flex;
      align-items: center;
      gap: 10px;
      width: 100%;
      height: 34px;
      padding: 0 14px;
    }
    .words {
      display: flex;
      flex-direction: column;
      min-width: 0;
      flex: 1;
    }
    .words b {
      font-weight: 500;
      line-height: 16px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .words small {
      font-size: 11px;
      line-height: 13px;
    }
    .vlan {
      font-weight: 600;
    }
    .strand {
      position: absolute;
      left: 222px;
      top: 0;
    }
    .thread {
      stroke: var(--rule);
      stroke-width: 2;
    }
    .crossing {
      position: absolute;
      top: 0;
      width: 30px;
      height: 34px;
    }
    .crossing button {
      all: unset;
      cursor: pointer;
      display: block;
      width: 30px;
      height: 34px;
    }
    .crossing button:hover,
    .crossing button.here {
      background: radial-gradient(circle, var(--tint) 60%, transparent 62%);
    }
    .crossing button.here {
      outline: 1px solid var(--ink);
      outline-offset: -3px;
    }
    .pick:focus-visible,
    .crossing button:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -2px;
    }
  `,
})
export class Weave {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly columns = input.required<readonly GridColumn[]>();
  readonly rows = input.required<readonly GridRow[]>();
  readonly marks = input.required<ReadonlyMap<string, SegmentMark>>();
  readonly chosenSegment = input<string | null>(null);
  readonly chosenColumn = input<string | null>(null);
  readonly choose = output<{ segmentId: string; columnKey: string | null }>();

  protected readonly step = STEP;
  protected readonly words = WORDS;
  protected readonly nameWidth = NAME_WIDTH;
  /** Middle of each column, from the names' right edge; groups stand a little apart. */
  protected readonly xs = computed(() => {
    let [x, count] = [-STEP / 2, 0];
    return this.columns().map(({ group }, i, all) => {
      const before = all[i - 1]?.group;
      // A group is at least as wide as its name.
      if (before !== undefined && before !== group)
        x += Math.max(GROUP_GAP, before.length * LETTER + 10 - count * STEP);
      count = before === group ? count + 1 : 1;
      return (x += STEP);
    });
  });
  protected readonly width = computed(() => (this.xs().at(-1) ?? 0) + 58);
  protected readonly groups = computed((): Group[] => {
    const groups: { name: string; x: number; width: number }[] = [];
    for (const [i, { group }] of this.columns().entries()) {
      const open = groups.at(-1);
      const x = this.xs()[i]!;
      if (open?.name === group) open.width = Math.max(open.width, x + STEP / 2 - open.x);
      else groups.push({ name: group, x: x - STEP / 2 + 2, width: Math.max(STEP, group.length * LETTER) });
    }
    return groups;
  });
  protected readonly strands = computed(() => this.rows().map((row) => strandsOf(row, this.columns(), this.xs())));

  protected colour(row: GridRow): string {
    return `var(--seg-${this.marks().get(row.segment.id)?.colour ?? 0})`;
  }

  /** Moves the focus to the next crossing in a direction; the names stand left of the first. */
  protected go(event: Event, down: number, right: number): void {
    const at = (document.activeElement as HTMLElement | null)?.dataset['at']?.split(' ').map(Number);
    if (!at) return;
    event.preventDefault();
    let [r, c] = at as [number, number];
    do {
      r += down;
      c += right;
      const next = this.host.nativeElement.querySelector<HTMLElement>(`[data-at="${r} ${c}"]`);
      if (next) return next.focus();
    } while (r >= 0 && r < this.rows().length && c >= -1 && c < this.columns().length);
  }
}

/** The strand from its first crossing to its last, in dots on both sides of a missing one. */
function strandsOf(row: GridRow, columns: readonly GridColumn[], xs: readonly number[]): Strand[] {
  const met = columns.flatMap((column, i) =>
    row.cells[column.key] ? [{ x: xs[i]!, at: row.cells[column.key]! }] : [],
  );
  return met.slice(1).map((to, i) => {
    const from = met[i]!;
    return { x1: from.x, x2: to.x, broken: from.at === 'missing' || to.at === 'missing' };
  });
}
