import { Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import type { Band } from '@iron-lattice/core/hardware';
import { interval, map } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { radioRows } from '../shell/radio-rows';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { counted } from '../ui/counted';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { AirClientSheet } from './air-client-sheet';
import { AirClientsView } from './air-clients-view';
import { AirStore } from './air-store';
import { AirView } from './air-view';
import { BandSheet } from './band-sheet';
import { HoursSheet } from './hours-sheet';
import { HoursView } from './hours-view';
import { KeysFoot } from './keys-foot';
import { KeysView } from './keys-view';
import { MeshSheet } from './mesh-sheet';
import { MeshSiteSheet } from './mesh-site-sheet';
import { MeshView } from './mesh-view';
import { PlanStore } from './plan-store';
import { PlanView } from './plan-view';
import { RadioChanges } from './radio-changes';
import { RadiosSheet } from './radios-sheet';
import { RadiosView } from './radios-view';
import { RecurrenceSheet } from './recurrence-sheet';
import { RingStore } from './ring-store';
import { ScanSheet } from './scan-sheet';
import { SpeedView } from './speed-view';
import { SsidHereSheet } from './ssid-here-sheet';
import { SsidSheet } from './ssid-sheet';
import { SsidsView } from './ssids-view';

const VIEWS = ['SSIDs', 'Keys', 'Hours', 'Radios', 'Clients', 'Air', 'Plan', 'Speed', 'Mesh'] as const;
type View = (typeof VIEWS)[number];
/** How often what passes by the clock is shown anew, in milliseconds. */
const TICK_MS = 1000;

/** The networks of a site on the air, and the radios that send them. */
@Component({
  selector: 'il-wireless-page',
  imports: [
    MatButtonModule,
    Stage,
    SsidHereSheet,
    SsidSheet,
    SsidsView,
    HoursView,
    KeysFoot,
    KeysView,
    HoursSheet,
    RadiosView,
    RadiosSheet,
    BandSheet,
    AirView,
    PlanView,
    ScanSheet,
    SpeedView,
    RecurrenceSheet,
    AirClientsView,
    AirClientSheet,
    MeshView,
    MeshSheet,
    MeshSiteSheet,
  ],
  providers: [RadioChanges, AirStore, PlanStore, RingStore],
  template: `
    <il-stage heading="Wireless" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="look(each)">{{ each }}</button>
        }
      </div>
      @if (session.mayChange() && view() === 'SSIDs') {
        <button actions mat-stroked-button (click)="opened.begin()">Add SSID</button>
      }
      @if (session.mayChange() && view() === 'Hours') {
        <button actions mat-stroked-button (click)="hours.begin()">Add hours</button>
      }
      @if (view() === 'Air' || view() === 'Plan') {
        <button actions mat-stroked-button (click)="weekly.set(false); scanning.set(true)">
          {{ air.run()?.running ? 'Scanning…' : 'Scan…' }}
        </button>
      }
      @switch (view()) {
        @case ('SSIDs') {
          <il-ssids-view [opened]="opened" />
        }
        @case ('Keys') {
          <il-keys-view [wanted]="ring()" />
        }
        @case ('Hours') {
          <il-hours-view [opened]="hours" />
        }
        @case ('Air') {
          <il-air-view [(deviceId)]="heardBy" (scan)="scanning.set(true)" />
        }
        @case ('Clients') {
          <il-air-clients-view [(chosen)]="mac" />
        }
        @case ('Mesh') {
          <il-mesh-view [(picked)]="hanging" [siteOpen]="ofSite()" (site)="openMeshSite()" />
        }
        @case ('Speed') {
          <il-speed-view />
        }
        @case ('Plan') {
          <il-plan-view (again)="weekly.set(true)" />
        }
        @case ('Radios') {
          <il-radios-view [(picked)]="picked" [band]="band()" [now]="now()" (opened)="openBand($event)" />
        }
      }
      <ng-container ngProjectAs="[foot]">
        @if (view() === 'SSIDs') {
          @if (opened.isNew()) {
            <il-ssid-sheet [ssid]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
          } @else if (opened.row(); as ssid) {
            @if (atSite()) {
              <il-ssid-here-sheet [ssid]="ssid" (closed)="opened.close()" (back)="atSite.set(false)" />
            } @else {
              <il-ssid-sheet
                [ssid]="ssid"
                (closed)="opened.close()"
                (here)="atSite.set(true)"
                (kept)="opened.open($event)"
              />
            }
          }
        } @else if (view() === 'Keys') {
          <il-keys-foot />
        } @else if (view() === 'Hours') {
          @if (hours.isNew()) {
            <il-hours-sheet [hours]="null" (closed)="hours.close()" (kept)="hours.open($event)" />
          } @else if (hours.row(); as one) {
            <il-hours-sheet [hours]="one" (closed)="hours.close()" (kept)="hours.open($event)" />
          }
        } @else if (view() === 'Clients') {
          @if (clients()?.client(); as client) {
            <il-air-client-sheet [client]="client" (closed)="mac.set(null)" />
          }
        } @else if (view() === 'Mesh') {
          @if (hangingRows().length > 0) {
            <il-mesh-sheet [rows]="hangingRows()" (closed)="hanging.set(none)" />
          } @else if (ofSite()) {
            <il-mesh-site-sheet (closed)="ofSite.set(false)" />
          }
        } @else if (view() === 'Plan' && weekly()) {
          <il-recurrence-sheet (closed)="weekly.set(false)" />
        } @else if (scanning()) {
          <il-scan-sheet [deviceId]="view() === 'Air' ? heardBy() : null" (closed)="scanning.set(false)" />
        } @else if (view() === 'Radios') {
          @if (band(); as band) {
            <il-band-sheet [band]="band" (closed)="bandAsked.set(null)" />
          } @else if (radios().length > 0) {
            <il-radios-sheet [rows]="radios()" [now]="now()" (closed)="picked.set(none)" />
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-ssid-sheet,
    il-ssid-here-sheet,
    il-keys-foot,
    il-hours-sheet,
    il-radios-sheet,
    il-band-sheet,
    il-scan-sheet,
    il-recurrence-sheet,
    il-mesh-sheet,
    il-mesh-site-sheet,
    il-air-client-sheet {
      display: contents;
    }
  `,
})
export class WirelessPage {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  /** An SSID's id, `radio:device:band`, `band:band` or `mesh:device`, from search or a finding. */
  readonly show = input<string>();
  readonly add = input<string>();
  /** Id of the SSID whose keys are shown. */
  readonly ring = input<string>();
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  protected readonly air = inject(AirStore);
  /** The AP whose hearing is shown; null: all. */
  protected readonly heardBy = signal<string | null>(null);
  /** MAC address of the client whose sheet is open. */
  protected readonly mac = signal<string | null>(null);
  protected readonly clients = viewChild(AirClientsView);
  protected readonly scanning = signal(false);
  /** Whether the sheet of the plan that comes again is open. */
  protected readonly weekly = signal(false);
  protected readonly views = VIEWS;
  protected readonly view = computed((): View => VIEWS.find((each) => each.toLowerCase() === this.as()) ?? 'SSIDs');
  protected readonly opened = new OpenedRow({ rows: this.store.ssids, show: this.show, add: this.add });
  /** Whether what the site in front has otherwise is shown of the SSID. */
  protected readonly atSite = anewFor(
    () => `${this.opened.id()} ${this.store.siteId()}`,
    () => false,
  );
  protected readonly hours = new OpenedRow({ rows: () => this.store.data()?.estate.hours ?? [] });
  protected readonly none: ReadonlySet<string> = new Set();
  /** Radios that are chosen, `device band`. */
  protected readonly picked = signal<ReadonlySet<string>>(this.none);
  protected readonly bandAsked = signal<Band | null>(null);
  /** The band whose sheet is open, as long as no radio is chosen. */
  protected readonly band = computed(() => (this.picked().size === 0 ? this.bandAsked() : null));
  protected readonly radios = computed(() => {
    const data = this.store.data();
    const all = data ? radioRows(data.site, data.roster, this.store.devices()) : [];
    return all.filter(({ key }) => this.picked().has(key));
  });
  /** APs that are chosen among those that may hang by radio, and whether the sheet of the site is asked for. */
  protected readonly hanging = signal<ReadonlySet<string>>(this.none);
  protected readonly ofSite = signal(false);
  private readonly mesh = viewChild(MeshView);
  protected readonly hangingRows = computed(() =>
    (this.mesh()?.rows() ?? []).filter(({ key }) => this.hanging().has(key)),
  );
  protected readonly now = toSignal(interval(TICK_MS).pipe(map(() => Date.now())), { initialValue: Date.now() });
  protected readonly note = computed(() => {
    const aps = this.store.devices().filter((device) => device.kind === 'ap').length;
    return `${counted(this.store.ssids().length, 'SSID')}, ${counted(aps, 'access point')}`;
  });

  constructor() {
    // What is asked to be shown is opened once, so that what is closed stays closed.
    let handled = '';
    effect(() => {
      const show = this.show();
      if (!show || !this.store.data() || handled === show) return;
      const [what, ...which] = show.split(':');
      if (what !== 'radio' && what !== 'band' && what !== 'mesh') return;
      handled = show;
      if (what === 'mesh') {
        this.hanging.set(new Set(which));
        if (untracked(this.view) !== 'Mesh') this.look('Mesh');
        return;
      }
      if (what === 'band') this.openBand(which[0] as Band);
      else this.picked.set(new Set([which.join(' ')]));
      if (untracked(this.view) !== 'Radios') this.look('Radios');
    });
  }

  protected look(view: View): void {
    const as = view === 'SSIDs' ? null : view.toLowerCase();
    void this.router.navigate([], { relativeTo: this.route, queryParams: { as }, queryParamsHandling: 'merge' });
  }

  protected openMeshSite(): void {
    this.hanging.set(this.none);
    this.ofSite.set(true);
  }

  protected openBand(band: Band): void {
    this.picked.set(this.none);
    this.bandAsked.set(band);
  }
}
