import type { GridColumn, GridRow, SegmentMark } from '@iron-lattice/core/lattice';
import { glyphShapes } from './glyph';
import { WEAVE, crossingAt, layOut, strandPath } from './weave-layout';

/** Colours of a drawing on paper, whatever theme the screen has. */
const INK = { ground: '#ffffff', ink: '#22272b', soft: '#5b646b', rule: '#d8d3c8', bad: '#b3204d' } as const;

/**
 * The whole weave as one SVG document, for print and for files: every row and column, folded ones as they are.
 * @param colours of segments, by number of the palette.
 */
export function weaveSvg(
  title: string,
  all: readonly GridColumn[],
  rows: readonly GridRow[],
  marks: ReadonlyMap<string, SegmentMark>,
  colours: readonly string[],
  folded: ReadonlySet<string>,
): string {
  const { columns, groups, width } = layOut(all, folded);
  const [left, top] = [WEAVE.names, WEAVE.head + 30];
  const height = top + rows.length * WEAVE.row + 20;
  const text = (x: number, y: number, words: string, more = ''): string =>
    `<text x="${x}" y="${y}" ${more}>${escape(words)}</text>`;
  const parts = [
    text(14, 24, title, 'font-size="16" font-weight="600"'),
    ...groups.flatMap(({ name, x, width: wide }) => [
      text(left + x, 48, name, 'font-weight="600"'),
      `<path d="M${left + x} 53h${wide}" stroke="${INK.ink}" stroke-width="2"/>`,
    ]),
    ...columns.flatMap(({ x, label }) => [
      `<g transform="translate(${left + x + 4} ${top - 6}) rotate(-60)">${text(0, 0, label, `fill="${INK.soft}"`)}</g>`,
      `<path d="M${left + x} ${top}V${height - 16}" stroke="${INK.rule}" stroke-width="2"/>`,
    ]),
    ...rows.flatMap((row, i) => {
      const y = top + i * WEAVE.row + WEAVE.row / 2;
      const mark = marks.get(row.segment.id);
      const colour = colours[mark?.colour ?? 0] ?? INK.ink;
      const crossings = columns.map((column) => crossingAt(row, column));
      const strand = strandPath(columns, crossings);
      return [
        `<rect x="14" y="${y - 9}" width="18" height="18" fill="${colour}"/>`,
        text(23, y + 4, mark?.letter ?? '', 'fill="#fff" text-anchor="middle" font-weight="600"'),
        text(42, y - 1, row.segment.name, 'font-weight="500"'),
        text(
          42,
          y + 12,
          row.segment.off ? 'switched off' : row.segment.subnet,
          `fill="${INK.soft}" font-size="11" font-family="JetBrains Mono, monospace"`,
        ),
        text(left - 16, y + 4, String(row.segment.vlan), 'text-anchor="end" font-weight="600"'),
        `<g transform="translate(${left} ${y})" stroke="${colour}" stroke-width="2">`,
        `<path d="${strand.whole}"/><path d="${strand.broken}" stroke-dasharray="2 4"/></g>`,
        ...columns.flatMap((column, at) => {
          const crossing = crossings[at];
          if (!crossing) return [];
          const own = crossing === 'missing' ? INK.bad : colour;
          return [
            `<g transform="translate(${left} ${y})" color="${own}" stroke-width="2">`,
            ...glyphShapes(crossing, column.x, INK.ground).map(
              ({ d, fill, stroke, dashes }) =>
                `<path d="${d}" fill="${fill}" stroke="${stroke ?? 'none'}" stroke-dasharray="${dashes ?? 'none'}"/>`,
            ),
            '</g>',
          ];
        }),
      ];
    }),
  ];
  const size = `width="${left + width}" height="${height}" viewBox="0 0 ${left + width} ${height}"`;
  return `<svg xmlns="http://www.w3.org/2000/svg" ${size} font-family="Barlow, sans-serif" font-size="12" fill="${INK.ink}">
<rect width="100%" height="100%" fill="${INK.ground}"/>
${parts.join('\n')}
</svg>
`;
}

const escape = (text: string): string =>
  text.replace(/[&<>"]/g, (char) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[char]!);
