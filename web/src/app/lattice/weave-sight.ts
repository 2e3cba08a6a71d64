import { computed, linkedSignal, signal, type Signal, type WritableSignal } from '@angular/core';
import type { Crossing, GridColumn, GridRow } from '@iron-lattice/core/lattice';
import { glyphShapes, type GlyphShape } from './glyph';
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

/** Rows drawn beyond those in sight. */
const MORE = 4;
/** Columns that are drawn in one go. */
const STRETCH = 16;
/** Pixels drawn beyond what is in sight of a heading that stands out over its columns. */
const OVERHANG = 60;

const WORDS: Readonly<Record<Crossing, string>> = {
  untagged: 'untagged',
  tagged: 'tagged',
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
  /** Null at a port that the segment does not pass: pressed, it may be made to. */
  readonly crossing: Crossing | null;
  /** Number of its column. */
  readonly at: number;
  /** Of a folded switch: how many of its ports are met this way. */
  readonly count: number;
  readonly words: string;
}
/** What is drawn of a row over some neighbouring columns, in one drawing: the browser minds many small ones. */
export interface RowStretch {
  readonly at: number;
  /** Left end and width, from the right edge of the names. */
  readonly x: number;
  readonly width: number;
  /** Glyphs in the colour of the segment. */
  readonly shapes: readonly GlyphShape[];
  readonly missing: readonly GlyphShape[];
  /** Numbers beside the glyphs of folded switches. */
  readonly counts: readonly { readonly x: number; readonly count: number }[];
}
/** A row that is in sight. */
export interface SeenRow {
  readonly row: GridRow;
  /** Its number. */
  readonly at: number;
  readonly strand: StrandPath;
  readonly cells: readonly DrawnCell[];
  readonly stretches: readonly RowStretch[];
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
  readonly sight = signal<Sight | null>(null);
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

  private readonly room = computed(() => this.sight()?.width ?? null);
  readonly layout = computed((): WeaveLayout => {
    const room = this.room();
    return room === null ? layOutIn(0, [], new Set()) : layOutIn(room, this.columns(), this.folded());
  });
  private readonly columnRange = computed(
    (): Range => {
      const [sight, { columns }] = [this.sight(), this.layout()];
      if (!sight?.width) return [0, columns.length];
      return inSight(columns, sight.left - WEAVE.step, sight.left + sight.width);
    },
    { equal: same },
  );
  private readonly rowRange = computed(
    (): Range => {
      const [sight, count] = [this.sight(), this.rows().length];
      if (!sight) return [0, 0];
      if (sight.height === 0) return [0, count];
      const first = Math.floor((sight.top - WEAVE.head) / WEAVE.row) - MORE;
      return [Math.max(0, first), Math.min(count, Math.ceil((sight.top + sight.height) / WEAVE.row) + MORE)];
    },
    { equal: same },
  );
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
  readonly seenRows = computed((): SeenRow[] => {
    const [[first, end], [from, to]] = [this.rowRange(), this.columnRange()];
    const draw = this.drawn();
    const [cursor, { columns }] = [this.cursor(), this.layout()];
    return this.rows()
      .slice(first, end)
      .map((row, i) => {
        const { strand, cells, stretch } = draw(row);
        const stretches: RowStretch[] = [];
        for (let n = Math.floor(from / STRETCH); n * STRETCH < to; n++) stretches.push(stretch(n));
        const seen = cells.slice(from, to).filter((cell) => cell !== null);
        if (cursor?.row === first + i && !cells[cursor.at]) {
          const column = columns[cursor.at];
          if (column && canPress(row, column)) seen.push(cellOf(row, column, null, cursor.at));
        }
        return { row, at: first + i, strand, stretches, cells: seen };
      });
  });

  private readonly drawn = computed(() => {
    const { columns } = this.layout();
    const known = new Map<GridRow, ReturnType<typeof drawRow>>();
    return (row: GridRow) => {
      let drawn = known.get(row);
      if (!drawn) known.set(row, (drawn = drawRow(row, columns)));
      return drawn;
    };
  });
}

function drawRow(row: GridRow, columns: readonly DrawnColumn[]) {
  const crossings = columns.map((column) => crossingAt(row, column));
  const cells = columns.map((column, at) => {
    const crossing = crossings[at];
    return crossing ? cellOf(row, column, crossing, at) : null;
  });
  const stretches: RowStretch[] = [];
  const stretch = (n: number): RowStretch => (stretches[n] ??= stretchOf(n, columns, cells));
  return { strand: strandPath(columns, crossings), cells, stretch };
}

function stretchOf(at: number, columns: readonly DrawnColumn[], cells: readonly (DrawnCell | null)[]): RowStretch {
  const end = (at + 1) * STRETCH;
  // Each begins where the one before ends, so that the strand goes through.
  const edge = (i: number): number => (i === 0 ? 0 : ((columns[i - 1]?.x ?? 0) + (columns[i]?.x ?? Infinity)) / 2);
  const [x, to] = [edge(at * STRETCH), columns[end] ? edge(end) : columns.at(-1)!.x + WEAVE.step];
  const met = new Map<Crossing, number[]>();
  const here = cells.slice(at * STRETCH, end).filter((cell) => cell !== null);
  for (const { crossing, column } of here) if (crossing) met.set(crossing, [...(met.get(crossing) ?? []), column.x]);
  const shapesOf = (crossing: Crossing): GlyphShape[] =>
    met.has(crossing) ? glyphShapes(crossing, met.get(crossing)!, 'var(--ground)') : [];
  return {
    at,
    x,
    width: to - x,
    shapes: [...met.keys()].filter((crossing) => crossing !== 'missing').flatMap(shapesOf),
    missing: shapesOf('missing'),
    counts: here.flatMap(({ column, count }) => (column.folds && count > 0 ? [{ x: column.x + 14, count }] : [])),
  };
}

function cellOf(row: GridRow, column: DrawnColumn, crossing: Crossing | null, at: number): DrawnCell {
  const count = !crossing ? 0 : column.folds ? metIn(row, column.folds, crossing) : 1;
  const where = column.folds ? `${column.group}, ${count} of ${column.label}` : `${column.group} ${column.label}`;
  const how = crossing ? WORDS[crossing] : 'does not pass';
  return { column, crossing, at, count, words: `${row.segment.name}, ${where}: ${how}` };
}
