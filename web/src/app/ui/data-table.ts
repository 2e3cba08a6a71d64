import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import { Component, computed, effect, input, model, output, untracked, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatMenuModule } from '@angular/material/menu';
import { RouterLink } from '@angular/router';
import type { DeviceState } from '@iron-lattice/core/intake';
import type { TableColumn, TableItem } from './data-rows';
import { rowsAsCsv, rowsAsXlsx, saveFile } from './export-rows';
import { StateMark } from './state-mark';
import { ROW_PX, TableView } from './table-view';

/**
 * A table of any number of rows: only those in sight are drawn. Sorts by its heads, filters, groups, lets people
 * choose columns and rows, exports what it shows, and is walked by arrow keys. What people chose is remembered.
 */
@Component({
  selector: 'il-data-table',
  imports: [RouterLink, ScrollingModule, MatButtonModule, MatCheckboxModule, MatMenuModule, StateMark],
  template: `
    <div class="tools">
      <input
        type="search"
        [attr.aria-label]="'Filter ' + label()"
        placeholder="Filter…"
        [value]="filter()"
        (input)="filter.set($any($event.target).value)"
        (keydown.escape)="filter.set(''); $event.preventDefault()"
      />
      <ng-content select="[tools]" />
      <span class="grow"></span>
      <span class="soft count" role="status">{{ counted() }}</span>
      <button mat-button class="wide" [matMenuTriggerFor]="groups">
        {{ grouping() ? 'By ' + grouping()!.title.toLowerCase() : 'Group' }}
      </button>
      <mat-menu #groups>
        <button mat-menu-item (click)="group.set('')">Not grouped</button>
        @for (column of groupable(); track column.key) {
          <button mat-menu-item (click)="group.set(column.key)">By {{ column.title.toLowerCase() }}</button>
        }
      </mat-menu>
      <button mat-button class="wide" [matMenuTriggerFor]="choice">Columns</button>
      <mat-menu #choice>
        @for (column of columns(); track column.key) {
          <mat-checkbox
            class="choice"
            [checked]="view.isShown(column)"
            [disabled]="shownColumns().length === 1 && view.isShown(column)"
            (change)="view.toggleColumn(column.key)"
            (click)="$event.stopPropagation()"
            >{{ column.title }}</mat-checkbox
          >
        }
      </mat-menu>
      <button mat-button class="wide" [matMenuTriggerFor]="exports">Export</button>
      <mat-menu #exports>
        <button mat-menu-item (click)="save('csv')">CSV</button>
        <button mat-menu-item (click)="save('xlsx')">XLSX</button>
      </mat-menu>
    </div>
    <div class="frame">
      <div
        class="table"
        role="grid"
        [attr.aria-label]="label()"
        [attr.aria-rowcount]="items().length + 1"
        [attr.aria-multiselectable]="pickable() ? true : null"
        [style.min-width.px]="leastWidth()"
        (keydown)="onKey($event)"
      >
        <div class="line head" role="row" [style.grid-template-columns]="template()">
          @if (pickable()) {
            <span role="columnheader" class="pick">
              <input
                type="checkbox"
                [checked]="allPicked()"
                [indeterminate]="picked().size > 0 && !allPicked()"
                [disabled]="listed().length === 0"
                (change)="pickAll($event)"
                aria-label="Choose all that are shown"
              />
            </span>
          }
          @for (column of shownColumns(); track column.key) {
            <span role="columnheader" [attr.aria-sort]="view.sortedBy(column)">
              <button type="button" (click)="view.sortBy(column.key)">
                {{ column.title }}{{ sorting().key === column.key ? (sorting().down ? ' ▾' : ' ▴') : '' }}
              </button>
            </span>
          }
        </div>
        <cdk-virtual-scroll-viewport
          [itemSize]="height"
          minBufferPx="200"
          maxBufferPx="400"
          role="rowgroup"
          tabindex="0"
        >
          <ng-container *cdkVirtualFor="let item of items(); trackBy: track">
            @if (item.kind === 'group') {
              <div class="line group" role="row">
                <span role="gridcell"
                  >{{ item.title }} <span class="soft">{{ item.count }}</span></span
                >
              </div>
            } @else {
              <div
                class="line"
                role="row"
                [class.chosen]="key()(item.row) === shown() || picked().has(key()(item.row))"
                [class.at]="key()(item.row) === shown()"
                [attr.aria-selected]="key()(item.row) === shown()"
                [style.grid-template-columns]="template()"
                (click)="opened.emit(item.row)"
              >
                @if (pickable()) {
                  <span role="gridcell" class="pick">
                    <input
                      type="checkbox"
                      tabindex="-1"
                      [checked]="picked().has(key()(item.row))"
                      (click)="pick(item.at, $event)"
                      [aria-label]="'Choose ' + name()(item.row)"
                    />
                  </span>
                }
                @for (column of shownColumns(); track column.key) {
                  <span
                    role="gridcell"
                    [class]="
                      (column.text(item.row) === '' ? 'soft' : (column.tone?.(item.row) ?? '')) +
                      (column.mono ? ' mono' : '')
                    "
                    [title]="column.text(item.row).length > 24 ? column.text(item.row) : ''"
                  >
                    @if (column.key === 'state' && stateOf(); as state) {
                      <il-state-mark [state]="state(item.row)" />
                    }
                    @if (column.link; as link) {
                      <a [routerLink]="link(item.row)" (click)="$event.stopPropagation()">{{
                        column.text(item.row)
                      }}</a>
                    } @else {
                      {{ column.text(item.row) || '–' }}
                    }
                  </span>
                }
              </div>
            }
          </ng-container>
        </cdk-virtual-scroll-viewport>
      </div>
    </div>
    @if (items().length === 0) {
      <p class="none soft">
        @if (rows().length === 0) {
          <ng-content select="[empty]" />
        } @else {
          None of {{ rows().length }} fits “{{ filter() }}”.
          <button mat-button type="button" (click)="filter.set('')">Show all</button>
        }
      </p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
      position: relative;
    }
    .tools {
      display: flex;
      align-items: center;
      gap: 6px;
      padding: 0 14px 6px;
      flex: none;
    }
    input[type='search'] {
      all: unset;
      box-sizing: border-box;
      width: 210px;
      height: 28px;
      padding: 0 8px;
      border: 1px solid var(--strong);
      background: var(--sheet);
    }
    input[type='search']:focus-visible {
      outline: 2px solid var(--iron);
    }
    .count {
      white-space: nowrap;
    }
    .frame {
      display: flex;
      flex-direction: column;
      flex: 1;
      min-height: 0;
      overflow-x: auto;
      overflow-y: hidden;
    }
    .table {
      display: flex;
      flex-direction: column;
      flex: 1;
      min-height: 0;
    }
    cdk-virtual-scroll-viewport {
      outline-offset: -2px;
      flex: 1;
      min-height: 0;
    }
    .line {
      display: grid;
      height: 25px;
      align-items: center;
      border-bottom: 1px solid var(--rule);
      padding-left: 4px;
      cursor: pointer;
      white-space: nowrap;
      box-sizing: border-box;
    }
    .line > span {
      padding: 0 7px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .line:hover:not(.head):not(.group) {
      background: color-mix(in srgb, var(--ink) 4%, transparent);
    }
    .line a {
      font-weight: 500;
    }
    .chosen {
      background: var(--tint);
    }
    /* On the tint of what is chosen, inks have to be a little deeper. */
    .chosen .good {
      color: color-mix(in srgb, var(--good) 80%, var(--ink));
    }
    .chosen .caution {
      color: color-mix(in srgb, var(--caution) 75%, var(--ink));
    }
    .at {
      box-shadow: inset 3px 0 0 var(--iron);
    }
    .head {
      height: 27px;
      border-bottom-color: var(--ink);
      flex: none;
      cursor: default;
    }
    .head button {
      all: unset;
      cursor: pointer;
      color: var(--soft);
      font:
        600 12px/18px 'Barlow Semi Condensed',
        Barlow;
    }
    .head button:focus-visible {
      outline: 2px solid var(--iron);
    }
    .group {
      cursor: default;
      border-bottom-color: var(--strong);
      font:
        600 12px/18px 'Barlow Semi Condensed',
        Barlow;
    }
    .line > .pick {
      padding: 0;
      overflow: visible;
      display: flex;
      align-items: center;
    }
    .pick input {
      width: 14px;
      height: 14px;
      margin: 0 0 0 8px;
      accent-color: var(--iron);
      cursor: pointer;
    }
    .choice {
      display: block;
      padding: 0 14px 0 4px;
      height: 32px;
    }
    .none {
      position: absolute;
      top: 76px;
      left: 18px;
      right: 18px;
    }
    @media (max-width: 720px) {
      .wide,
      .count {
        display: none;
      }
      .line:not(.head):not(.group) {
        height: 40px;
      }
      input[type='search'] {
        width: auto;
        flex: 1;
        height: 34px;
      }
    }
  `,
})
export class DataTable<T> {
  readonly label = input.required<string>();
  readonly rows = input.required<readonly T[]>();
  readonly columns = input.required<readonly TableColumn<T>[]>();
  /** Tells rows apart over changes. */
  readonly key = input.required<(row: T) => string>();
  /** What a row is called when it is chosen. */
  readonly name = input.required<(row: T) => string>();
  /** The state whose mark the column `state` shows. */
  readonly stateOf = input<((row: T) => DeviceState) | null>(null);
  /** Under which what people chose of this table is remembered. */
  readonly remember = input.required<string>();
  readonly pickable = input(false);
  readonly groupFirst = input('');
  /** Key of the row whose sheet is open. */
  readonly shown = input<string | null>(null);
  readonly picked = model<ReadonlySet<string>>(new Set());
  readonly opened = output<T>();

  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  protected readonly view = new TableView<T>(this);
  readonly filter = this.view.filter;
  readonly listed = this.view.listed;
  protected readonly sorting = this.view.sorting;
  protected readonly group = this.view.group;
  protected readonly shownColumns = this.view.shownColumns;
  protected readonly groupable = this.view.groupable;
  protected readonly grouping = this.view.grouping;
  protected readonly items = this.view.items;
  protected readonly counted = this.view.counted;
  protected readonly height = ROW_PX;
  protected readonly template = computed(
    () =>
      (this.pickable() ? '30px ' : '') +
      this.shownColumns()
        .map(({ width }) => `minmax(${width}px, ${width}fr)`)
        .join(' '),
  );
  protected readonly leastWidth = computed(
    () => this.shownColumns().reduce((sum, column) => sum + column.width, 0) + (this.pickable() ? 30 : 0),
  );

  protected readonly allPicked = computed(() => {
    const listed = this.listed();
    return (
      listed.length > 0 &&
      this.picked().size >= listed.length &&
      listed.every((row) => this.picked().has(this.key()(row)))
    );
  });
  private lastPicked: number | null = null;

  constructor() {
    effect(() => {
      // A row that is opened from elsewhere comes into sight.
      const shown = this.shown();
      if (shown === null) return;
      untracked(() => this.reveal(shown));
    });
  }

  protected readonly track = (_: number, item: TableItem<T>): string =>
    item.kind === 'row' ? this.key()(item.row) : `group ${item.title}`;

  /** Chooses one row; with Shift all between it and the one chosen last. */
  protected pick(at: number, event: Event): void {
    event.stopPropagation();
    const listed = this.listed();
    const next = new Set(this.picked());
    const key = this.key();
    const wanted = !next.has(key(listed[at]!));
    const from = (event as MouseEvent).shiftKey && this.lastPicked !== null ? this.lastPicked : at;
    for (let i = Math.min(from, at); i <= Math.max(from, at); i++)
      if (wanted) next.add(key(listed[i]!));
      else next.delete(key(listed[i]!));
    this.lastPicked = at;
    this.picked.set(next);
  }

  protected pickAll(event: Event): void {
    this.picked.set(this.allPicked() ? new Set() : new Set(this.listed().map(this.key())));
    // What is shown is what is chosen, whatever the press made of the box by itself.
    (event.target as HTMLInputElement).checked = this.allPicked();
  }

  protected onKey(event: KeyboardEvent): void {
    const listed = this.listed();
    const at = listed.findIndex((row) => this.key()(row) === this.shown());
    const page = Math.max(1, Math.floor(this.viewport().getViewportSize() / this.height) - 1);
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: page, PageUp: -page, Home: -listed.length, End: listed.length }[
      event.key
    ];
    if (step !== undefined && (event.target as HTMLElement).tagName !== 'INPUT') {
      const next = listed[Math.max(0, Math.min(listed.length - 1, at < 0 ? (step > 0 ? 0 : at) : at + step))];
      if (!next) return;
      event.preventDefault();
      this.opened.emit(next);
    } else if (
      event.key === ' ' &&
      this.pickable() &&
      at >= 0 &&
      (event.target as HTMLElement).classList.contains('cdk-virtual-scroll-viewport')
    ) {
      this.pick(at, event);
      event.preventDefault();
    }
  }

  protected async save(format: 'csv' | 'xlsx'): Promise<void> {
    const picked = this.picked();
    const rows = picked.size > 0 ? this.listed().filter((row) => picked.has(this.key()(row))) : this.listed();
    const make = format === 'csv' ? rowsAsCsv : rowsAsXlsx;
    saveFile(`${this.label().toLowerCase().replaceAll(' ', '-')}.${format}`, await make(rows, this.shownColumns()));
  }

  private reveal(shown: string): void {
    const at = this.items().findIndex((item) => item.kind === 'row' && this.key()(item.row) === shown);
    if (at < 0) return;
    const viewport = this.viewport();
    const [top, size] = [viewport.measureScrollOffset(), viewport.getViewportSize()];
    if (at * this.height < top) viewport.scrollToIndex(at);
    else if ((at + 1) * this.height > top + size) viewport.scrollToOffset((at + 1) * this.height - size);
  }
}
