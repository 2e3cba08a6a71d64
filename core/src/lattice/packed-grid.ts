import type { Crossing, GridColumn, GridRow, LatticeGrid } from './lattice-grid';

/** One letter for each way of crossing, as it travels. */
const LETTERS: Readonly<Record<Crossing, string>> = {
  untagged: 'u',
  tagged: 't',
  asked: 'a',
  tunnel: 'g',
  broadcast: 'b',
  routed: 'r',
  served: 's',
  missing: 'm',
};
const NOWHERE = '.';
const CROSSINGS = new Map(Object.entries(LETTERS).map(([crossing, letter]) => [letter, crossing as Crossing]));

/** A grid as it travels: hundreds of segments over a hundred columns are tens of thousands of cells, each said in a letter. */
export interface PackedGrid {
  readonly columns: readonly GridColumn[];
  /** `cells`: a letter for each column, in their order. */
  readonly rows: readonly { readonly segment: GridRow['segment']; readonly cells: string }[];
}

/** Packs a grid for its way to a page. */
export function packGrid({ columns, rows }: LatticeGrid): PackedGrid {
  const letter = (cells: GridRow['cells'], key: string): string => (cells[key] ? LETTERS[cells[key]] : NOWHERE);
  return {
    columns,
    rows: rows.map(({ segment, cells }) => ({ segment, cells: columns.map(({ key }) => letter(cells, key)).join('') })),
  };
}

/** The grid that was packed. */
export function unpackGrid({ columns, rows }: PackedGrid): LatticeGrid {
  return {
    columns,
    rows: rows.map(({ segment, cells: letters }) => {
      const cells: Record<string, Crossing> = {};
      for (const [i, { key }] of columns.entries()) {
        const crossing = CROSSINGS.get(letters[i]!);
        if (crossing) cells[key] = crossing;
      }
      return { segment, cells, missing: Object.keys(cells).filter((key) => cells[key] === 'missing') };
    }),
  };
}
