import {
  Component,
  DestroyRef,
  type ElementRef,
  afterNextRender,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { HeardChannel } from '@iron-lattice/core/line';
import type { AirNetwork, BlockCost, Stretch } from '@iron-lattice/core/wireless';
import { select } from 'd3-selection';
import { zoom, zoomIdentity, type ZoomTransform } from 'd3-zoom';
import { Theme } from '../shell/theme';
import {
  AXIS_HEIGHT,
  BUSY_HEIGHT,
  FLOOR_DBM,
  drawingOrder,
  networkAt,
  paintFoot,
  paintNetworks,
  TOP_DBM,
  type SpectrumInks,
  type SpectrumScales,
  type SpectrumScene,
} from './spectrum-paint';

/** Height of a row of channels of one width, in pixels. */
const ROW = 22;
/** How far a press of a key moves the drawing, in pixels, and how much it widens it. */
const [STEP, WIDEN] = [60, 1.4];

/** A block as it stands in the drawing. */
interface DrawnBlock {
  readonly cost: BlockCost;
  readonly key: string;
  readonly left: number;
  readonly width: number;
  readonly y: number;
  readonly words: string;
  readonly label: string;
  readonly now: boolean;
  readonly best: boolean;
}

/** Networks over their frequencies, to scale, how busy each channel is, and what every channel and block would cost. */
@Component({
  selector: 'il-spectrum',
  imports: [MatButtonModule],
  template: `
    <div class="bar">
      <span class="soft" role="status">{{ pointed() }}</span>
      <span class="grow"></span>
      <button mat-button type="button" (click)="widen(1.4)" aria-label="Draw it wider">+</button>
      <button mat-button type="button" (click)="widen(1 / 1.4)" aria-label="Draw it narrower">−</button>
      <button mat-button type="button" (click)="fit()">Whole band</button>
    </div>
    <div class="drawing" #frame>
      <canvas
        #canvas
        tabindex="0"
        role="img"
        [attr.aria-label]="label()"
        [style.height.px]="height()"
        (pointermove)="point($event)"
        (pointerleave)="under.set(null)"
        (click)="press($event)"
        (keydown)="onKey($event)"
      ></canvas>
      @if (blocks().length > 0) {
        <svg [attr.height]="rows().length * 22 + 4" role="group" aria-label="Channels and what they would cost">
          @for (block of drawn(); track block.key) {
            <g
              class="block"
              role="button"
              tabindex="0"
              [class.free]="block.cost.free"
              [class.now]="block.now"
              [class.best]="block.best"
              [attr.aria-label]="block.words"
              [attr.transform]="'translate(' + block.left + ' ' + block.y + ')'"
              (click)="take.emit(block.cost)"
              (keydown.enter)="take.emit(block.cost)"
              (mouseenter)="said.set(block.words)"
              (mouseleave)="said.set('')"
            >
              <title>{{ block.words }}</title>
              <rect [attr.width]="block.width" height="19" />
              <rect class="cost" [attr.width]="block.width * block.cost.cost" height="19" />
              <text [attr.x]="block.width / 2" y="13" text-anchor="middle">{{ block.label }}</text>
            </g>
          }
        </svg>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .bar {
      display: flex;
      align-items: center;
      gap: 4px;
      padding: 0 14px;
      min-height: 34px;
    }
    .drawing {
      padding: 0 14px;
      overflow: hidden;
    }
    canvas {
      width: 100%;
      display: block;
      cursor: grab;
      touch-action: pan-y;
    }
    svg {
      width: 100%;
      display: block;
      user-select: none;
    }
    .block {
      cursor: pointer;
      outline: none;
    }
    .block rect {
      fill: var(--sheet);
      stroke: var(--rule);
    }
    .block.free rect:first-of-type {
      stroke: var(--strong);
    }
    .block .cost {
      fill: var(--soft);
      fill-opacity: 0.28;
      stroke: none;
    }
    .block text {
      font:
        500 10px 'JetBrains Mono',
        monospace;
      fill: var(--soft);
    }
    .block.free text {
      fill: var(--ink);
    }
    .block.best rect:first-of-type {
      stroke: var(--good);
      stroke-width: 2.5;
    }
    .block.now rect:first-of-type {
      stroke: var(--iron);
      stroke-width: 2.5;
      stroke-dasharray: none;
    }
    .block:not(.free) rect:first-of-type {
      stroke-dasharray: 2 3;
    }
    .block:focus-visible rect:first-of-type {
      stroke: var(--iron);
      stroke-width: 2.5;
      stroke-dasharray: 3 2;
    }
  `,
})
export class Spectrum {
  readonly networks = input.required<readonly AirNetwork[]>();
  readonly channels = input.required<readonly HeardChannel[]>();
  /** Blocks of the radio that is chosen; none: no radio is. */
  readonly blocks = input<readonly BlockCost[]>([]);
  /** Where the radio is said to send: number of the middle, and width. */
  readonly now = input<{ readonly centre: number; readonly width: number } | null>(null);
  readonly best = input<BlockCost | null>(null);
  readonly span = input.required<Stretch>();
  /** BSSID of the network that is chosen. */
  readonly chosen = input<string | null>(null);
  readonly choose = output<AirNetwork>();
  readonly take = output<BlockCost>();
  readonly height = input(250);

  private readonly theme = inject(Theme);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly wide = signal(0);
  private readonly transform = signal<ZoomTransform>(zoomIdentity);
  protected readonly under = signal<AirNetwork | null>(null);
  /** What is said of a block that is pointed at. */
  protected readonly said = signal('');
  private readonly zoomer = zoom<HTMLCanvasElement, unknown>()
    .scaleExtent([1, 40])
    .on('zoom', ({ transform }: { transform: ZoomTransform }) => this.transform.set(transform));

  private readonly scales = computed((): SpectrumScales => {
    const [width, [low, high], transform] = [this.wide(), this.span(), this.transform()];
    const tall = this.height() - BUSY_HEIGHT - AXIS_HEIGHT - 6;
    return {
      width,
      height: tall,
      x: (mhz) => transform.applyX(((mhz - low) / (high - low)) * width),
      y: (dbm) => ((TOP_DBM - Math.max(FLOOR_DBM, Math.min(TOP_DBM, dbm))) / (TOP_DBM - FLOOR_DBM)) * (tall - 14) + 12,
    };
  });
  private readonly ordered = computed(() => drawingOrder(this.networks(), this.chosen()));
  private readonly scene = computed((): SpectrumScene => ({
    ...this.ordered(),
    channels: this.channels(),
    chosen: this.chosen(),
  }));
  protected readonly label = computed(() => {
    const networks = this.networks();
    const ours = networks.filter(({ sentBy }) => sentBy !== null).length;
    return `Networks over frequency: ${ours} of ours, ${networks.length - ours} of strangers. Arrow keys move it, plus and minus widen it.`;
  });
  protected readonly pointed = computed(() => {
    const network = this.under() ?? this.networks().find(({ bssid }) => bssid === this.chosen());
    return (
      this.said() ||
      (network
        ? networkWords(network)
        : 'Ours are filled, strangers dashed; the bars below say how busy each channel is.')
    );
  });
  protected readonly rows = computed(() => [...new Set(this.blocks().map(({ width }) => width))]);
  protected readonly drawn = computed((): DrawnBlock[] => {
    const [{ x, width }, rows, now, best] = [this.scales(), this.rows(), this.now(), this.best()];
    return this.blocks().flatMap((cost): DrawnBlock[] => {
      const { block, width: wide } = cost;
      // At 2.4 GHz channels are closer together than they are wide: they are drawn as far as the next begins.
      const half = cost.band === '2.4' ? 2.5 : wide / 2;
      const [left, right] = [x(block.centreMhz - half), x(block.centreMhz + half)];
      if (right < 0 || left > width) return [];
      const named = cost.band === '2.4' && wide === 40 ? block.members.join('+') : `${cost.channel}`;
      const label = right - left > 58 ? `${named} · ${Math.round(cost.cost * 100)} %` : right - left > 22 ? named : '';
      return [
        {
          cost,
          key: `${wide} ${block.centre}`,
          left: left + 1,
          width: Math.max(2, right - left - 2),
          y: rows.indexOf(wide) * ROW + 2,
          words: blockWords(cost),
          label,
          now: now?.centre === block.centre && now.width === wide,
          best: best === cost,
        },
      ];
    });
  });

  constructor() {
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const canvas = this.canvas().nativeElement;
      const watch = new ResizeObserver(([entry]) => this.wide.set(Math.floor(entry!.contentRect.width)));
      watch.observe(canvas);
      destroy.onDestroy(() => watch.disconnect());
      select(canvas).call(this.zoomer).on('dblclick.zoom', null);
    });
    effect(() => {
      const wide = this.wide();
      if (wide > 0)
        this.zoomer
          .translateExtent([
            [0, 0],
            [wide, this.height()],
          ])
          .extent([
            [0, 0],
            [wide, this.height()],
          ]);
    });
    let frame = 0;
    effect(() => {
      this.theme.name();
      const [scene, scales] = [this.scene(), this.scales()];
      if (scales.width === 0) return;
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => this.paint(scene, scales));
    });
    destroy.onDestroy(() => cancelAnimationFrame(frame));
    // Another band begins as a whole.
    effect(() => {
      this.span();
      this.fit();
    });
  }

  protected fit(): void {
    const canvas = this.canvas().nativeElement;
    select(canvas).call((each) => this.zoomer.transform(each, zoomIdentity));
  }

  protected widen(by: number): void {
    select(this.canvas().nativeElement).call((each) => this.zoomer.scaleBy(each, by));
  }

  protected onKey(event: KeyboardEvent): void {
    const selection = select(this.canvas().nativeElement);
    const by = { ArrowLeft: STEP, ArrowRight: -STEP }[event.key];
    const wider = { '+': WIDEN, '=': WIDEN, '-': 1 / WIDEN }[event.key];
    if (by !== undefined) selection.call((each) => this.zoomer.translateBy(each, by / this.transform().k, 0));
    else if (wider !== undefined) this.widen(wider);
    else if (event.key === '0') this.fit();
    else return;
    event.preventDefault();
  }

  protected point(event: PointerEvent): void {
    this.under.set(this.networkUnder(event));
  }

  protected press(event: MouseEvent): void {
    const network = this.networkUnder(event);
    if (network) this.choose.emit(network);
  }

  private networkUnder({ offsetX, offsetY }: MouseEvent): AirNetwork | null {
    const { width, height } = this.scales();
    if (width === 0 || offsetY > height) return null;
    const [low, high] = this.span();
    const mhz = low + (this.transform().invertX(offsetX) / width) * (high - low);
    const dbm = TOP_DBM - ((offsetY - 12) / (height - 14)) * (TOP_DBM - FLOOR_DBM);
    return networkAt(this.scene(), mhz, dbm);
  }

  private paint(scene: SpectrumScene, scales: SpectrumScales): void {
    const canvas = this.canvas().nativeElement;
    const ratio = devicePixelRatio || 1;
    const [width, height] = [scales.width * ratio, this.height() * ratio];
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
    const context = canvas.getContext('2d')!;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, scales.width, this.height());
    const inks = inksOf(canvas);
    paintNetworks(context, scene, scales, inks);
    paintFoot(context, scene, scales, inks, scales.height + 6);
  }
}

function inksOf(element: Element): SpectrumInks {
  const style = getComputedStyle(element);
  const of = (name: string): string => style.getPropertyValue(`--${name}`).trim();
  return {
    ours: of('good'),
    stranger: of('info'),
    alarm: of('bad'),
    ink: of('ink'),
    soft: of('soft'),
    rule: of('rule'),
    ground: of('ground'),
  };
}

/** A network in words. */
export function networkWords({ ssid, sentBy, channel, width, security, heardBy, lookalike }: AirNetwork): string {
  const [loudest] = heardBy;
  const name = ssid === '' ? 'A network that says no name' : ssid;
  const whose = sentBy !== null ? ` of ${sentBy}` : lookalike ? ', which is not ours' : '';
  return `${name}${whose} · ${channel} at ${width} MHz · ${loudest?.signal} dBm at ${loudest?.name} · ${security}`;
}

function blockWords({ block, channel, width, cost, speed, free }: BlockCost): string {
  const radar = block.duty.radar ? `, listens for radar ${block.duty.listenSeconds} s first` : '';
  const why = free ? '' : ', not among those that the site says here';
  return `${channel} at ${width} MHz: others take ${Math.round(cost * 100)} %, ${Math.round(speed)} Mb/s for a client in the middle${radar}${why}`;
}
