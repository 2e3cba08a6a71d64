import {
  Component,
  type ElementRef,
  Injector,
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
import type { Link, LinkEnd } from '@iron-lattice/core/intent';
import { cableKey } from '@iron-lattice/core/lattice';
import { select } from 'd3-selection';
import { zoom, zoomIdentity, type ZoomBehavior } from 'd3-zoom';
import { SiteStore } from '../../shell/site-store';
import { BOX, layCabling, type CablingNode, type Placed } from './cabling-layout';
import { LatticeWork } from '../facts/lattice-work';

/** What a hand that presses may move, in pixels. */
const SLACK = 4;
/** Room for the words beside the outermost cable. */
const FACTS = 50;

interface Cable {
  readonly key: string;
  readonly link: Link;
  readonly from: CablingNode;
  readonly to: CablingNode;
  /** How the chosen segment passes: along it, stopping at it, or not at all. */
  readonly lit: 'lit' | 'inside' | 'gap' | '';
  readonly words: string;
  readonly facts: string;
}

/** The cables of a site as its devices report them; a segment's strand lit through them. */
@Component({
  selector: 'il-cabling-view',
  imports: [MatButtonModule],
  template: `
    <div class="bar">
      <span class="soft">Light a segment:</span>
      <div class="choices" role="group" aria-label="Light a segment">
        <button type="button" [attr.aria-pressed]="segmentId() === null" (click)="lit.emit(null)">None</button>
        @for (segment of store.site()?.segments; track segment.id) {
          <button type="button" [attr.aria-pressed]="segmentId() === segment.id" (click)="lit.emit(segment.id)">
            {{ segment.name }}
          </button>
        }
      </div>
      @if (segmentId() !== null && !choosing()) {
        <button mat-button (click)="choose.emit()">What gives its addresses</button>
      }
      <span class="grow"></span>
      <button mat-button (click)="fit()">Fit</button>
      <button mat-button [disabled]="!dragged()" (click)="reset()">As computed</button>
    </div>
    <svg #drawing role="group" aria-label="Cabling of the site">
      <g [attr.transform]="view()">
        @for (cable of cables(); track cable.key) {
          <g class="cable" [class]="cable.lit" [class.radio]="cable.link.hangs" [style.color]="colour()">
            <path [attr.d]="path(cable)" />
            <text [attr.x]="endAt(cable, 'from').x" [attr.y]="endAt(cable, 'from').y">{{ portOf(cable, 'from') }}</text>
            <text [attr.x]="endAt(cable, 'to').x" [attr.y]="endAt(cable, 'to').y">{{ portOf(cable, 'to') }}</text>
            <text class="facts" [attr.x]="factsAt(cable).x" [attr.y]="factsAt(cable).y">
              {{ cable.facts }}
            </text>
            <path
              class="hit"
              tabindex="0"
              role="button"
              [attr.aria-label]="cable.words"
              [attr.d]="path(cable)"
              (click)="openPort(cable)"
              (keydown.enter)="openPort(cable)"
            >
              <title>{{ cable.words }}</title>
            </path>
          </g>
        }
        @for (node of nodes(); track node.id) {
          <g
            class="node"
            [class.choosable]="choosing()"
            tabindex="0"
            role="img"
            [class.out]="segmentId() !== null && !carrying().has(node.id) && !serving().has(node.id)"
            [attr.aria-label]="said(node)"
            [attr.transform]="'translate(' + node.x + ' ' + node.y + ')'"
            (pointerdown)="grab(node, $event)"
            (pointermove)="drag($event)"
            (pointerup)="drop(node)"
            (keydown)="nudge(node, $event)"
            (keydown.enter)="press(node)"
          >
            @switch (node.kind) {
              @case ('gateway') {
                <path
                  [attr.d]="
                    'M' +
                    -half +
                    ' 0 ' +
                    (8 - half) +
                    ' -14H' +
                    (half - 8) +
                    'L' +
                    half +
                    ' 0 ' +
                    (half - 8) +
                    ' 14H' +
                    (8 - half) +
                    'Z'
                  "
                />
              }
              @case ('switch') {
                <rect [attr.x]="-half" y="-14" [attr.width]="half * 2" height="28" />
              }
              @case ('ap') {
                <rect [attr.x]="-half" y="-12" [attr.width]="half * 2" height="24" rx="12" />
              }
            }
            <text y="4" text-anchor="middle">{{ node.name }}</text>
            @if (segmentId() !== null && serving().has(node.id)) {
              <path class="gives" d="M-28 9.5H28" [style.stroke]="colour()" />
            }
          </g>
        }
      </g>
    </svg>
    @if (nodes().length === 0) {
      <p class="soft calm">
        No device here yet. Claimed devices report their neighbours, and the drawing makes itself.
      </p>
    }
    <p class="soft foot">{{ note() }}</p>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      align-items: center;
      gap: 8px;
      padding: 0 14px 8px;
      flex-wrap: wrap;
      flex: none;
    }
    .choices {
      flex-wrap: wrap;
    }
    svg {
      flex: 1;
      min-height: 0;
      width: 100%;
      cursor: grab;
      touch-action: none;
    }
    .foot,
    .calm {
      padding: 4px 14px 8px;
      flex: none;
    }
    .node {
      cursor: move;
      outline: none;
    }
    .node rect,
    .node path {
      fill: var(--sheet);
      stroke: var(--ink);
    }
    .node .gives {
      stroke-width: 4;
    }
    .node.choosable {
      cursor: pointer;
    }
    .node.out {
      opacity: 0.4;
    }
    .node:focus-visible rect,
    .node:focus-visible path {
      stroke: var(--iron);
      stroke-width: 2;
    }
    .node text {
      font:
        500 11px 'JetBrains Mono',
        monospace;
      fill: var(--ink);
      pointer-events: none;
    }
    .cable path {
      fill: none;
      stroke: var(--strong);
      stroke-width: 1.2;
    }
    .cable.radio > path:first-child {
      stroke-dasharray: 2 4;
    }
    .cable.lit > path:first-child {
      stroke: currentColor;
      stroke-width: 3;
    }
    .cable.inside > path:first-child {
      stroke: currentColor;
      stroke-width: 3;
      stroke-dasharray: 9 4;
    }
    .cable.gap > path:first-child {
      stroke: var(--bad);
      stroke-width: 2.5;
      stroke-dasharray: 3 5;
    }
    .cable path.hit {
      stroke: transparent;
      stroke-width: 12;
      cursor: pointer;
      outline: none;
    }
    .cable path.hit:focus-visible {
      stroke: var(--tint);
    }
    .cable text {
      font:
        400 10px 'JetBrains Mono',
        monospace;
      fill: var(--soft);
      text-anchor: middle;
    }
    .cable text.facts {
      text-anchor: start;
    }
  `,
})
export class CablingView {
  protected readonly store = inject(SiteStore);
  private readonly drawing = viewChild.required<ElementRef<SVGSVGElement>>('drawing');
  readonly segmentId = input<string | null>(null);
  /** Boxes that give the lit segment's addresses. */
  readonly serving = input<ReadonlySet<string>>(new Set());
  /** Whether a press of a box chooses it. */
  readonly choosing = input(false);
  readonly lit = output<string | null>();
  readonly choose = output<void>();
  /** Id of the box that was pressed. */
  readonly box = output<string>();
  readonly port = output<LinkEnd>();

  protected readonly half = BOX.width / 2;
  protected readonly words = { gateway: 'gateway', switch: 'switch', ap: 'AP' } as const;
  protected readonly view = signal('');
  /** Where devices were dragged, kept in this browser by site. */
  private readonly placed = signal<Placed>({});
  protected readonly dragged = computed(() => Object.keys(this.placed()).length > 0);
  private held: {
    readonly id: string;
    readonly dx: number;
    readonly dy: number;
    readonly x: number;
    readonly y: number;
    moved: boolean;
  } | null = null;
  private readonly injector = inject(Injector);
  private zoomer: ZoomBehavior<SVGSVGElement, unknown> | null = null;
  private scale = 1;

  /** Cables as the draft would have them used, and links by radio. */
  private readonly links = computed(() => {
    const data = this.store.data();
    return data?.consequences.links ?? data?.links ?? [];
  });
  protected readonly nodes = computed(() => {
    const data = this.store.data();
    return data ? layCabling(data.roster, this.links(), this.placed()) : [];
  });
  /** What the chosen segment runs through, and where it stops. */
  private readonly strand = inject(LatticeWork).answer<'strand'>(() => {
    const segmentId = this.segmentId();
    return segmentId === null ? null : { kind: 'strand', segmentId };
  });
  protected readonly carrying = computed(() => new Set(this.strand()?.devices));
  protected readonly colour = computed(
    () => `var(--seg-${this.store.marks().get(this.segmentId() ?? '')?.colour ?? 0})`,
  );
  protected readonly cables = computed((): Cable[] => {
    const nodes = new Map(this.nodes().map((node) => [node.id, node]));
    const views = new Map(this.store.devices().map((device) => [device.id, device]));
    const [through, gaps] = [new Set(this.strand()?.cables), new Set(this.strand()?.gaps)];
    const tunnelled = new Set(this.strand()?.tunnelled);
    return this.links().flatMap((link): Cable[] => {
      const [from, to] = [nodes.get(link.a.deviceId), nodes.get(link.b.deviceId)];
      if (!from || !to) return [];
      const key = cableKey(link.a, link.b);
      const broken = [link.a, link.b].some((end) => gaps.has(`${end.deviceId} ${end.port}`));
      const facts = [link.a, link.b].map((end) =>
        views.get(end.deviceId)?.portFacts.find((each) => each.port === end.port),
      );
      const speed = Math.min(...facts.map((fact) => fact?.speed ?? Infinity));
      const watts = facts.reduce((sum, fact) => sum + (fact?.watts ?? 0), 0);
      const said = [
        ...(Number.isFinite(speed) ? [speed >= 1000 ? `${speed / 1000} Gb/s` : `${speed} Mb/s`] : []),
        ...(watts > 0 ? [`${watts.toFixed(1)} W`] : []),
      ].join(' ');
      const ends = link.hangs
        ? `${from.name} to ${to.name} by radio`
        : `${from.name} port ${link.a.port} to ${to.name} port ${link.b.port}`;
      const lit = broken ? 'gap' : through.has(key) ? 'lit' : tunnelled.has(key) ? 'inside' : '';
      const only = link.only ? '; only one end reports it' : '';
      return [
        {
          key,
          link,
          from,
          to,
          lit,
          facts: link.hangs ? 'by radio' : said,
          words: `${ends}${said ? `, ${said}` : ''}${broken ? ', stops here' : ''}${lit === 'inside' ? ', in a tunnel' : ''}${only}`,
        },
      ];
    });
  });
  protected readonly note = computed(() => {
    const [devices, all] = [this.nodes().length, this.cables()];
    const byRadio = all.filter(({ link }) => link.hangs).length;
    const hung = byRadio > 0 ? `, ${byRadio} by radio as the draft has it` : '';
    const gives = this.segmentId() !== null && this.serving().size > 0 ? ' What has a bar gives its addresses.' : '';
    return `${devices} devices, ${all.length - byRadio} cables, as they report each other${hung}. Drag a device to place it; press a cable for its port.${gives}`;
  });

  constructor() {
    effect(() => {
      const siteId = this.store.siteId();
      this.placed.set(readPlaced(siteId));
    });
    effect(() => {
      this.choosing(); // a sheet comes or goes below
      afterNextRender(() => this.fit(), { injector: this.injector });
    });
    afterNextRender(() => {
      const svg = select(this.drawing().nativeElement);
      this.zoomer = zoom<SVGSVGElement, unknown>()
        .scaleExtent([0.15, 3])
        .filter((event: Event) => !(event.target as Element).closest('.node') || event.type === 'wheel')
        .on('zoom', ({ transform }: { transform: { k: number; toString(): string } }) => {
          this.scale = transform.k;
          this.view.set(transform.toString());
        });
      svg.call(this.zoomer).on('dblclick.zoom', null);
      this.fit();
    });
  }

  /** Brings the whole drawing into sight. */
  protected fit(): void {
    const nodes = this.nodes();
    const { clientWidth: width, clientHeight: height } = this.drawing().nativeElement;
    if (!this.zoomer || nodes.length === 0 || width === 0) return;
    const [xs, ys] = [nodes.map((node) => node.x), nodes.map((node) => node.y)];
    // What is said of a cable stands right of it and may reach beyond its box.
    const [left, right] = [Math.min(...xs), Math.max(...xs) + FACTS];
    const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
    const scale = Math.min(1.4, width / (right - left + BOX.width + 40), height / (bottom - top + BOX.height + 50));
    const middle = zoomIdentity
      .translate(width / 2, height / 2)
      .scale(scale)
      .translate(-(left + right) / 2, -(top + bottom) / 2);
    select(this.drawing().nativeElement).call((svg) => this.zoomer!.transform(svg, middle));
  }

  protected reset(): void {
    this.keep({});
    this.fit();
  }

  protected path({ from, to }: Cable): string {
    const bend = (from.y + to.y) / 2;
    return from.y === to.y ? `M${from.x} ${from.y}H${to.x}` : `M${from.x} ${from.y}V${bend}H${to.x}V${to.y}`;
  }

  /** Where the name of a cable's port stands: beside the box it ends at. */
  protected endAt(cable: Cable, which: 'from' | 'to'): { x: number; y: number } {
    const [node, other] = which === 'from' ? [cable.from, cable.to] : [cable.to, cable.from];
    if (node.y === other.y) return { x: node.x + (other.x > node.x ? 1 : -1) * (this.half + 10), y: node.y - 4 };
    const down = other.y > node.y;
    // Under a box several cables leave at one point: their ports stand where they part.
    return down ? { x: other.x + 9, y: (node.y + other.y) / 2 + 11 } : { x: node.x + 10, y: node.y - 18 };
  }

  /** Speed and power stand at the outer end, under the port that leads there. */
  protected factsAt({ from, to }: Cable): { x: number; y: number } {
    if (from.y === to.y) return { x: (from.x + to.x) / 2 - 30, y: from.y + 12 };
    const outer = from.y > to.y ? from : to;
    return { x: outer.x + 6, y: (from.y + to.y) / 2 + 24 };
  }

  protected portOf(cable: Cable, which: 'from' | 'to'): string {
    const end = which === 'from' ? cable.link.a : cable.link.b;
    return end.port === 'lan' || cable.link.hangs ? '' : end.port;
  }

  /** A cable leads to the port where its duty is given; what hangs by radio has none. */
  protected openPort(cable: Cable): void {
    if (!cable.link.hangs) this.port.emit(this.innerEnd(cable));
  }

  /** The end nearer to the gateway: where duties are given. */
  private innerEnd({ from, to, link }: Cable): LinkEnd {
    return from.y <= to.y ? link.a : link.b;
  }

  protected grab(node: CablingNode, event: PointerEvent): void {
    event.stopPropagation();
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    const [dx, dy] = [event.clientX / this.scale - node.x, event.clientY / this.scale - node.y];
    this.held = { id: node.id, dx, dy, x: event.clientX, y: event.clientY, moved: false };
  }

  protected drag(event: PointerEvent): void {
    if (!this.held) return;
    const { id, dx, dy, x, y } = this.held;
    this.held.moved ||= Math.hypot(event.clientX - x, event.clientY - y) > SLACK;
    if (!this.held.moved) return;
    const at = [Math.round(event.clientX / this.scale - dx), Math.round(event.clientY / this.scale - dy)] as const;
    this.placed.update((placed) => ({ ...placed, [id]: at }));
  }

  protected drop(node: CablingNode): void {
    if (this.held?.moved) this.keep(this.placed());
    else if (this.held) this.press(node);
    this.held = null;
  }

  protected press(node: CablingNode): void {
    if (this.choosing()) this.box.emit(node.id);
  }

  protected said(node: CablingNode): string {
    const gives = this.segmentId() !== null && this.serving().has(node.id) ? ', gives addresses' : '';
    return `${node.name}, ${this.words[node.kind]}${gives}; ${this.choosing() ? 'Enter chooses it or takes it out, ' : ''}arrow keys move it`;
  }

  protected nudge(node: CablingNode, event: KeyboardEvent): void {
    const step = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, -10], ArrowDown: [0, 10] }[event.key];
    if (!step) return;
    event.preventDefault();
    this.keep({ ...this.placed(), [node.id]: [node.x + step[0]!, node.y + step[1]!] });
  }

  private keep(placed: Placed): void {
    this.placed.set(placed);
    localStorage.setItem(storeKey(this.store.siteId()), JSON.stringify(placed));
  }
}

const storeKey = (siteId: string | null): string => `lattice.cabling.${siteId}`;

function readPlaced(siteId: string | null): Placed {
  try {
    return JSON.parse(localStorage.getItem(storeKey(siteId)) ?? '{}') as Placed;
  } catch {
    return {}; // somebody else's text under our key
  }
}
