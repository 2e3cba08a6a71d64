import {
  ChangeDetectorRef,
  Component,
  DestroyRef,
  ElementRef,
  Injector,
  afterNextRender,
  effect,
  inject,
  input,
  output,
} from '@angular/core';
import type { GridColumn, GridRow, SegmentMark } from '@iron-lattice/core/lattice';
import { SegmentTag } from '../../ui/segment-tag';
import { WEAVE, canPress, type DrawnColumn } from './weave-layout';
import { WeaveCanvas } from './weave-canvas';
import { WeaveSight } from './weave-sight';
import { whenIdle } from '../facts/when-idle';

/** The weave itself: strands across, threads down, a glyph at every crossing. Only what is in sight is drawn. */
@Component({
  selector: 'il-weave',
  imports: [SegmentTag, WeaveCanvas],
  template: `
    <div
      class="paper"
      [style.width.px]="measures.names + layout().width"
      [style.height.px]="measures.head + rows().length * measures.row"
      (keydown.arrowLeft)="go($event, 0, -1)"
      (keydown.arrowRight)="go($event, 0, 1)"
      (keydown.arrowUp)="go($event, -1, 0)"
      (keydown.arrowDown)="go($event, 1, 0)"
      (keydown.home)="home($event)"
      (keydown.enter)="pressHere($event)"
      (keydown.space)="pressHere($event)"
    >
      <!-- One sheet that stays in sight; each name belongs to its row by aria-owns. -->
      <div class="names">
        @for (row of seenRows(); track row.row.segment.id) {
          <div
            class="name"
            role="rowheader"
            [id]="'row-' + row.row.segment.id"
            [class.chosen]="chosenSegment() === row.row.segment.id"
            [style.top.px]="measures.head + row.at * measures.row"
          >
            <button
              class="pick"
              [attr.data-at]="row.at + ' -1'"
              [attr.aria-label]="words()(row.row)"
              (click)="choose.emit({ segmentId: row.row.segment.id, columnKey: null })"
            >
              @if (marks().get(row.row.segment.id); as mark) {
                <il-segment-tag [mark]="mark" />
              }
              <span class="words"
                ><b>{{ row.row.segment.name }}</b
                ><small class="mono" [class.soft]="!row.row.segment.off" [class.caution]="row.row.segment.off">{{
                  row.row.segment.off ? 'switched off' : row.row.segment.subnet
                }}</small></span
              >
              <span class="mono vlan">{{ row.row.segment.vlan }}</span>
            </button>
          </div>
        }
      </div>
      <div
        class="weave"
        role="grid"
        aria-label="Segments and what carries them"
        [attr.aria-rowcount]="rows().length + 1"
        [attr.aria-colcount]="layout().columns.length + 1"
      >
        <div class="head" role="row">
          <span class="corner" role="columnheader"><span class="visually-hidden">Segment</span></span>
          @for (column of seen(); track column.key) {
            <span
              class="column"
              role="columnheader"
              [style.left.px]="measures.names + column.x"
              [class.mono]="column.deviceId"
              >{{ column.label }}</span
            >
          }
          @for (group of groups(); track group.name) {
            @if (group.fold === 'none') {
              <span
                class="group"
                aria-hidden="true"
                [style.left.px]="measures.names + group.x"
                [style.width.px]="group.width"
                [title]="group.name"
                >{{ group.name }}</span
              >
            } @else {
              <span
                role="columnheader"
                class="group"
                [style.left.px]="measures.names + group.x"
                [style.width.px]="group.width"
              >
                <button
                  type="button"
                  class="fold"
                  [attr.aria-expanded]="group.fold === 'open'"
                  [attr.aria-label]="(group.fold === 'open' ? 'Fold ' : 'Unfold ') + group.name"
                  [title]="group.fold === 'open' ? 'Fold into one column' : 'Unfold to its ports'"
                  (click)="toggle(group.name)"
                >
                  {{ group.fold === 'open' ? '▾' : '▸' }} {{ group.name }}
                </button>
              </span>
            }
          }
        </div>
        @for (row of seenRows(); track row.row.segment.id) {
          <div
            class="row"
            role="row"
            [attr.aria-owns]="'row-' + row.row.segment.id"
            [attr.aria-rowindex]="row.at + 2"
            [style.top.px]="measures.head + row.at * measures.row"
            [class.chosen]="chosenSegment() === row.row.segment.id"
            (click)="pressRow(row.row, $event)"
          >
            @for (cell of row.cells; track cell.column.key) {
              <span
                class="crossing"
                role="gridcell"
                tabindex="-1"
                [attr.data-at]="row.at + ' ' + cell.at"
                [style.left.px]="measures.names + cell.column.x - measures.step / 2"
                [class.here]="chosenColumn() === cell.column.key && chosenSegment() === row.row.segment.id"
                [attr.aria-label]="cell.words"
              ></span>
            }
          </div>
        }
      </div>
      <il-weave-canvas [drawn]="drawn" [marks]="marks()" />
    </div>
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
      min-height: 0;
      position: relative;
    }
    .paper {
      position: relative;
      min-width: 100%;
    }
    .weave {
      position: absolute;
      inset: 0;
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
      box-sizing: border-box;
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
    .fold {
      all: unset;
      cursor: pointer;
    }
    .row {
      position: absolute;
      left: 0;
      right: 0;
      height: 34px;
    }
    .row.chosen {
      background: color-mix(in srgb, var(--iron) 7%, transparent);
    }
    .names {
      position: sticky;
      left: 0;
      z-index: 2;
      width: 222px;
      height: 100%;
      background: var(--ground);
    }
    .name {
      position: absolute;
      left: 0;
      right: 0;
      height: 34px;
    }
    .name.chosen {
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
    .crossing {
      position: absolute;
      top: 0;
      width: 30px;
      height: 34px;
      cursor: pointer;
    }
    .crossing:hover,
    .crossing.here {
      background: radial-gradient(circle, var(--tint) 60%, transparent 62%);
    }
    .crossing.here {
      outline: 1px solid var(--ink);
      outline-offset: -3px;
    }
    .fold:focus-visible,
    .pick:focus-visible,
    .crossing:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -2px;
    }
  `,
})
export class Weave {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly injector = inject(Injector);
  private readonly changes = inject(ChangeDetectorRef);
  readonly columns = input.required<readonly GridColumn[]>();
  readonly rows = input.required<readonly GridRow[]>();
  readonly marks = input.required<ReadonlyMap<string, SegmentMark>>();
  /** Reads a row aloud. */
  readonly words = input<(row: GridRow) => string>((row) => row.segment.name);
  readonly chosenSegment = input<string | null>(null);
  readonly chosenColumn = input<string | null>(null);
  readonly choose = output<{ segmentId: string; columnKey: string | null }>();

  protected readonly measures = WEAVE;
  protected readonly drawn = new WeaveSight(this.columns, this.rows);
  readonly folded = this.drawn.folded;
  protected readonly layout = this.drawn.layout;
  protected readonly seen = this.drawn.seen;
  protected readonly groups = this.drawn.groups;
  protected readonly seenRows = this.drawn.seenRows;

  constructor() {
    const element = this.host.nativeElement;
    const look = () => this.look();
    element.addEventListener('scroll', look, { passive: true });
    effect((onCleanup) => onCleanup(whenIdle(this.drawn.workAhead())));
    afterNextRender(() => {
      look();
      const watcher = typeof ResizeObserver === 'undefined' ? null : new ResizeObserver(look);
      watcher?.observe(element);
      this.injector.get(DestroyRef).onDestroy(() => watcher?.disconnect());
    });
  }

  private look(): void {
    const { scrollLeft: left, scrollTop: top, clientWidth: width, clientHeight: height } = this.host.nativeElement;
    this.drawn.look({ left, top, width: Math.max(0, width - WEAVE.names), height });
  }

  /** Folds every switch, or unfolds them all. */
  foldAll(names: readonly string[]): void {
    this.folded.set(new Set(names));
  }

  protected toggle(name: string): void {
    const next = new Set(this.folded());
    if (!next.delete(name)) next.add(name);
    this.folded.set(next);
  }

  /** A crossing was pressed; of a folded switch, its ports are shown instead. */
  private press(row: GridRow, column: DrawnColumn): void {
    if (column.folds) this.toggle(column.group);
    else this.choose.emit({ segmentId: row.segment.id, columnKey: column.key });
  }

  /** A row was pressed: at a crossing, or where it does not pass a port. */
  protected pressRow(row: GridRow, event: MouseEvent): void {
    const cell = (event.target as HTMLElement).dataset['at']?.split(' ')[1];
    const x = event.clientX - (event.currentTarget as Element).getBoundingClientRect().left - WEAVE.names;
    const column = cell
      ? this.layout().columns[Number(cell)]
      : this.seen().find((each) => Math.abs(each.x - x) < this.layout().step / 2);
    if (column && canPress(row, column)) this.press(row, column);
  }

  /** Where the focus is: numbers of a row and a column, -1 for the row's name. */
  private get place(): readonly [row: number, column: number] | null {
    const at = (document.activeElement as HTMLElement | null)?.dataset['at']?.split(' ').map(Number);
    return at ? [at[0]!, at[1]!] : null;
  }

  /** The crossing with the focus was pressed. */
  protected pressHere(event: Event): void {
    const [r, c] = this.place ?? [-1, -1];
    const [row, column] = [this.rows()[r], this.layout().columns[c]];
    if (!row || !column) return;
    event.preventDefault();
    this.press(row, column);
  }

  /** Moves the focus to the next place that can be pressed in a direction; the names stand left of the first. */
  protected go(event: Event, down: number, right: number): void {
    const { place } = this;
    if (!place) return;
    event.preventDefault();
    const [rows, { columns }] = [this.rows(), this.layout()];
    let [r, c] = place;
    do {
      r += down;
      c += right;
      const row = rows[r];
      if (!row || c >= columns.length || c < -1) return;
      if (c === -1 || canPress(row, columns[c]!)) return this.focusAt(r, c);
    } while (r >= 0);
  }

  /** Moves the focus to the name of the row. */
  protected home(event: Event): void {
    const { place } = this;
    if (!place) return;
    event.preventDefault();
    this.focusAt(place[0], -1);
  }

  /** Brings a crossing into sight and gives it the focus. */
  private focusAt(r: number, c: number): void {
    const element = this.host.nativeElement;
    this.drawn.cursor.set({ row: r, at: c });
    this.changes.detectChanges(); // at once: the next key may follow before the next frame
    const focus = (): boolean => {
      const next = element.querySelector<HTMLElement>(`[data-at="${r} ${c}"]`);
      next?.focus({ preventScroll: true });
      return next !== null;
    };
    const top = r * WEAVE.row;
    if (top < element.scrollTop) element.scrollTop = top;
    else if (top + WEAVE.row > element.scrollTop + element.clientHeight - WEAVE.head)
      element.scrollTop = top + WEAVE.row + WEAVE.head - element.clientHeight;
    const x = c < 0 ? 0 : this.layout().columns[c]!.x;
    const room = element.clientWidth - WEAVE.names;
    if (x - WEAVE.step < element.scrollLeft) element.scrollLeft = x - WEAVE.step;
    else if (x + WEAVE.step > element.scrollLeft + room) element.scrollLeft = x + WEAVE.step - room;
    if (focus()) return;
    this.look();
    afterNextRender(() => void focus(), { injector: this.injector });
  }
}
