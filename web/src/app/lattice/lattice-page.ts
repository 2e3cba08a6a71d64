import { Component, computed, effect, inject, input, linkedSignal, signal, untracked, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { ActivatedRoute, Router, RouterLink } from '@angular/router';
import { servedFrom } from '@iron-lattice/core/intent';
import { SEGMENT_COLUMNS, cellsOf } from '@iron-lattice/core/lattice';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { rowsAsXlsx, saveFile } from '../ui/export-rows';
import { Stage } from '../ui/stage';
import { AddressPlanView } from './addresses/address-plan-view';
import { CablingView } from './cabling/cabling-view';
import { ClientsView } from './addresses/clients-view';
import { SiteClients } from '../shell/site-clients';
import { LatticeFacts } from './facts/lattice-facts';
import { Legend } from './weave/legend';
import { MendAll } from './mend-all';
import { NewSegmentSheet } from './segments/new-segment-sheet';
import { PoolsSheet } from './segments/pools-sheet';
import { PortSheet } from './ports/port-sheet';
import { PortsSheet } from './ports/ports-sheet';
import { PortsView } from './ports/ports-view';
import { SegmentListSheet } from './segments/segment-list-sheet';
import { SegmentSheet } from './segments/segment-sheet';
import { servingBoxes, writeServed } from './segments/served-tokens';
import { Weave } from './weave/weave';
import { foldable } from './weave/weave-layout';
import { weaveSvg } from './weave/weave-svg';

/** What is chosen in the grid: a segment, or where it meets a port. */
interface Choice {
  readonly segmentId: string;
  readonly columnKey: string | null;
}

const VIEWS = ['Grid', 'Ports', 'Cabling', 'Addresses', 'Clients'] as const;
type View = (typeof VIEWS)[number];
/** Sheets that are opened by a press of their own. */
type Extra = 'list' | 'pools' | 'mend' | null;

/** The lattice of a site: its grid of segments and what carries them, its ports, cables, addresses and clients. */
@Component({
  selector: 'il-lattice-page',
  imports: [
    RouterLink,
    MatButtonModule,
    MatMenuModule,
    Stage,
    Weave,
    Legend,
    SegmentSheet,
    PortSheet,
    PortsSheet,
    PortsView,
    CablingView,
    AddressPlanView,
    ClientsView,
    MendAll,
    NewSegmentSheet,
    SegmentListSheet,
    PoolsSheet,
  ],
  providers: [SiteClients, LatticeFacts],
  template: `
    <il-stage heading="Lattice" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="look(each)">{{ each }}</button>
        }
      </div>
      @if (view() === 'Grid') {
        <div actions class="choices" role="group" aria-label="Show segments">
          <button type="button" [attr.aria-pressed]="!onlyBroken()" (click)="onlyBroken.set(false)">All</button>
          <button type="button" [attr.aria-pressed]="onlyBroken()" (click)="onlyBroken.set(true)">
            Broken <b class="bad">{{ broken().length }}</b>
          </button>
        </div>
      }
      <button actions mat-button [matMenuTriggerFor]="more">More</button>
      <mat-menu #more>
        @if (session.mayChange()) {
          <button mat-menu-item (click)="show2('list')">Segments from a list…</button>
          <a mat-menu-item routerLink="/segments">Segment recipes of all sites…</a>
          <button mat-menu-item (click)="show2('pools')">VLAN pools…</button>
          <button mat-menu-item (click)="show2('mend')">Mend all…</button>
        }
        <button mat-menu-item (click)="foldAll(true)">Fold all switches</button>
        <button mat-menu-item (click)="foldAll(false)">Unfold all switches</button>
        <button mat-menu-item (click)="drawing('save')">Save the grid as SVG</button>
        <button mat-menu-item (click)="drawing('print')">Print the grid</button>
        <a mat-menu-item [href]="file('csv')" download>Segments as CSV</a>
        <button mat-menu-item (click)="saveXlsx()">Segments as XLSX</button>
        <a mat-menu-item [href]="file('ietf')" download>Interfaces as RFC 7951 JSON</a>
        <a mat-menu-item [href]="file('kea')" download>Address services as Kea JSON</a>
      </mat-menu>
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="addSegment()">Add segment</button>
      }
      @switch (view()) {
        @case ('Grid') {
          @if (grid(); as grid) {
            <div class="drawing">
              <il-weave
                [columns]="grid.columns"
                [rows]="rows()"
                [marks]="store.marks()"
                [words]="facts.words()"
                [chosenSegment]="choice()?.segmentId ?? null"
                [chosenColumn]="choice()?.columnKey ?? null"
                (choose)="choose($event.segmentId, $event.columnKey)"
              />
              @if (rows().length === 0) {
                <p class="calm"><span class="good">✓</span> No strand is broken.</p>
              }
              @if (grid.rows.length === 1 && session.mayChange() && !adding()) {
                <p class="calm soft">
                  So far only the segment that devices live in. Add one for your people: a name and a VLAN ID are
                  enough.
                </p>
              }
              <il-legend />
            </div>
          } @else {
            <p class="calm soft" role="status">Computing…</p>
          }
        }
        @case ('Ports') {
          <il-ports-view [(picked)]="ports" />
        }
        @case ('Cabling') {
          <il-cabling-view
            [segmentId]="choice()?.segmentId ?? null"
            [serving]="serving()"
            [choosing]="choosing()"
            (lit)="light($event)"
            (choose)="choosing.set(true)"
            (box)="segmentSheet()?.press($event)"
            (port)="openPort($event)"
          />
        }
        @case ('Addresses') {
          <il-address-plan-view (segment)="openSegment($event)" />
        }
        @case ('Clients') {
          <il-clients-view />
        }
      }
      <ng-container ngProjectAs="[foot]">
        @if (adding()) {
          <il-new-segment-sheet (closed)="adding.set(false)" (added)="added($event)" />
        } @else if (extra() === 'list') {
          <il-segment-list-sheet (closed)="extra.set(null)" />
        } @else if (extra() === 'pools') {
          <il-pools-sheet (closed)="extra.set(null)" />
        } @else if (extra() === 'mend') {
          <il-mend-all (closed)="extra.set(null)" />
        } @else if (view() === 'Ports' && ports().size > 0) {
          <il-ports-sheet [picked]="ports()" (closed)="ports.set(none)" />
        } @else if (segment(); as segment) {
          @if (column(); as column) {
            <il-port-sheet
              [segment]="segment"
              [column]="column"
              (closed)="choice.set(null)"
              (whole)="openPort({ deviceId: column.deviceId!, port: column.port! })"
            />
          } @else if (view() !== 'Cabling' || choosing()) {
            <il-segment-sheet
              [segment]="segment"
              [inWords]="inWords(segment.id)"
              [onCabling]="view() === 'Cabling'"
              (seek)="choosing.set(true); look('Cabling')"
              (closed)="closeSegment()"
            />
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .calm {
      padding: 10px 14px;
    }
    .drawing {
      height: 100%;
      display: flex;
      flex-direction: column;
    }
    il-weave {
      flex: 0 1 auto;
    }
    il-legend {
      flex: none;
    }
    il-segment-sheet,
    il-port-sheet,
    il-ports-sheet,
    il-segment-list-sheet,
    il-pools-sheet,
    il-mend-all,
    il-new-segment-sheet {
      display: contents;
    }
  `,
})
export class LatticePage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly facts = inject(LatticeFacts);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  private readonly weave = viewChild(Weave);
  protected readonly segmentSheet = viewChild(SegmentSheet);
  /** A segment's id or a `port:` column to show, from search or a finding. */
  readonly show = input<string>();
  readonly add = input<string>();
  /** Whether all mends are to be shown, from the dock. */
  readonly mend = input<string>();
  /** Which drawing, from the address of the page. */
  readonly as = input<string>();

  protected readonly views = VIEWS;
  protected readonly view = computed((): View => VIEWS.find((each) => each.toLowerCase() === this.as()) ?? 'Grid');
  protected readonly onlyBroken = signal(false);
  protected readonly adding = linkedSignal(() => this.add() !== undefined);
  protected readonly extra = signal<Extra>(null);
  protected readonly none: ReadonlySet<string> = new Set();
  /** Ports that are chosen, `device port`. */
  protected readonly ports = signal<ReadonlySet<string>>(this.none);
  protected readonly grid = computed(() => this.store.consequences()?.grid ?? null);
  protected readonly broken = computed(() => (this.grid()?.rows ?? []).filter((row) => row.missing.length > 0));
  protected readonly rows = computed(() => (this.onlyBroken() ? this.broken() : (this.grid()?.rows ?? [])));
  /** Follows what was asked to be shown, once the grid is there to find it in. */
  protected readonly choice = linkedSignal<{ show: string | undefined; ready: boolean }, Choice | null>({
    source: () => ({ show: this.show(), ready: this.grid() !== null }),
    computation: ({ show, ready }, previous) => {
      if (previous && previous.source.show === show && previous.source.ready) return previous.value;
      if (!show || !ready) return null;
      if (show.startsWith('duty:')) return null;
      if (!show.startsWith('port:')) return { segmentId: show, columnKey: null };
      const row = this.grid()!.rows.find((each) => each.missing.includes(show));
      return row ? { segmentId: row.segment.id, columnKey: show } : null;
    },
  });
  protected readonly segment = computed(() =>
    this.store.site()?.segments.find((each) => each.id === this.choice()?.segmentId),
  );
  /** Whether boxes that give the segment's addresses are being chosen on the cabling. */
  protected readonly choosing = signal(false);
  protected readonly serving = computed((): ReadonlySet<string> => {
    const [addresses, roster] = [this.segment()?.addresses, this.store.data()?.roster ?? []];
    return addresses ? servingBoxes(writeServed(servedFrom(addresses), roster), roster) : this.none;
  });
  protected readonly column = computed(() => {
    const key = this.choice()?.columnKey;
    return key?.startsWith('port:') ? this.grid()?.columns.find((each) => each.key === key) : undefined;
  });
  protected readonly note = computed(() => {
    const segments = counted(this.store.site()?.segments.length ?? 0, 'segment');
    const coming = (this.store.data()?.roster ?? []).filter(({ expected }) => expected).length;
    return coming > 0
      ? `${segments} as they will be with ${counted(coming, 'device')} expected here`
      : `${segments} across ${counted(this.store.devices().length, 'device')}`;
  });

  constructor() {
    // A finding at a port that misses nothing is shown among the ports; once, so that what is closed stays closed.
    let handled = '';
    effect(() => {
      const show = this.show();
      if (!show?.startsWith('port:') || !this.grid() || handled === show) return;
      handled = show;
      if (untracked(this.choice)) return;
      const [, deviceId, port] = show.split(':');
      this.ports.set(new Set([`${deviceId} ${port}`]));
      if (untracked(this.view) !== 'Ports') this.look('Ports');
    });
    // Of a duty all ports that have it.
    let opened = '';
    effect(() => {
      const [show, site] = [this.show(), this.store.site()];
      if (!show?.startsWith('duty:') || !site || opened === show) return;
      opened = show;
      const having = Object.entries(site.ports).flatMap(([deviceId, ports]) =>
        Object.entries(ports).flatMap(([port, { dutyId }]) =>
          show === `duty:${dutyId}` ? [`${deviceId} ${port}`] : [],
        ),
      );
      this.ports.set(new Set(having));
      if (untracked(this.view) !== 'Ports') this.look('Ports');
    });
    effect(() => {
      if (this.show()?.startsWith('pool:')) this.extra.set('pools');
      if (this.mend() !== undefined) this.extra.set('mend');
    });
  }

  protected look(view: View): void {
    if (view !== 'Cabling') this.choosing.set(false);
    const as = view === 'Grid' ? null : view.toLowerCase();
    void this.router.navigate([], { relativeTo: this.route, queryParams: { as }, queryParamsHandling: 'merge' });
  }

  protected choose(segmentId: string, columnKey: string | null): void {
    this.adding.set(false);
    this.extra.set(null);
    this.choice.set({ segmentId, columnKey });
  }

  /** A row of the grid read aloud. */
  protected inWords(segmentId: string): string {
    const row = this.grid()?.rows.find(({ segment }) => segment.id === segmentId);
    return row ? this.facts.words()(row) : '';
  }

  protected light(segmentId: string | null): void {
    this.choice.set(segmentId === null ? null : { segmentId, columnKey: null });
  }

  /** Closes the segment's sheet; on the cabling its strand stays lit. */
  protected closeSegment(): void {
    if (this.view() === 'Cabling') this.choosing.set(false);
    else this.choice.set(null);
  }

  protected addSegment(): void {
    this.adding.set(true);
    this.extra.set(null);
    this.choice.set(null);
  }

  protected show2(extra: Extra): void {
    this.adding.set(false);
    this.extra.set(extra);
  }

  protected added(segmentId: string): void {
    this.adding.set(false);
    this.choice.set({ segmentId, columnKey: null });
  }

  protected openPort({ deviceId, port }: { deviceId: string; port: string }): void {
    this.extra.set(null);
    this.ports.set(new Set([`${deviceId} ${port}`]));
    this.look('Ports');
  }

  /** A segment of this site, or of another. */
  protected openSegment({ siteId, segmentId }: { siteId: string; segmentId: string }): void {
    if (siteId === this.store.siteId()) return this.choose(segmentId, null);
    void this.router.navigate(['/sites', siteId, 'lattice'], { queryParams: { show: segmentId } });
  }

  protected file(format: 'csv' | 'ietf' | 'kea'): string {
    return `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}/segments/${format}`;
  }

  protected async saveXlsx(): Promise<void> {
    const roster = this.store.data()?.roster ?? [];
    const rows = (this.store.site()?.segments ?? []).map((segment) => cellsOf(segment, roster));
    const columns = SEGMENT_COLUMNS.map(({ key, headings }) => ({
      key,
      title: headings[0]!,
      width: 0,
      text: (row: (typeof rows)[number]) => row[key],
    }));
    saveFile(`${this.store.site()?.code}-segments.xlsx`, await rowsAsXlsx(rows, columns));
  }

  protected foldAll(folded: boolean): void {
    const { columns } = this.grid() ?? { columns: [] };
    this.weave()?.foldAll(folded ? foldable(columns) : []);
  }

  /** The whole grid on paper or in a file. */
  protected drawing(to: 'save' | 'print'): void {
    const grid = this.grid();
    const site = this.store.site();
    if (!grid || !site) return;
    const colours = paperColours();
    const folded = this.weave()?.folded() ?? this.none;
    const svg = weaveSvg(`${site.name}: segments`, grid.columns, this.rows(), this.store.marks(), colours, folded);
    if (to === 'save') return saveFile(`${site.code}-lattice.svg`, new Blob([svg], { type: 'image/svg+xml' }));
    const sheet = document.createElement('div');
    sheet.className = 'print-sheet';
    sheet.append(document.importNode(new DOMParser().parseFromString(svg, 'image/svg+xml').documentElement, true));
    document.body.append(sheet);
    window.print();
    sheet.remove();
  }
}

/** Colours of segments on paper: those of the light theme, whatever theme the screen has. */
function paperColours(): string[] {
  const { dataset } = document.documentElement;
  const { theme } = dataset;
  dataset['theme'] = 'light';
  const style = getComputedStyle(document.documentElement);
  const colours = Array.from({ length: 8 }, (_, i) => style.getPropertyValue(`--seg-${i}`).trim());
  dataset['theme'] = theme;
  return colours;
}
