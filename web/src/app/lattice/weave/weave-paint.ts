import type { Crossing } from '@iron-lattice/core/lattice';
import { glyphShapes } from './glyph';
import { WEAVE, inSight, type DrawnColumn, type StrandPath } from './weave-layout';
import { newOn, type Sheet } from './weave-sheet';
import type { Met } from './weave-sight';

/** Side of the square a glyph is painted in. */
const GLYPH = 20;

/** Colours as the present theme has them. */
export interface WeaveInk {
  readonly ground: string;
  readonly ink: string;
  readonly rule: string;
  readonly bad: string;
  /** Of segments, by number of the palette. */
  segment(colour: number): string;
}

/** What a sheet shows. */
export interface Painting {
  readonly sheet: Sheet;
  readonly columns: readonly DrawnColumn[];
  readonly rows: readonly {
    readonly at: number;
    /** Number in the palette. */
    readonly colour: number;
    readonly strand: StrandPath;
    readonly met: readonly (Met | null)[];
  }[];
}

/** Paints strands, threads and glyphs on canvases. Glyphs of a kind and colour are drawn once and then stamped. */
export class WeavePainter {
  private readonly stamps = new Map<string, HTMLCanvasElement>();
  private readonly strands = new WeakMap<StrandPath, Record<keyof StrandPath, Path2D>>();
  /** @param scale dots of the screen per pixel. */
  constructor(
    private readonly ink: WeaveInk,
    private readonly scale: number,
  ) {}

  /**
   * Paints one sheet, and makes the canvas as large.
   * @param before the sheet of the same weave that is on the canvas: what both show is moved, not painted anew.
   */
  paint(canvas: HTMLCanvasElement, painting: Painting, before: Sheet | null): void {
    const { sheet } = painting;
    const pen = canvas.getContext('2d');
    if (!pen) return;
    pen.resetTransform();
    const pieces = before && this.move(canvas, pen, sheet, before);
    if (!pieces) {
      // A canvas that is given its size is cleared.
      canvas.width = Math.round(sheet.width * this.scale);
      canvas.height = Math.round(sheet.height * this.scale);
    }
    pen.setTransform(this.scale, 0, 0, this.scale, -sheet.x * this.scale, -sheet.y * this.scale);
    for (const piece of pieces ?? [sheet]) this.paintPiece(pen, piece, painting);
  }

  /** Moves what is painted to where it belongs on the next sheet. @returns what is still to be painted; null: all of it. */
  private move(
    canvas: HTMLCanvasElement,
    pen: CanvasRenderingContext2D,
    sheet: Sheet,
    before: Sheet,
  ): readonly Sheet[] | null {
    const pieces = newOn(sheet, before);
    const [right, down] = [(before.x - sheet.x) * this.scale, (before.y - sheet.y) * this.scale];
    if (!pieces || !Number.isInteger(right) || !Number.isInteger(down)) return null;
    pen.globalCompositeOperation = 'copy';
    pen.drawImage(canvas, right, down);
    pen.globalCompositeOperation = 'source-over';
    return pieces;
  }

  private paintPiece(pen: CanvasRenderingContext2D, piece: Sheet, { columns, rows }: Painting): void {
    pen.save();
    pen.beginPath();
    pen.rect(piece.x, piece.y, piece.width, piece.height);
    pen.clip();
    const [from, to] = inSight(columns, piece.x - WEAVE.step, piece.x + piece.width + WEAVE.step);
    pen.fillStyle = this.ink.rule;
    for (const { x } of columns.slice(from, to)) pen.fillRect(x - 1, piece.y, 2, piece.height);
    pen.lineWidth = 2;
    pen.textAlign = 'right';
    pen.font = "500 10px 'JetBrains Mono', monospace";
    for (const row of rows) {
      const top = row.at * WEAVE.row;
      if (top + WEAVE.row <= piece.y || top >= piece.y + piece.height) continue;
      this.paintRow(pen, top + WEAVE.row / 2, row, columns, [from, to]);
    }
    pen.restore();
  }

  private paintRow(
    pen: CanvasRenderingContext2D,
    y: number,
    row: Painting['rows'][number],
    columns: readonly DrawnColumn[],
    [from, to]: readonly [first: number, end: number],
  ): void {
    const colour = this.ink.segment(row.colour);
    const strand = this.strandOf(row.strand);
    pen.translate(0, y);
    pen.strokeStyle = colour;
    pen.stroke(strand.whole);
    pen.setLineDash([2, 4]);
    pen.stroke(strand.broken);
    pen.setLineDash([]);
    pen.fillStyle = this.ink.ink;
    for (let i = from; i < to; i++) {
      const [met, { x }] = [row.met[i], columns[i]!];
      if (!met) continue;
      const stamp = this.stamp(met.crossing, met.crossing === 'missing' ? this.ink.bad : colour);
      pen.drawImage(stamp, x - GLYPH / 2, -GLYPH / 2, GLYPH, GLYPH);
      if (met.count > 0) pen.fillText(String(met.count), x + 14, 16);
    }
    pen.translate(0, -y);
  }

  private strandOf(strand: StrandPath): Record<keyof StrandPath, Path2D> {
    let known = this.strands.get(strand);
    if (!known) {
      known = { whole: new Path2D(strand.whole), broken: new Path2D(strand.broken) };
      this.strands.set(strand, known);
    }
    return known;
  }

  private stamp(crossing: Crossing, colour: string): HTMLCanvasElement {
    const key = `${crossing} ${colour}`;
    const known = this.stamps.get(key);
    if (known) return known;
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = Math.ceil(GLYPH * this.scale);
    const pen = canvas.getContext('2d')!;
    pen.scale(canvas.width / GLYPH, canvas.width / GLYPH);
    pen.translate(GLYPH / 2, GLYPH / 2);
    pen.lineWidth = 2;
    for (const { d, fill, stroke, dashes } of glyphShapes(crossing, 0, this.ink.ground)) {
      const path = new Path2D(d);
      if (fill !== 'none') {
        pen.fillStyle = fill === 'currentColor' ? colour : fill;
        pen.fill(path);
      }
      if (stroke) {
        pen.strokeStyle = colour;
        pen.setLineDash(dashes?.split(' ').map(Number) ?? []);
        pen.stroke(path);
      }
    }
    this.stamps.set(key, canvas);
    return canvas;
  }
}
