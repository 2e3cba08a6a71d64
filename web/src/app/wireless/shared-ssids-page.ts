import { Component, computed, inject, input, signal, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import type { Ssid } from '@iron-lattice/core/intent';
import type { EstateRadio } from '@iron-lattice/core/wireless';
import { SessionStore } from '../session/session-store';
import { lacksColumn, purposeColumn, reachColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { HoursSheet } from './hours-sheet';
import { HoursView } from './hours-view';
import { KeysFoot } from './keys-foot';
import { KeysView } from './keys-view';
import { RingStore } from './ring-store';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { EstateRadios } from './estate-radios';
import { EstateRadiosSheet } from './estate-radios-sheet';
import { securityOf } from './security-words';
import { SsidSheet } from './ssid-sheet';

type Row = Ssid & SharedRow;

const COLUMNS: readonly TableColumn<Row>[] = [
  { key: 'name', title: 'SSID', text: ({ name }) => name, width: 130, phone: true },
  {
    key: 'security',
    title: 'Security',
    text: (ssid) => `${securityOf(ssid)}${ssid.off ? ', switched off' : ''}`,
    width: 140,
    groups: true,
  },
  { key: 'bands', title: 'Bands, GHz', text: ({ bands }) => bands.join(', '), width: 80, mono: true, groups: true },
  { key: 'segment', title: 'Segment', text: ({ segment }) => segment, width: 100, groups: true },
  reachColumn(),
  sitesColumn(),
  lacksColumn('its segment'),
  purposeColumn(),
];

/** How search names hours among what is shown here. */
const HOURS = 'hours:';

/** Every SSID of the estate: where it reaches, and where the segment is missing that its clients join. */
@Component({
  selector: 'il-shared-ssids-page',
  imports: [
    MatButtonModule,
    EstateRadios,
    EstateRadiosSheet,
    HoursSheet,
    HoursView,
    KeysFoot,
    KeysView,
    SharedList,
    SsidSheet,
    Stage,
  ],
  providers: [RingStore],
  template: `
    <il-stage heading="Wireless" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        <button type="button" [attr.aria-pressed]="!radios() && !hours() && !keys()" (click)="look(null)">SSIDs</button>
        <button type="button" [attr.aria-pressed]="keys()" (click)="look('keys')">Keys</button>
        <button type="button" [attr.aria-pressed]="hours()" (click)="look('hours')">Hours</button>
        <button type="button" [attr.aria-pressed]="radios()" (click)="look('radios')">Radios</button>
      </div>
      @if (session.mayChange() && hours()) {
        <button actions mat-flat-button (click)="openedHours.begin()">Add hours</button>
      } @else if (session.mayChange() && !radios() && !keys()) {
        <button actions mat-flat-button (click)="opened.begin()">Add SSID</button>
      }
      @if (radios()) {
        <il-estate-radios [(picked)]="picked" />
      } @else if (keys()) {
        <il-keys-view [wanted]="ring()" />
      } @else if (hours()) {
        <il-hours-view [opened]="openedHours" />
      } @else {
        <il-shared-list
          label="SSIDs"
          remember="shared-ssids"
          [things]="ssids()"
          [columns]="columns"
          [shown]="opened.id()"
          (opened)="opened.open($event)"
        >
          No SSID yet. Add one for the whole estate, or for some sites: a name, a passphrase and the segment its clients
          join.
        </il-shared-list>
      }
      <ng-container ngProjectAs="[foot]">
        @if (radios()) {
          @if (chosen().length > 0) {
            <il-estate-radios-sheet
              [rows]="chosen()"
              (closed)="picked.set(none)"
              [again]="again"
              (toSite)="go($event)"
            />
          }
        } @else if (keys()) {
          <il-keys-foot />
        } @else if (hours()) {
          @if (openedHours.isNew()) {
            <il-hours-sheet [hours]="null" (closed)="openedHours.close()" (kept)="openedHours.open($event)" />
          } @else if (openedHours.row(); as one) {
            <il-hours-sheet [hours]="one" (closed)="openedHours.close()" (kept)="openedHours.open($event)" />
          }
        } @else if (opened.isNew()) {
          <il-ssid-sheet [ssid]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (shown(); as ssid) {
          <il-ssid-sheet [ssid]="ssid" (closed)="opened.close()" (kept)="opened.open($event)" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-ssid-sheet,
    il-hours-sheet,
    il-estate-radios-sheet {
      display: contents;
    }
  `,
})
export class SharedSsidsPage {
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  readonly show = input<string>();
  readonly add = input<string>();
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  protected readonly radios = computed(() => this.as() === 'radios');
  protected readonly hours = computed(() => this.as() === 'hours' || this.show()?.startsWith(HOURS) === true);
  protected readonly keys = computed(() => this.as() === 'keys');
  /** Id of the SSID whose keys are shown. */
  readonly ring = input<string>();
  protected readonly columns = COLUMNS;
  protected readonly ssids = computed(() => this.shared.estate()?.ssids ?? []);
  protected readonly openedHours = new OpenedRow({
    rows: () => this.shared.estate()?.hours ?? [],
    show: () => (this.show()?.startsWith(HOURS) ? this.show()!.slice(HOURS.length) : undefined),
  });
  protected readonly opened = new OpenedRow({ rows: this.ssids, show: this.show, add: this.add });
  protected readonly note = computed(() => `${counted(this.ssids().length, 'SSID')}, at all sites`);

  protected readonly shown = computed(() => (this.radios() ? undefined : this.opened.row()));

  protected readonly none: ReadonlySet<string> = new Set();
  /** Radios that are chosen, `device band`. */
  protected readonly picked = signal<ReadonlySet<string>>(this.none);
  private readonly table = viewChild(EstateRadios);
  protected readonly chosen = computed(() => this.table()?.chosen() ?? []);

  protected readonly again = async (): Promise<void> => this.table()?.again();

  /** A radio at its site. */
  protected go({ siteId, deviceId, band }: EstateRadio): void {
    void this.router.navigate(['/sites', siteId, 'wireless'], {
      queryParams: { as: 'radios', show: `radio:${deviceId}:${band}` },
    });
  }

  protected look(as: 'radios' | 'hours' | 'keys' | null): void {
    this.opened.close();
    this.openedHours.close();
    void this.router.navigate([], {
      relativeTo: this.route,
      queryParams: { as, show: null },
      queryParamsHandling: 'merge',
    });
  }
}
