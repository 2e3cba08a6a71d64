import { Component, ElementRef, afterRenderEffect, computed, inject, input, viewChild } from '@angular/core';
import type { SegmentMark } from '@iron-lattice/core/lattice';
import { Theme } from '../../shell/theme';
import { WEAVE } from './weave-layout';
import { WeavePainter } from './weave-paint';
import type { WeaveSight } from './weave-sight';
import type { Sheet } from './weave-sheet';

/**
 * The strands, threads and glyphs of a weave, painted on one sheet that reaches a little beyond what is in
 * sight: most of scrolling moves what is painted, and where it does not, only what is new is painted.
 */
@Component({
  selector: 'il-weave-canvas',
  template: `
    @if (drawn().sheet(); as sheet) {
      <canvas
        #canvas
        aria-hidden="true"
        [style.left.px]="measures.names + sheet.x"
        [style.top.px]="measures.head + sheet.y"
        [style.width.px]="sheet.width"
        [style.height.px]="sheet.height"
      ></canvas>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    canvas {
      position: absolute;
      z-index: 1;
      pointer-events: none;
    }
  `,
})
export class WeaveCanvas {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly theme = inject(Theme);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('canvas');
  readonly drawn = input.required<WeaveSight>();
  readonly marks = input.required<ReadonlyMap<string, SegmentMark>>();
  protected readonly measures = WEAVE;

  constructor() {
    afterRenderEffect({ write: () => this.paint() });
  }

  private readonly painter = computed(() => {
    this.theme.name();
    const style = getComputedStyle(this.host.nativeElement);
    const colour = (name: string): string => style.getPropertyValue(name).trim();
    const segment = (number: number): string => colour(`--seg-${number}`);
    const [ground, ink, rule, bad] = ['--ground', '--ink', '--rule', '--bad'].map(colour) as [
      string,
      string,
      string,
      string,
    ];
    return new WeavePainter({ ground, ink, rule, bad, segment }, devicePixelRatio);
  });
  /** What the canvas shows now. */
  private shows: { canvas: HTMLCanvasElement; sheet: Sheet; of: readonly unknown[] } | null = null;

  private paint(): void {
    const [canvas, painting, marks] = [this.canvas()?.nativeElement, this.drawn().painted(), this.marks()];
    if (!canvas || !painting) return;
    const painter = this.painter();
    const { sheet } = painting;
    const of = [painting.layer, marks, painter];
    const kept = this.shows?.canvas === canvas && this.shows.of.every((each, i) => each === of[i]);
    const before = kept ? this.shows!.sheet : null;
    if (before === sheet) return;
    const rows = painting.rows.map((row) => ({ ...row, colour: marks.get(row.row.segment.id)?.colour ?? 0 }));
    painter.paint(canvas, { ...painting, rows }, before);
    this.shows = { canvas, sheet, of };
  }
}
