import {
  Component,
  DestroyRef,
  ElementRef,
  Injector,
  afterNextRender,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import type { Crossing, GridColumn, GridRow, SegmentMark } from '@iron-lattice/core/lattice';
import { SegmentTag } from '../ui/segment-tag';
import { Glyph } from './glyph';
import { WEAVE, crossingAt, foldedAtFirst, inSight, layOutIn, strandPieces, type DrawnColumn } from './weave-layout';

const WORDS: Readonly<Record<Crossing, string>> = {
  untagged: 'untagged',
  tagged: 'tagged',
  broadcast: 'broadcast',
  routed: 'routed',
  served: 'served',
  missing: 'missing here',
};
/** Rows drawn beyond those in sight. */
const MORE = 4;

/** The weave itself: strands across, threads down, a glyph at every crossing. Only what is in sight is drawn. */
@Component({
  selector: 'il-weave',
  imports: [SegmentTag, Glyph],
  template: `
    <div
      class="weave"
      role="grid"
      aria-label="Segments and what carries them"
      [attr.aria-rowcount]="rows().length + 1"
      [attr.aria-colcount]="layout().columns.length + 1"
      [style.width.px]="measures.names + layout().width"
      [style.height.px]="measures.head + rows().length * measures.row"
      (keydown.arrowLeft)="go($event, 0, -1)"
      (keydown.arrowRight)="go($event, 0, 1)"
      (keydown.arrowUp)="go($event, -1, 0)"
      (keydown.arrowDown)="go($event, 1, 0)"
      (keydown.home)="home($event)"
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
          [attr.aria-rowindex]="row.at + 2"
          [style.top.px]="measures.head + row.at * measures.row"
          [class.chosen]="chosenSegment() === row.row.segment.id"
          (click)="pressEmpty(row.row, $event)"
        >
          <svg
            class="strand"
            [attr.width]="span().to - span().from"
            height="34"
            aria-hidden="true"
            [style.left.px]="measures.names + span().from"
            [attr.viewBox]="span().from + ' 0 ' + (span().to - span().from) + ' 34'"
          >
            @for (column of seen(); track column.key) {
              <line class="thread" [attr.x1]="column.x" [attr.x2]="column.x" y1="0" y2="34" />
            }
            @for (piece of row.pieces; track $index) {
              <line
                [attr.x1]="piece.x1"
                [attr.x2]="piece.x2"
                y1="17"
                y2="17"
                stroke-width="2"
                [attr.stroke]="row.colour"
                [attr.stroke-dasharray]="piece.broken ? '2 4' : null"
              />
            }
          </svg>
          @for (cell of row.cells; track cell.column.key) {
            <span class="crossing" role="gridcell" [style.left.px]="measures.names + cell.column.x - measures.step / 2">
              <button
                [attr.data-at]="row.at + ' ' + cell.at"
                [class.here]="
                  chosenSegment() === row.row.segment.id &&
                  chosenColumn() !== null &&
                  chosenColumn() === cell.column.key
                "
                [attr.aria-label]="cell.words"
                (click)="press(row.row, cell.column)"
              >
                <svg
                  il-glyph
                  width="30"
                  height="34"
                  viewBox="-15 -17 30 34"
                  aria-hidden="true"
                  [crossing]="cell.crossing"
                  [style.color]="cell.crossing === 'missing' ? 'var(--bad)' : row.colour"
                />
                @if (cell.column.folds) {
                  <span class="count" aria-hidden="true">{{ cell.count }}</span>
                }
              </button>
            </span>
          }
          <div class="name" role="rowheader">
            <button
              class="pick"
              [attr.data-at]="row.at + ' -1'"
              [attr.aria-label]="words().get(row.row.segment.id) ?? row.row.segment.name"
              (click)="choose.emit({ segmentId: row.row.segment.id, columnKey: null })"
            >
              @if (marks().get(row.row.segment.id); as mark) {
                <il-segment-tag [mark]="mark" />
              }
              <span class="words"
                ><b>{{ row.row.segment.name }}</b
                ><small class="mono soft">{{ row.row.segment.subnet }}</small></span
              >
              <span class="mono vlan">{{ row.row.segment.vlan }}</span>
            </button>
          </div>
        </div>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
      min-height: 0;
      position: relative;
    }
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
    .count {
      position: absolute;
      right: 1px;
      bottom: 1px;
      font:
        500 10px/10px 'JetBrains Mono',
        monospace;
      background: var(--ground);
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
    .fold:focus-visible,
    .pick:focus-visible,
    .crossing button:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -2px;
    }
  `,
})
export class Weave {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly injector = inject(Injector);
  readonly columns = input.required<readonly GridColumn[]>();
  readonly rows = input.required<readonly GridRow[]>();
  readonly marks = input.required<ReadonlyMap<string, SegmentMark>>();
  /** Each row read aloud, by segment id. */
  readonly words = input<ReadonlyMap<string, string>>(new Map());
  readonly chosenSegment = input<string | null>(null);
  readonly chosenColumn = input<string | null>(null);
  readonly choose = output<{ segmentId: string; columnKey: string | null }>();

  protected readonly measures = WEAVE;
  /** Names of the switches that are folded; kept while the same switches are there. */
  readonly folded = linkedSignal<string, ReadonlySet<string>>({
    source: () => [...new Set(this.columns().map((column) => column.group))].join('\n'),
    computation: (_groups, previous) => previous?.value ?? foldedAtFirst(this.columns(), this.rows()),
  });
  /** What is in sight; zero while it is not known, and then all is drawn. */
  private readonly sight = signal({ left: 0, top: 0, width: 0, height: 0 });
  private readonly room = computed(() => this.sight().width);
  protected readonly layout = computed(() => layOutIn(this.room(), this.columns(), this.folded()));
  private readonly range = computed((): [number, number] => {
    const [{ left, width }, { columns }] = [this.sight(), this.layout()];
    return width === 0 ? [0, columns.length] : inSight(columns, left - WEAVE.step, left + width);
  });
  protected readonly seen = computed(() => this.layout().columns.slice(...this.range()));
  protected readonly groups = computed(() => {
    const { left, width } = this.sight();
    const all = this.layout().groups;
    return width === 0 ? all : all.filter((group) => group.x + group.width > left - 60 && group.x < left + width);
  });
  /** Ends of what is drawn of a strand. */
  protected readonly span = computed(() => {
    const seen = this.seen();
    const last = this.range()[1] === this.layout().columns.length;
    const to = last ? this.layout().width : (seen.at(-1)?.x ?? 0) + WEAVE.step;
    return { from: Math.max(0, (seen[0]?.x ?? 0) - WEAVE.step), to };
  });
  protected readonly seenRows = computed(() => {
    const { top, height } = this.sight();
    const rows = this.rows();
    const first = height === 0 ? 0 : Math.max(0, Math.floor((top - WEAVE.head) / WEAVE.row) - MORE);
    const end = height === 0 ? rows.length : Math.min(rows.length, Math.ceil((top + height) / WEAVE.row) + MORE);
    const { from, to } = this.span();
    return rows.slice(first, end).map((row, i) => ({
      row,
      at: first + i,
      colour: `var(--seg-${this.marks().get(row.segment.id)?.colour ?? 0})`,
      pieces: this.piecesOf(row).filter((piece) => piece.x2 >= from && piece.x1 <= to),
      cells: this.cellsOf(row),
    }));
  });
  private readonly pieces = computed(() => {
    const { columns } = this.layout();
    return new Map(this.rows().map((row) => [row, strandPieces(row, columns)]));
  });

  constructor() {
    const element = this.host.nativeElement;
    const look = (): void => {
      const { scrollLeft: left, scrollTop: top, clientWidth: width, clientHeight: height } = element;
      this.sight.set({ left, top, width: Math.max(0, width - WEAVE.names), height });
    };
    element.addEventListener('scroll', look, { passive: true });
    afterNextRender(() => {
      look();
      const watcher = typeof ResizeObserver === 'undefined' ? null : new ResizeObserver(look);
      watcher?.observe(element);
      this.injector.get(DestroyRef).onDestroy(() => watcher?.disconnect());
    });
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
  protected press(row: GridRow, column: DrawnColumn): void {
    if (column.folds) this.toggle(column.group);
    else this.choose.emit({ segmentId: row.segment.id, columnKey: column.key });
  }

  /** Where nothing passes a port was pressed: it may be made to. By keyboard the same is done among the ports. */
  protected pressEmpty(row: GridRow, event: MouseEvent): void {
    if ((event.target as Element).closest('button')) return;
    const x = event.clientX - (event.currentTarget as Element).getBoundingClientRect().left - WEAVE.names;
    const column = this.seen().find((each) => Math.abs(each.x - x) < this.layout().step / 2);
    if (column?.key.startsWith('port:')) this.choose.emit({ segmentId: row.segment.id, columnKey: column.key });
  }

  private piecesOf = (row: GridRow) => this.pieces().get(row) ?? [];

  private cellsOf(row: GridRow) {
    const first = this.range()[0];
    return this.seen().flatMap((column, i) => {
      const crossing = crossingAt(row, column);
      if (!crossing) return [];
      const met = column.folds?.filter(({ key }) => row.cells[key] === crossing).length ?? 1;
      const where = column.folds ? `${column.group}, ${met} of ${column.label}` : `${column.group} ${column.label}`;
      return [
        { column, crossing, at: first + i, count: met, words: `${row.segment.name}, ${where}: ${WORDS[crossing]}` },
      ];
    });
  }

  /** Moves the focus to the next crossing in a direction; the names stand left of the first. */
  protected go(event: Event, down: number, right: number): void {
    const at = (document.activeElement as HTMLElement | null)?.dataset['at']?.split(' ').map(Number);
    if (!at) return;
    event.preventDefault();
    const [rows, { columns }] = [this.rows(), this.layout()];
    let [r, c] = at as [number, number];
    do {
      r += down;
      c += right;
      const row = rows[r];
      if (!row || c >= columns.length || c < -1) return;
      if (c === -1 || crossingAt(row, columns[c]!)) return this.focusAt(r, c);
    } while (r >= 0);
  }

  /** Moves the focus to the name of the row. */
  protected home(event: Event): void {
    const at = (document.activeElement as HTMLElement | null)?.dataset['at'];
    if (at === undefined) return;
    event.preventDefault();
    this.focusAt(Number(at.split(' ')[0]), -1);
  }

  /** Brings a crossing into sight and gives it the focus. */
  private focusAt(r: number, c: number): void {
    const element = this.host.nativeElement;
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
    if (!focus()) {
      element.dispatchEvent(new Event('scroll'));
      afterNextRender(() => void focus(), { injector: this.injector });
    }
  }
}
