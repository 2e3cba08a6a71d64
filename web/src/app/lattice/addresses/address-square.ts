import { Component, type ElementRef, afterNextRender, computed, inject, input, model, viewChild } from '@angular/core';
import { formatPrefix, type Prefix } from '@iron-lattice/core/address';
import {
  PLAN_SIDE,
  cellAt,
  cellLength,
  outOf,
  planTiles,
  type PlanEntry,
  type PlanTile,
} from '@iron-lattice/core/lattice';
import { pointer, select } from 'd3-selection';
import { zoom, zoomIdentity } from 'd3-zoom';
import { SiteStore } from '../../shell/site-store';

const SIZE = 24;

/** A cell of the square. */
export interface SquareCell {
  readonly column: number;
  readonly row: number;
}

/** A prefix as a square of 256 cells with what lies in them; the wheel, a press or the keyboard go into a cell and out. */
@Component({
  selector: 'il-address-square',
  template: `
    <svg
      #square
      [attr.viewBox]="'0 0 ' + side + ' ' + side"
      role="application"
      tabindex="0"
      aria-label="Blocks of the prefix; arrow keys choose one, Enter goes into it, Backspace out"
      (keydown)="key($event)"
      (pointermove)="at.set(cellUnder($event))"
      (pointerleave)="at.set(null)"
      (click)="at.set(cellUnder($event)); into()"
    >
      <path class="lines" [attr.d]="lines" />
      @for (tile of tiles(); track text(tile.prefix)) {
        <g [attr.transform]="'translate(' + tile.column * size + ' ' + tile.row * size + ')'">
          <rect
            class="tile"
            [class.bad]="tile.overlaps"
            x="1"
            y="1"
            [attr.width]="tile.wide * size - 2"
            [attr.height]="tile.high * size - 2"
            [style.fill]="fill(tile)"
          />
          @if (label(tile); as words) {
            <text x="5" y="15">{{ words }}</text>
          }
          @if (full(tile); as share) {
            <rect
              class="full"
              x="3"
              [attr.y]="tile.high * size - 6"
              height="3"
              [attr.width]="share * (tile.wide * size - 6)"
            />
          }
        </g>
      }
      @if (at(); as cell) {
        <rect
          class="here"
          [attr.x]="cell.column * size"
          [attr.y]="cell.row * size"
          [attr.width]="size"
          [attr.height]="size"
        />
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      max-width: 384px;
    }
    svg {
      width: 100%;
      aspect-ratio: 1;
      display: block;
      cursor: zoom-in;
      outline-offset: 2px;
    }
    .lines {
      stroke: var(--rule);
      fill: none;
    }
    .tile {
      stroke: var(--ground);
      fill-opacity: 0.85;
    }
    .tile.bad {
      stroke: var(--bad);
      stroke-width: 3;
    }
    .here {
      fill: none;
      stroke: var(--ink);
      stroke-width: 2;
    }
    .full {
      fill: var(--ground);
    }
    text {
      font:
        500 11px Barlow,
        sans-serif;
      fill: var(--ground);
      pointer-events: none;
    }
    svg:focus-visible {
      outline: 2px solid var(--iron);
    }
  `,
})
export class AddressSquare {
  private readonly store = inject(SiteStore);
  private readonly square = viewChild.required<ElementRef<SVGSVGElement>>('square');
  readonly entries = input.required<readonly PlanEntry[]>();
  /** The whole that is shown. */
  readonly parent = model.required<Prefix>();
  /** The cell that is pointed at. */
  readonly at = model.required<SquareCell | null>();
  /** What nothing leads out of. */
  readonly root = input.required<Prefix>();

  protected readonly size = SIZE;
  protected readonly side = SIZE * PLAN_SIDE;
  protected readonly text = formatPrefix;
  protected readonly lines = Array.from({ length: PLAN_SIDE + 1 }, (_, i) => {
    const [at, end] = [i * SIZE, SIZE * PLAN_SIDE];
    return `M${at} 0V${end}M0 ${at}H${end}`;
  }).join('');
  protected readonly tiles = computed(() => planTiles(this.parent(), this.entries()));

  constructor() {
    afterNextRender(() => {
      const element = this.square().nativeElement;
      const zoomer = zoom<SVGSVGElement, unknown>()
        .scaleExtent([0.5, 2])
        .filter((event: Event) => event.type === 'wheel' || event.type.startsWith('touch'))
        .on('zoom', (event: { transform: { k: number }; sourceEvent: Event | null }) => {
          if (!event.sourceEvent) return;
          const { k } = event.transform;
          if (k > 0.75 && k < 1.4) return;
          this.at.set(this.cellUnder(event.sourceEvent));
          if (k > 1) this.into();
          else this.out();
          select(element).call((svg) => zoomer.transform(svg, zoomIdentity));
        });
      select(element).call(zoomer).on('dblclick.zoom', null);
    });
  }

  /** Goes into the cell that is pointed at. */
  protected into(): void {
    const cell = this.at();
    const parent = this.parent();
    if (!cell || cellLength(parent) >= (parent.version === 4 ? 30 : 120)) return;
    this.parent.set(cellAt(parent, cell.column, cell.row));
  }

  private out(): void {
    const [parent, root] = [this.parent(), this.root()];
    if (parent.length > root.length) this.parent.set(outOf(parent, root.length));
  }

  protected cellUnder(event: Event): SquareCell {
    const [x, y] = pointer(event, this.square().nativeElement);
    return { column: clamp(Math.floor(x / SIZE)), row: clamp(Math.floor(y / SIZE)) };
  }

  protected key(event: KeyboardEvent): void {
    const { column, row } = this.at() ?? { column: 0, row: 0 };
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (step) this.at.set({ column: clamp(column + step[0]!), row: clamp(row + step[1]!) });
    else if (event.key === 'Enter') this.into();
    else if (event.key === 'Backspace') this.out();
    else return;
    event.preventDefault();
  }

  /** Of a single segment its colour here, of another site's a quiet one. */
  protected fill(tile: PlanTile): string {
    const [first, ...more] = tile.entries;
    const mark = more.length === 0 ? this.store.marks().get(first!.segmentId) : undefined;
    return mark ? `var(--seg-${mark.colour})` : 'var(--soft)';
  }

  protected label(tile: PlanTile): string {
    const [first] = tile.entries;
    const sites = new Set(tile.entries.map((entry) => entry.siteName));
    const name = tile.entries.length === 1 ? first!.name : sites.size === 1 ? first!.siteName : `${sites.size} sites`;
    const room = Math.floor((tile.wide * SIZE - 8) / 6.2);
    if (name.length <= room) return name;
    const mark = tile.entries.length === 1 ? this.store.marks().get(first!.segmentId)?.letter : undefined;
    return mark ?? name.slice(0, Math.max(1, room));
  }

  /** How full a single segment is, 0 to 1. */
  protected full({ entries }: PlanTile): number {
    const [entry, ...more] = entries;
    return more.length > 0 || !entry?.capacity || entry.used === null ? 0 : Math.min(1, entry.used / entry.capacity);
  }
}

const clamp = (n: number): number => Math.min(PLAN_SIDE - 1, Math.max(0, n));
