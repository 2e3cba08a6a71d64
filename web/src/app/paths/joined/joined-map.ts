import { HttpClient } from '@angular/common/http';
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
import type { JoinedSiteView } from '@iron-lattice/core/assess';
import { joinedEnds } from '@iron-lattice/core/intent';
import { joinedWay } from '@iron-lattice/core/routing';
import { select } from 'd3-selection';
import { zoom, zoomIdentity, type ZoomBehavior } from 'd3-zoom';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../../shell/live-fetch';
import { SiteStore } from '../../shell/site-store';
import { anewFor } from '../../ui/anew-for';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { layJoined } from './joined-layout';
import { JoinedStore } from './joined-store';
import { faresWords, tunnelBetween, tunnelWords, type JoinedRow } from './joined-rows';
import { wayWords } from './joined-way-words';

interface TunnelLine {
  readonly key: string;
  readonly d: string;
  readonly state: string;
  /** How the way that is asked for goes through it. */
  readonly lit: '' | 'there' | 'back' | 'both';
  readonly hubs: boolean;
  readonly words: string;
}

/** Joined sites and their tunnels, with the way between two networks lit through it. */
@Component({
  selector: 'il-joined-map',
  imports: [MatButtonModule, ChoiceCell],
  template: `
    <div class="ask">
      <il-choice-cell label="From" for="way-from" [options]="sites()" [value]="from()" (chosen)="from.set($event)" />
      <il-choice-cell
        label="Network"
        for="way-from-network"
        [options]="networks(fromFacts.value())"
        [value]="fromNetwork()"
        (chosen)="fromNetwork.set($event)"
      />
      <il-choice-cell label="To" for="way-to" [options]="sites()" [value]="to()" (chosen)="to.set($event)" />
      <il-choice-cell
        label="Network"
        for="way-to-network"
        [options]="networks(toFacts.value())"
        [value]="toNetwork()"
        (chosen)="toNetwork.set($event)"
      />
      <div class="fit"><button mat-button type="button" (click)="fit()">Fit</button></div>
    </div>
    <div class="answer" role="status">
      @for (line of answer(); track $index) {
        <p [class]="line.tone">{{ line.words }}</p>
      } @empty {
        <p class="soft">Choose two sites: the way between them is drawn, and how long it takes.</p>
      }
    </div>
    <svg #drawing role="group" aria-label="Joined sites and their tunnels">
      <g [attr.transform]="view()">
        @for (line of lines(); track line.key) {
          <g class="tunnel" [class]="'tunnel ' + line.state + ' ' + line.lit" [class.hubs]="line.hubs">
            <path [attr.d]="line.d">
              <title>{{ line.words }}</title>
            </path>
          </g>
        }
        @for (node of nodes(); track node.row.id) {
          <g
            class="site"
            role="button"
            tabindex="0"
            [class.hub]="node.row.member.role === 'hub'"
            [class.on]="onWay().has(node.row.id)"
            [class.shown]="shown() === node.row.id"
            [attr.aria-label]="node.words"
            [attr.transform]="'translate(' + node.x + ' ' + node.y + ')'"
            (click)="opened.emit(node.row.id)"
            (keydown.enter)="opened.emit(node.row.id)"
          >
            <title>{{ node.words }}</title>
            <g [attr.transform]="'scale(' + 1 / scale() + ')'">
              @if (node.row.member.role === 'hub') {
                <rect class="outer" x="-13" y="-13" width="26" height="26" />
              }
              <rect x="-9" y="-9" width="18" height="18" />
              <text y="28" text-anchor="middle">{{ node.row.join.name }}</text>
              <text class="fares" [class]="'fares ' + node.tone" y="42" text-anchor="middle">{{ node.fares }}</text>
            </g>
          </g>
        }
      </g>
    </svg>
    <p class="soft foot">{{ note() }}</p>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
      border-top: 1px solid var(--ink);
    }
    .ask {
      display: grid;
      grid-template-columns: repeat(4, minmax(0, 1fr)) auto;
      border-bottom: 1px solid var(--rule);
      flex: none;
    }
    .fit {
      display: flex;
      align-items: center;
      padding: 0 8px;
    }
    .answer {
      padding: 8px 14px;
      min-height: 40px;
      flex: none;
    }
    .answer p {
      margin: 0;
      line-height: 20px;
    }
    .bad {
      color: var(--bad);
    }
    .caution {
      color: var(--caution);
    }
    svg {
      flex: 1;
      min-height: 0;
      width: 100%;
      cursor: grab;
      touch-action: none;
    }
    .foot {
      margin: 0;
      padding: 4px 14px 8px;
      flex: none;
    }
    .tunnel path {
      fill: none;
      stroke: var(--strong);
      stroke-width: 1.3;
      vector-effect: non-scaling-stroke;
    }
    .tunnel.hubs path {
      stroke-width: 2.4;
    }
    .tunnel.untold path {
      stroke-dasharray: 6 4;
    }
    .tunnel.down path,
    .tunnel.never path {
      stroke: var(--bad);
      stroke-dasharray: 2 6;
    }
    .tunnel.there path,
    .tunnel.both path {
      stroke: var(--iron);
      stroke-width: 4.5;
      stroke-dasharray: none;
    }
    .tunnel.back path {
      stroke: var(--caution);
      stroke-width: 4.5;
      stroke-dasharray: 10 4;
    }
    .site {
      cursor: pointer;
      outline: none;
    }
    .site rect {
      fill: var(--sheet);
      stroke: var(--ink);
      stroke-width: 1.2;
    }
    .site.on rect {
      stroke: var(--iron);
      stroke-width: 2.2;
    }
    .site.on rect:not(.outer),
    .site.shown rect:not(.outer) {
      fill: var(--tint);
    }
    .site:focus-visible rect {
      stroke: var(--iron);
      stroke-width: 3;
    }
    .site text {
      font:
        600 12px Barlow,
        sans-serif;
      fill: var(--ink);
      paint-order: stroke;
      stroke: var(--ground);
      stroke-width: 4px;
      stroke-linejoin: round;
    }
    .site text.fares {
      font-weight: 400;
      font-size: 11px;
      fill: var(--soft);
    }
    .site text.fares.bad {
      fill: var(--bad);
    }
    .site text.fares.caution {
      fill: var(--caution);
    }
    @media (max-width: 720px) {
      :host {
        height: auto;
      }
      .ask {
        grid-template-columns: repeat(2, minmax(0, 1fr));
      }
      .fit {
        display: none;
      }
      svg {
        flex: none;
        height: 360px;
      }
    }
  `,
})
export class JoinedMap {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly joined = inject(JoinedStore);
  private readonly injector = inject(Injector);
  private readonly drawing = viewChild.required<ElementRef<SVGSVGElement>>('drawing');
  readonly rows = input.required<readonly JoinedRow[]>();
  /** Id of the one whose sheet is open. */
  readonly shown = input<string | null>(null);
  readonly opened = output<string>();
  protected readonly view = signal('');
  /** Sites and their names stay as large as they are, however near one looks. */
  protected readonly scale = signal(1);
  private zoomer: ZoomBehavior<SVGSVGElement, unknown> | null = null;

  protected readonly from = signal<string | null>(null);
  protected readonly to = signal<string | null>(null);
  protected readonly fromNetwork = anewFor<string | null>(
    () => this.from(),
    () => null,
  );
  protected readonly toNetwork = anewFor<string | null>(
    () => this.to(),
    () => null,
  );
  protected readonly fromFacts = this.factsOf(() => this.from());
  protected readonly toFacts = this.factsOf(() => this.to());
  protected readonly sites = computed((): readonly Choice[] =>
    this.rows().map(({ id, join }) => ({ value: id, label: join.name })),
  );
  private readonly byId = computed(() => new Map(this.rows().map((row) => [row.id, row])));
  /** The way as it is now: tunnels that nobody told of yet are taken for up. */
  private readonly way = computed(() => {
    const [from, to] = [this.from(), this.to()];
    if (from === null || to === null || from === to) return null;
    const place = (id: string, prefix: string | null) => ({ id, ...(prefix === null ? {} : { prefix }) });
    const up = (a: string, b: string): boolean => {
      const tunnel = tunnelBetween(this.byId(), a, b);
      return tunnel?.state === 'up' || tunnel?.state === 'untold';
    };
    return joinedWay(
      joinedEnds(this.joined.estate() ?? {}),
      up,
      place(from, this.fromNetwork()),
      place(to, this.toNetwork()),
    );
  });
  protected readonly onWay = computed(() => new Set([...(this.way()?.path ?? []), ...(this.way()?.back ?? [])]));
  protected readonly answer = computed(() => {
    const way = this.way();
    return way ? wayWords(way, this.byId()) : [];
  });
  private readonly places = computed(() => layJoined(this.rows()));
  protected readonly nodes = computed(() =>
    this.rows().map((row) => {
      const { words, tone } = faresWords(row);
      const what = `${row.join.name}, ${row.member.role}; tunnels: ${words}`;
      return { row, ...this.places().get(row.id)!, words: what, fares: words, tone };
    }),
  );
  protected readonly lines = computed((): TunnelLine[] => {
    const [rows, places, way] = [this.byId(), this.places(), this.way()];
    const steps = (path: readonly string[] | null | undefined): ReadonlySet<string> =>
      new Set((path ?? []).slice(1).map((id, i) => pairOf(path![i]!, id)));
    const [there, back] = [steps(way?.path), steps(way?.back)];
    const pairs = new Set(this.rows().flatMap(({ id, tunnels }) => tunnels.map(({ peerId }) => pairOf(id, peerId))));
    return [...pairs].flatMap((key): TunnelLine[] => {
      const [a, b] = key.split(' ') as [string, string];
      const [one, other] = [rows.get(a), rows.get(b)];
      const tunnel = tunnelBetween(rows, a, b);
      const [from, to] = [places.get(a), places.get(b)];
      if (!one || !other || !tunnel || !from || !to) return [];
      const lit = there.has(key) ? (back.has(key) ? 'both' : 'there') : back.has(key) ? 'back' : '';
      return [
        {
          ...{ key, lit, state: tunnel.state, d: `M${from.x} ${from.y}L${to.x} ${to.y}` },
          hubs: one.member.role === 'hub' && other.member.role === 'hub',
          words: `${one.join.name} to ${other.join.name}: ${tunnelWords(tunnel)}`,
        },
      ];
    });
  });
  protected readonly note = computed(() => {
    const placed = this.rows().filter(({ site }) => site?.coordinates).length;
    const map = placed < 2 ? 'Say where sites are, under Sites, and they stand here as on a map. ' : '';
    return `${map}A hub has two frames. Dotted: down. Dashed: after the rollout. Press a site for its sheet.`;
  });

  constructor() {
    effect(() => {
      this.places();
      this.shown(); // a sheet comes or goes below
      afterNextRender(() => this.fit(), { injector: this.injector });
    });
    afterNextRender(() => {
      this.zoomer = zoom<SVGSVGElement, unknown>()
        .scaleExtent([0.05, 4])
        .on('zoom', ({ transform }: { transform: { k: number; toString(): string } }) => {
          this.scale.set(transform.k);
          this.view.set(transform.toString());
        });
      select(this.drawing().nativeElement).call(this.zoomer).on('dblclick.zoom', null);
      this.fit();
    });
  }

  /** Brings the whole drawing into sight. */
  protected fit(): void {
    const all = [...this.places().values()];
    const { clientWidth: width, clientHeight: height } = this.drawing().nativeElement;
    if (!this.zoomer || all.length === 0 || width === 0) return;
    const [xs, ys] = [all.map(({ x }) => x), all.map(({ y }) => y)];
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    // Names stand below sites, and reach beyond them.
    const scale = Math.min(1.4, (width - 130) / (right - left || 1), (height - 90) / (bottom - top || 1));
    const middle = zoomIdentity
      .translate(width / 2, (height - 30) / 2)
      .scale(scale)
      .translate(-(left + right) / 2, -(top + bottom) / 2);
    select(this.drawing().nativeElement).call((svg) => this.zoomer!.transform(svg, middle));
  }

  protected networks(facts: JoinedSiteView | null): readonly Choice[] {
    return [
      { value: null, label: 'any that it shares' },
      ...(facts?.segments ?? []).map(({ name, subnet }) => ({ value: subnet, label: `${name} · ${subnet}` })),
    ];
  }

  private factsOf(id: () => string | null) {
    return liveFetch({
      of: () => {
        const [draft, siteId] = [this.store.draft(), this.byId().get(id() ?? '')?.member.siteId];
        return draft && siteId ? { draftId: draft.id, siteId, head: draft.head } : undefined;
      },
      fetch: ({ draftId, siteId }) =>
        firstValueFrom(this.http.get<JoinedSiteView>(`/api/drafts/${draftId}/joined/${siteId}`)),
      when: () => false,
      stays: true,
    });
  }
}

const pairOf = (a: string, b: string): string => [a, b].sort().join(' ');
