import { computed, linkedSignal, signal, type Signal, type WritableSignal } from '@angular/core';
import type { Crossing, GridColumn, GridRow } from '@iron-lattice/core/lattice';
import {
  WEAVE,
  canPress,
  crossingAt,
  foldedAtFirst,
  inSight,
  layOutIn,
  metIn,
  strandPath,
  type DrawnColumn,
  type StrandPath,
  type WeaveLayout,
} from './weave-layout';
import { sheetFor, type Sheet } from './weave-sheet';

/** Rows drawn beyond those in sight. */
const MORE = 4;
/** How long scrolling must rest until places to press are put where it came to, in milliseconds. */
const REST = 80;
/** Pixels drawn beyond what is in sight of a heading that stands out over its columns. */
const OVERHANG = 60;

const WORDS: Readonly<Record<Crossing, string>> = {
  untagged: 'untagged',
  tagged: 'tagged',
  asked: 'by who somebody is',
  tunnel: 'in a tunnel',
  broadcast: 'broadcast',
  routed: 'routed',
  served: 'served',
  missing: 'missing here',
};

/** What of the weave's element is looked at, in pixels; a width of 0 where nothing is laid out, and then all is drawn. */
export interface Sight {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}
/** A crossing that can be pressed. */
export interface DrawnCell {
  readonly column: DrawnColumn;
  /** Number of its column. */
  readonly at: number;
  readonly words: string;
}
/** How a row passes a drawn column. */
export interface Met {
  readonly crossing: Crossing;
  /** Of a folded switch: how many of its ports are met this way; else 0. */
  readonly count: number;
}
/** A row that is in sight. */
export interface SeenRow {
  readonly row: GridRow;
  /** Its number. */
  readonly at: number;
  readonly strand: StrandPath;
  /** By number of the column. */
  readonly met: readonly (Met | null)[];
  /** What hands and ears find there: of what was in sight when scrolling last came to rest. */
  readonly cells: readonly DrawnCell[];
}

type Range = readonly [first: number, end: number];
const same = (a: Range, b: Range): boolean => a[0] === b[0] && a[1] === b[1];

/**
 * What of a weave is in sight and how it is drawn. Nothing is drawn before the room is known; what a row looks like
 * is worked out when it first comes into sight, and kept as long as the layout stays.
 */
export class WeaveSight {
  /**
   * Where the keyboard is, by number of row and column. Where a port is not passed there is a cell only while the
   * keyboard is there: there are very many such places.
   */
  readonly cursor = signal<{ readonly row: number; readonly at: number } | null>(null);
  /** Null until the element has been measured. */
  private readonly sight = signal<Sight | null>(null);
  private readonly rested = signal<Sight | null>(null);
  private resting: ReturnType<typeof setTimeout> | undefined;
  /** Names of the switches that are folded; kept while the same switches are there. */
  readonly folded: WritableSignal<ReadonlySet<string>>;

  constructor(
    private readonly columns: Signal<readonly GridColumn[]>,
    private readonly rows: Signal<readonly GridRow[]>,
  ) {
    this.folded = linkedSignal<string, ReadonlySet<string>>({
      source: () => [...new Set(this.columns().map((column) => column.group))].join('\n'),
      computation: (_groups, previous) => previous?.value ?? foldedAtFirst(this.columns(), this.rows()),
    });
  }

  /** What is looked at now. */
  look(sight: Sight): void {
    const first = this.sight() === null;
    this.sight.set(sight);
    clearTimeout(this.resting);
    if (first) this.rested.set(sight);
    else this.resting = setTimeout(() => this.rested.set(sight), REST);
  }

  private readonly room = computed(() => this.sight()?.width ?? null);
  readonly layout = computed((): WeaveLayout => {
    const room = this.room();
    return room === null ? layOutIn(0, [], new Set()) : layOutIn(room, this.columns(), this.folded());
  });
  private readonly columnRange = computed(() => this.columnsIn(this.sight()), { equal: same });
  private readonly rowRange = computed(() => this.rowsIn(this.sight()), { equal: same });
  private readonly restedColumns = computed(() => this.columnsIn(this.rested()), { equal: same });
  private readonly restedRows = computed(() => this.rowsIn(this.rested()), { equal: same });
  private readonly groupRange = computed(
    (): Range => {
      const [sight, { groups }] = [this.sight(), this.layout()];
      if (!sight?.width) return [0, groups.length];
      const shown = groups.map(({ x, width }) => x + width > sight.left - OVERHANG && x < sight.left + sight.width);
      return [Math.max(0, shown.indexOf(true)), shown.lastIndexOf(true) + 1];
    },
    { equal: same },
  );
  /** Columns in sight, and a few more. */
  readonly seen = computed(() => this.layout().columns.slice(...this.columnRange()));
  /** Groups of columns in sight. */
  readonly groups = computed(() => this.layout().groups.slice(...this.groupRange()));
  /** The piece to paint; null where nothing is laid out. */
  readonly sheet = linkedSignal<{ sight: Sight | null; width: number; height: number }, Sheet | null>({
    source: () => ({
      sight: this.sight(),
      width: this.layout().width,
      height: this.rows().length * WEAVE.row,
    }),
    computation: ({ sight, ...whole }, previous) =>
      sight?.width
        ? sheetFor(
            { x: sight.left, y: sight.top, width: sight.width, height: sight.height - WEAVE.head },
            whole,
            previous?.value ?? null,
          )
        : null,
  });
  /** What the sheet shows. `layer` is another as soon as any sheet would show something else. */
  readonly painted = computed(() => {
    const sheet = this.sheet();
    if (!sheet) return null;
    const { columns } = this.layout();
    const first = Math.floor(sheet.y / WEAVE.row);
    const rows = this.rows().slice(first, Math.ceil((sheet.y + sheet.height) / WEAVE.row));
    const draw = this.drawn();
    return { layer: draw, sheet, columns, rows: rows.map((row, i) => ({ row, at: first + i, ...draw(row) })) };
  });
  readonly seenRows = computed((): SeenRow[] => {
    const [first, end] = this.rowRange();
    const cells = this.cells();
    const draw = this.drawn();
    return this.rows()
      .slice(first, end)
      .map((row, i) => ({ row, at: first + i, ...draw(row), cells: cells.get(row) ?? [] }));
  });
  private readonly cells = computed(() => {
    const [[first, end], [from, to]] = [this.restedRows(), this.restedColumns()];
    const [cursor, { columns }, draw] = [this.cursor(), this.layout(), this.drawn()];
    const cells = new Map<GridRow, readonly DrawnCell[]>();
    for (const [at, row] of this.rows().entries()) {
      const here = cursor?.row === at ? cursor.at : -1;
      if ((at < first || at >= end) && here < 0) continue;
      const { met } = draw(row);
      const seen: DrawnCell[] = [];
      const shown = (i: number): boolean => i >= from && i < to && met[i] !== null;
      for (let i = from; i < to; i++) if (shown(i)) seen.push(cellOf(row, columns[i]!, met[i]!, i));
      const column = columns[here];
      if (column && !shown(here) && canPress(row, column)) seen.push(cellOf(row, column, met[here] ?? null, here));
      cells.set(row, seen);
    }
    return cells;
  });

  private readonly drawn = computed(() => {
    const { columns } = this.layout();
    this.rows();
    const known = new Map<GridRow, ReturnType<typeof drawRow>>();
    return (row: GridRow) => {
      let drawn = known.get(row);
      if (!drawn) known.set(row, (drawn = drawRow(row, columns)));
      return drawn;
    };
  });

  /** Works out how a row looks that has not been in sight yet, each time it is called; false when none was left. */
  workAhead(): () => boolean {
    const [draw, rows] = [this.drawn(), this.rows().values()];
    return () => {
      const { value, done } = rows.next();
      if (value) draw(value);
      return !done;
    };
  }

  private columnsIn(sight: Sight | null): Range {
    const { columns } = this.layout();
    if (!sight?.width) return [0, columns.length];
    return inSight(columns, sight.left - WEAVE.step, sight.left + sight.width);
  }

  private rowsIn(sight: Sight | null): Range {
    const count = this.rows().length;
    if (!sight) return [0, 0];
    if (sight.height === 0) return [0, count];
    const first = Math.floor((sight.top - WEAVE.head) / WEAVE.row) - MORE;
    return [Math.max(0, first), Math.min(count, Math.ceil((sight.top + sight.height) / WEAVE.row) + MORE)];
  }
}

function drawRow(row: GridRow, columns: readonly DrawnColumn[]) {
  const crossings = columns.map((column) => crossingAt(row, column));
  const met = columns.map(({ folds }, i): Met | null => {
    const crossing = crossings[i];
    return crossing ? { crossing, count: folds ? metIn(row, folds, crossing) : 0 } : null;
  });
  return { strand: strandPath(columns, crossings), met };
}

function cellOf(row: GridRow, column: DrawnColumn, met: Met | null, at: number): DrawnCell {
  const where = column.folds
    ? `${column.group}, ${met?.count ?? 0} of ${column.label}`
    : `${column.group} ${column.label}`;
  const how = met ? WORDS[met.crossing] : 'does not pass';
  return { column, at, words: `${row.segment.name}, ${where}: ${how}` };
}
