import { computed, effect, linkedSignal, signal, untracked, type Signal } from '@angular/core';
import { counted } from './counted';
import { filterRows, groupRows, sortRows, type Sorting, type TableColumn } from './data-rows';

/** Work done ahead: how much at a time, and how long after the rows came. */
const [SLICE_MS, SETTLE_MS] = [8, 300];

/** Whether there is room for a few columns only. */
export const PHONE = { matches: globalThis.matchMedia?.('(max-width: 720px)').matches ?? false };

/** Height of a row, and of what stands above the first, in pixels. */
export const [ROW_PX, HEAD_PX] = PHONE.matches ? [40, 106] : [25, 62];
/** Rows that a table within a cell shows before it scrolls. */
const MOST_IN_CELL = 6;

/** Height of a table within a cell, in pixels: as its rows need, up to a few. */
export const heightInCell = (rows: number): number => HEAD_PX + ROW_PX * Math.min(Math.max(rows, 1), MOST_IN_CELL);

/** What a table is made of. */
export interface TableSource<T> {
  readonly rows: Signal<readonly T[]>;
  readonly columns: Signal<readonly TableColumn<T>[]>;
  /** Under which what people chose is remembered. */
  readonly remember: Signal<string>;
  /** Column it is grouped by as long as nobody chose. */
  readonly groupFirst: Signal<string>;
}

/**
 * Which rows and columns a table shows and in what order: filtered, sorted, grouped, as people chose it before. Make it
 * where injection is possible.
 */
export class TableView<T> {
  readonly filter = signal('');
  private readonly kept = computed(() => readChoice(this.source.remember()));
  readonly sorting = linkedSignal<Sorting>(() => this.kept().sorting ?? { key: '', down: false });
  readonly group = linkedSignal<string>(() => this.kept().group ?? this.source.groupFirst());
  private readonly chosenColumns = linkedSignal<readonly string[] | null>(() => this.kept().columns ?? null);

  readonly shownColumns = computed(() => {
    const all = this.source.columns();
    if (PHONE.matches) return all.filter((column) => column.phone);
    const chosen = this.chosenColumns();
    return chosen ? all.filter((column) => chosen.includes(column.key)) : all.filter((column) => !column.hidden);
  });
  readonly groupable = computed(() => this.source.columns().filter((column) => column.groups));
  readonly grouping = computed(() => this.groupable().find((column) => column.key === this.group()));

  /** Texts are put together once a row object; what does not change is not read again. */
  private readonly words = computed(() => {
    const columns = this.source.columns();
    const known = new WeakMap<object, string>();
    return (row: T): string => {
      let text = known.get(row as object);
      if (text === undefined) {
        text = columns
          .map((column) => column.text(row))
          .join('\n')
          .toLowerCase();
        known.set(row as object, text);
      }
      return text;
    };
  });
  private readonly filtered = computed(() => filterRows(this.source.rows(), this.filter(), this.words()));
  private readonly sorted = computed(() => {
    const { key, down } = this.sorting();
    const column = this.source.columns().find((each) => each.key === key);
    return column ? sortRows(this.filtered(), column, down) : this.filtered();
  });
  readonly items = computed(() => groupRows(this.sorted(), this.grouping()));
  /** Rows in the order they are listed. */
  readonly listed = computed(() => this.items().flatMap((item) => (item.kind === 'row' ? [item.row] : [])));
  readonly counted = computed(() => {
    const [shown, all] = [this.filtered().length, this.source.rows().length];
    return shown === all ? counted(all, 'row') : `${shown.toLocaleString('en')} of ${all.toLocaleString('en')}`;
  });

  constructor(private readonly source: TableSource<T>) {
    effect(() => {
      const choice = { sorting: this.sorting(), group: this.group(), columns: this.chosenColumns() };
      localStorage.setItem(`lattice.table.${untracked(this.source.remember)}`, JSON.stringify(choice));
    });
    effect((done) => {
      // Texts to filter by are put together before anybody filters, while there is nothing else to do.
      const [rows, words] = [this.source.rows(), this.words()];
      let at = 0;
      const some = (): void => {
        for (const until = performance.now() + SLICE_MS; at < rows.length && performance.now() < until; at++)
          words(rows[at]!);
        if (at < rows.length) timer = setTimeout(some);
      };
      let timer = setTimeout(some, SETTLE_MS);
      done(() => clearTimeout(timer));
    });
  }

  isShown = (column: TableColumn<T>): boolean => this.shownColumns().includes(column);

  toggleColumn(key: string): void {
    const now = this.shownColumns().map((column) => column.key);
    this.chosenColumns.set(now.includes(key) ? now.filter((each) => each !== key) : [...now, key]);
  }

  sortBy(key: string): void {
    const now = this.sorting();
    this.sorting.set(
      now.key !== key ? { key, down: false } : now.down ? { key: '', down: false } : { key, down: true },
    );
  }

  sortedBy(column: TableColumn<T>): 'ascending' | 'descending' | 'none' {
    const { key, down } = this.sorting();
    return key !== column.key ? 'none' : down ? 'descending' : 'ascending';
  }
}

interface Choice {
  readonly sorting?: Sorting;
  readonly group?: string;
  readonly columns?: readonly string[] | null;
}

function readChoice(name: string): Choice {
  try {
    return JSON.parse(localStorage.getItem(`lattice.table.${name}`) ?? '{}') as Choice;
  } catch {
    return {}; // somebody else's text
  }
}
