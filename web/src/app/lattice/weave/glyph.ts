import { Component, computed, input } from '@angular/core';
import type { Crossing } from '@iron-lattice/core/lattice';

/** How a part of a glyph is painted. `ground` hides the strand behind it. */
type Paint = 'solid' | 'ground' | 'box' | 'dashes' | 'line';
interface GlyphPart {
  readonly paint: Paint;
  /** Where its path starts, from the middle of the glyph. */
  readonly from: readonly [x: number, y: number];
  /** The rest of the path, relative. */
  readonly path: string;
}

const GLYPHS: Readonly<Record<Crossing, readonly GlyphPart[]>> = {
  untagged: [{ paint: 'solid', from: [-6, -6], path: 'h12v12h-12z' }],
  tagged: [{ paint: 'box', from: [-5.5, -5.5], path: 'h11v11h-11z' }],
  asked: [
    { paint: 'box', from: [-5.5, -5.5], path: 'h11v11h-11z' },
    { paint: 'solid', from: [-5.5, 5.5], path: 'h11l-11-11z' },
  ],
  tunnel: [
    { paint: 'ground', from: [-8, -4.5], path: 'h16v9h-16z' },
    { paint: 'line', from: [-8, -4.5], path: 'h16m0 9h-16' },
  ],
  broadcast: [
    { paint: 'ground', from: [-8, -5], path: 'h16v10h-16z' },
    { paint: 'line', from: [-7.5, 0.5], path: 'a8.5 8.5 0 0 1 15 0' },
    { paint: 'solid', from: [-2.6, 2], path: 'a2.6 2.6 0 1 0 5.2 0a2.6 2.6 0 1 0-5.2 0z' },
  ],
  routed: [{ paint: 'solid', from: [0, -8], path: 'l8 8-8 8-8-8z' }],
  served: [{ paint: 'solid', from: [-3, -7], path: 'h6v14h-6z' }],
  missing: [
    { paint: 'dashes', from: [-8.5, -8.5], path: 'h17v17h-17z' },
    { paint: 'line', from: [-3.5, -3.5], path: 'l7 7m0-7-7 7' },
  ],
};
const PAINTS: Readonly<Record<Paint, Omit<GlyphShape, 'd'>>> = {
  solid: { fill: 'currentColor', stroke: null, dashes: null },
  ground: { fill: 'ground', stroke: null, dashes: null },
  box: { fill: 'ground', stroke: 'currentColor', dashes: null },
  dashes: { fill: 'ground', stroke: 'currentColor', dashes: '3 2' },
  line: { fill: 'none', stroke: 'currentColor', dashes: null },
};

/** A path that draws a part of a glyph; its stroke is 2 wide. */
export interface GlyphShape {
  readonly d: string;
  readonly fill: string;
  readonly stroke: string | null;
  readonly dashes: string | null;
}

/**
 * Draws the glyph of a crossing at y = 0.
 * @param x its middle.
 * @param ground colour of the paper, so that strands do not show through.
 */
export function glyphShapes(crossing: Crossing, x: number, ground: string): GlyphShape[] {
  return GLYPHS[crossing].map(({ paint, from, path }) => {
    const { fill, stroke, dashes } = PAINTS[paint];
    return { d: `M${x + from[0]} ${from[1]}${path}`, fill: fill === 'ground' ? ground : fill, stroke, dashes };
  });
}

/** The glyph of a crossing, in the present colour. */
@Component({
  selector: 'svg[il-glyph]', // eslint-disable-line @angular-eslint/component-selector
  template: `
    @for (shape of shapes(); track $index) {
      <svg:path
        stroke-width="2"
        [attr.d]="shape.d"
        [attr.fill]="shape.fill"
        [attr.stroke]="shape.stroke"
        [attr.stroke-dasharray]="shape.dashes"
      />
    }
  `,
  host: { viewBox: '-10 -10 20 20', 'aria-hidden': 'true' },
})
export class Glyph {
  readonly crossing = input.required<Crossing>();
  protected readonly shapes = computed(() => glyphShapes(this.crossing(), 0, 'var(--ground)'));
}
