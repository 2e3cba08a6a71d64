import type { Crossing, GridColumn, GridRow } from '@iron-lattice/core/lattice';

/** Measures of the weave, in pixels. */
export const WEAVE = { step: 30, leastStep: 24, row: 34, head: 146, names: 222, groupGap: 16, letter: 6.4 } as const;

/** A column as drawn: one of the grid's, or a folded switch that stands for all its ports. */
export interface DrawnColumn extends GridColumn {
  /** Middle, from the right edge of the names. */
  readonly x: number;
  /** The columns it stands for, when it is folded. */
  readonly folds?: readonly GridColumn[];
}
export interface DrawnGroup {
  readonly name: string;
  readonly x: number;
  readonly width: number;
  /** Whether its columns can be folded into one, and whether they are. */
  readonly fold: 'none' | 'open' | 'folded';
}
export interface WeaveLayout {
  readonly columns: readonly DrawnColumn[];
  readonly groups: readonly DrawnGroup[];
  /** From middle to middle of neighbours. */
  readonly step: number;
  readonly width: number;
}

/** The groups that can be folded: switches with more than one port in the grid. */
export function foldable(columns: readonly GridColumn[]): string[] {
  const counts = new Map<string, number>();
  for (const { key, group } of columns) if (key.startsWith('port:')) counts.set(group, (counts.get(group) ?? 0) + 1);
  return [...counts].flatMap(([group, count]) => (count > 1 ? [group] : []));
}

/** Groups that are folded at first: with many columns, the switches where nothing is missing. */
export function foldedAtFirst(
  columns: readonly GridColumn[],
  rows: readonly GridRow[],
  most = 60,
): ReadonlySet<string> {
  if (columns.length <= most) return new Set();
  const missing = new Set(rows.flatMap((row) => row.missing));
  const broken = new Set(columns.filter(({ key }) => missing.has(key)).map(({ group }) => group));
  return new Set(foldable(columns).filter((group) => !broken.has(group)));
}

/** Places columns and groups; groups stand a little apart and are at least as wide as their names. */
export function layOut(
  all: readonly GridColumn[],
  folded: ReadonlySet<string>,
  step: number = WEAVE.step,
): WeaveLayout {
  const open = new Set(foldable(all));
  const shown: (GridColumn & { folds?: readonly GridColumn[] })[] = [];
  for (const column of all) {
    if (!folded.has(column.group) || !open.has(column.group)) shown.push(column);
    else if (shown.at(-1)?.group !== column.group) {
      const folds = all.filter(({ group }) => group === column.group);
      shown.push({ key: `fold:${column.group}`, group: column.group, label: `${folds.length} ports`, folds });
    }
  }
  const columns: DrawnColumn[] = [];
  const groups: { name: string; x: number; width: number; fold: DrawnGroup['fold'] }[] = [];
  let x: number = -step / 2;
  for (const column of shown) {
    const group = groups.at(-1);
    if (group?.name === column.group) {
      x += step;
      group.width = Math.max(group.width, x + step / 2 - group.x);
    } else {
      if (group) x = Math.max(x + WEAVE.groupGap, group.x - 2 + group.width + 10 - step / 2);
      x += step;
      const fold = !open.has(column.group) ? 'none' : folded.has(column.group) ? 'folded' : 'open';
      const name = Math.ceil(column.group.length * WEAVE.letter) + (fold === 'none' ? 0 : 16);
      groups.push({ name: column.group, x: x - step / 2 + 2, width: Math.max(step, name), fold });
    }
    columns.push({ ...column, x });
  }
  const last = groups.at(-1);
  return { columns, groups, step, width: Math.max(x + 58, last ? last.x + last.width + 14 : 0) };
}

/** The widest layout that fits a room, or the usual one when none does and it scrolls anyway. */
export function layOutIn(room: number, all: readonly GridColumn[], folded: ReadonlySet<string>): WeaveLayout {
  const usual = layOut(all, folded);
  if (room === 0 || usual.width <= room) return usual;
  for (let step = WEAVE.step - 2; step >= WEAVE.leastStep; step -= 2) {
    const narrow = layOut(all, folded, step);
    if (narrow.width <= room) return narrow;
  }
  return usual;
}

/** How a row passes a drawn column; a folded one shows the worst, else the commonest of its ports. */
export function crossingAt(row: GridRow, { key, folds }: DrawnColumn): Crossing | undefined {
  if (!folds) return row.cells[key];
  let [met, tagged] = [0, 0];
  let first: Crossing | undefined;
  for (const { key: port } of folds) {
    const crossing = row.cells[port];
    if (crossing === 'missing') return 'missing';
    if (!crossing) continue;
    first ??= crossing;
    met++;
    if (crossing === 'tagged') tagged++;
  }
  return met > 0 && tagged * 2 >= met ? 'tagged' : first;
}

/** Whether something can be done where a row meets a column: it passes, or the column is a port and may be made to carry it. */
export const canPress = (row: GridRow, column: DrawnColumn): boolean =>
  column.key.startsWith('port:') || crossingAt(row, column) !== undefined;

/** How many of a folded switch's ports a row passes in one way. */
export const metIn = (row: GridRow, folds: readonly GridColumn[], crossing: Crossing): number =>
  folds.reduce((sum, { key }) => sum + (row.cells[key] === crossing ? 1 : 0), 0);

/** The strand of a row as SVG paths along y = 0; both may be empty. */
export interface StrandPath {
  readonly whole: string;
  /** Beside missing crossings: drawn in dots. */
  readonly broken: string;
}

/** The strand from a row's first crossing to its last. @param crossings how the row passes each column. */
export function strandPath(columns: readonly DrawnColumn[], crossings: readonly (Crossing | undefined)[]): StrandPath {
  const paths = { whole: '', broken: '' };
  let from: { readonly x: number; readonly missing: boolean } | null = null;
  let kind: keyof StrandPath | null = null; // of the stretch that is being drawn
  for (const [i, { x }] of columns.entries()) {
    if (!crossings[i]) continue;
    const missing = crossings[i] === 'missing';
    if (from) {
      const next = from.missing || missing ? 'broken' : 'whole';
      // A stretch goes on in one line: where it ends is written when it is left.
      if (next !== kind) {
        if (kind) paths[kind] += `H${from.x}`;
        paths[next] += `M${from.x} 0`;
        kind = next;
      }
    }
    from = { x, missing };
  }
  if (kind && from) paths[kind] += `H${from.x}`;
  return paths;
}

/** Which of a sorted list of middles lie in sight, with a few more on either side. */
export function inSight(xs: readonly { readonly x: number }[], from: number, to: number): [first: number, end: number] {
  let [low, high] = [0, xs.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (xs[middle]!.x < from) low = middle + 1;
    else high = middle;
  }
  let end = low;
  while (end < xs.length && xs[end]!.x <= to) end++;
  return [Math.max(0, low - 2), Math.min(xs.length, end + 2)];
}
