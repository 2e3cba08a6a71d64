import { contains, parsePrefix, prefixOf, type Prefix } from '../address';
import type { PlanEntry } from './address-plan';

/** Cells a side of the drawn square; a square shows a prefix in 256 equal parts, eight bits at a time. */
export const PLAN_SIDE = 16;
const BITS = 8;

/** Entries as a rectangle of cells: a prefix of at least a cell, or a cell with what lies in it. */
export interface PlanTile {
  readonly prefix: Prefix;
  readonly entries: readonly PlanEntry[];
  /** In cells, from the upper left; aligned blocks are rectangles when cells run row by row. */
  readonly column: number;
  readonly row: number;
  readonly wide: number;
  readonly high: number;
  /** Another tile shares its addresses. */
  readonly overlaps: boolean;
}

/** Length of the cells of a drawn prefix. */
export function cellLength(parent: Prefix): number {
  return Math.min(parent.length + BITS, parent.version === 4 ? 32 : 128);
}

/** The cell or block of cells that a prefix fills in a drawn parent. */
function rectangleOf(parent: Prefix, prefix: Prefix): Pick<PlanTile, 'column' | 'row' | 'wide' | 'high'> {
  const length = cellLength(parent);
  const width = parent.version === 4 ? 32 : 128;
  const first = Number((prefix.network - parent.network) >> BigInt(width - length));
  const count = 2 ** Math.max(0, length - prefix.length);
  const [column, row] = [first % PLAN_SIDE, Math.floor(first / PLAN_SIDE)];
  return { column, row, wide: Math.min(count, PLAN_SIDE), high: Math.max(1, Math.ceil(count / PLAN_SIDE)) };
}

/** What fills a drawn prefix: larger prefixes as they are, smaller ones gathered in the cell they lie in. */
export function planTiles(parent: Prefix, entries: readonly PlanEntry[]): PlanTile[] {
  const length = cellLength(parent);
  const tiles = new Map<string, { prefix: Prefix; entries: PlanEntry[] }>();
  for (const entry of entries) {
    const own = parsePrefix(entry.prefix)!;
    if (!contains(parent, own)) continue;
    const prefix = own.length <= length ? own : prefixOf({ version: own.version, value: own.network }, length);
    const key = `${prefix.network}/${prefix.length}`;
    const known = tiles.get(key) ?? { prefix, entries: [] };
    known.entries.push(entry);
    tiles.set(key, known);
  }
  const all = [...tiles.values()];
  return all
    .map((tile) => ({
      ...tile,
      ...rectangleOf(parent, tile.prefix),
      overlaps:
        all.some(
          (other) => other !== tile && (contains(other.prefix, tile.prefix) || contains(tile.prefix, other.prefix)),
        ) ||
        (tile.entries.length > 1 && tile.entries.every((each) => parsePrefix(each.prefix)!.length <= length)),
    }))
    .sort((a, b) => a.prefix.length - b.prefix.length || (a.prefix.network < b.prefix.network ? -1 : 1));
}

/** The prefix that a cell of a drawn parent stands for. */
export function cellAt(parent: Prefix, column: number, row: number): Prefix {
  const length = cellLength(parent);
  const width = parent.version === 4 ? 32 : 128;
  const network = parent.network + (BigInt(row * PLAN_SIDE + column) << BigInt(width - length));
  return { version: parent.version, network, length };
}

/** The prefix around a drawn one that shows it as one of its cells; the widest there is when it is near the top. */
export const outOf = (parent: Prefix, least = 0): Prefix =>
  prefixOf({ version: parent.version, value: parent.network }, Math.max(least, parent.length - BITS));
