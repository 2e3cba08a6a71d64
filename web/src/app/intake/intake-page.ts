import { Component, computed, effect, inject, input, linkedSignal, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceRow, DeviceState, DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { DataTable } from '../ui/data-table';
import { Stage } from '../ui/stage';
import { ClaimSheet } from './claim-sheet';
import { deviceColumns } from './device-columns';
import { DeviceSheet } from './device-sheet';
import { DevicesStore } from './devices-store';
import { FindSheet } from './find-sheet';
import { HitchList } from './hitch-list';
import { ManySheet } from './many-sheet';

type Filter = 'all' | 'hitches' | DeviceState;

const TONES: Partial<Record<Filter, string>> = {
  calling: 'info',
  behind: 'caution',
  stuck: 'bad',
  hitches: 'caution',
};

/** Devices of a site, or of the estate: those that are ours, are expected, or call. */
@Component({
  selector: 'il-intake-page',
  imports: [MatButtonModule, DataTable, Stage, ClaimSheet, DeviceSheet, FindSheet, HitchList, ManySheet],
  providers: [DevicesStore],
  template: `
    <il-stage [heading]="siteId() ? 'Intake' : 'Devices'" [note]="note()">
      <div actions class="choices" role="group" aria-label="Show">
        @for (choice of filters(); track choice.filter) {
          <button type="button" [attr.aria-pressed]="filter() === choice.filter" (click)="filter.set(choice.filter)">
            {{ choice.words }} <b [class]="choice.tone">{{ choice.count }}</b>
          </button>
        }
      </div>
      @if (session.mayChange()) {
        <button actions mat-flat-button class="find" (click)="openFind()">Find devices</button>
      }
      @if (filter() === 'hitches') {
        <il-hitch-list [hitches]="store.hitches()" (shown)="shownId.set($event)" />
      } @else {
        <il-data-table
          label="Devices"
          [remember]="siteId() ? 'site-devices' : 'estate-devices'"
          [rows]="rows()"
          [columns]="columns()"
          [key]="key"
          [name]="nameOf"
          [stateOf]="stateOf"
          [pickable]="session.mayChange()"
          [shown]="shownId()"
          [(picked)]="picked"
          (opened)="open($event)"
        >
          <span empty>{{ empty() }}</span>
          <ng-container ngProjectAs="[tools]">
            @if (session.mayChange() && siteId() && callingRows().length > 1 && !claiming()) {
              <button mat-button (click)="chooseCalling()">Choose all {{ callingRows().length }} calling</button>
            }
          </ng-container>
        </il-data-table>
      }
      <ng-container ngProjectAs="[foot]">
        @if (finding()) {
          <il-find-sheet
            [siteId]="siteId() ?? null"
            [calling]="callingRows()"
            (closed)="finding.set(false)"
            (claim)="claimThese($event)"
            (typed)="typeSerials()"
          />
        } @else if (claiming()) {
          <il-claim-sheet [serials]="chosenSerials()" (closed)="closeClaim()" (done)="claimed($event)" />
        } @else if (pickedRows().length > 1) {
          <il-many-sheet [devices]="pickedRows()" (closed)="picked.set(none)" />
        } @else if (shownId(); as id) {
          <il-device-sheet
            [id]="id"
            (closed)="shownId.set(null)"
            (gone)="shownId.set(null)"
            (claim)="claimThese([$event])"
          />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-claim-sheet,
    il-device-sheet,
    il-find-sheet,
    il-many-sheet {
      display: contents;
    }
    @media (max-width: 720px) {
      .find {
        width: 100%;
        height: 44px;
        order: -1;
      }
    }
  `,
})
export class IntakePage {
  private readonly site = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  protected readonly store = inject(DevicesStore);
  protected readonly session = inject(SessionStore);
  /** Absent for the whole estate. */
  readonly siteId = input<string>();
  /** Id of a device to show, from search or a finding. */
  readonly show = input<string>();
  /** Present when somebody asked to find devices. */
  readonly add = input<string>();

  protected readonly none: ReadonlySet<string> = new Set();
  protected readonly filter = signal<Filter>('all');
  /** Ids of the rows that are chosen. */
  protected readonly picked = signal<ReadonlySet<string>>(this.none);
  protected readonly finding = linkedSignal(() => this.add() !== undefined);
  protected readonly shownId = linkedSignal<string | null>(() => this.show() ?? null);
  private readonly now = signal(Date.now());

  private readonly siteNames = computed(() => new Map(this.estate.estate()?.sites.map((site) => [site.id, site.name])));
  /** The same for as long as the page is: what its texts follow is looked up when they are read. */
  protected readonly columns = computed(() =>
    deviceColumns(this.siteId() ? null : (id) => this.siteNames().get(id) ?? '', () => this.now()),
  );
  protected readonly key = (row: DeviceRow): string => row.id;
  protected readonly nameOf = (row: DeviceRow): string => row.name ?? row.serial;
  protected readonly stateOf = (row: DeviceRow): DeviceState => row.state;

  protected readonly rows = computed(() => {
    const filter = this.filter();
    const all = this.store.rows();
    return filter === 'all' || filter === 'hitches' ? all : all.filter((row) => row.state === filter);
  });
  protected readonly callingRows = computed(() => this.store.rows().filter((row) => row.state === 'calling'));
  protected readonly pickedRows = computed(() => this.store.rows().filter((row) => this.picked().has(row.id)));
  /** Serial numbers of chosen devices that stopped calling: the claim says so rather than leaving them out silently. */
  private readonly lost = signal<readonly string[]>([]);
  protected readonly chosenSerials = computed(() => [
    ...this.pickedRows()
      .filter((row) => row.state === 'calling')
      .map((row) => row.serial),
    ...this.lost(),
  ]);
  /** Whether somebody wants to type serial numbers. */
  protected readonly bySerial = signal(false);
  /** Chosen rows that all call are there to be claimed. */
  protected readonly claiming = computed(() => {
    const rows = this.pickedRows();
    if (this.bySerial() || (this.lost().length > 0 && rows.length === 0)) return this.session.mayChange();
    return (
      this.session.mayChange() &&
      this.siteId() !== undefined &&
      rows.length > 0 &&
      rows.every((row) => row.state === 'calling')
    );
  });

  protected readonly filters = computed(() => {
    const rows = this.store.rows();
    const counts = new Map<Filter, number>([
      ['all', rows.length],
      ['hitches', this.store.hitches().length],
    ]);
    for (const { state } of rows) counts.set(state, (counts.get(state) ?? 0) + 1);
    const words: [Filter, string][] = [
      ['all', 'All'],
      ['calling', 'Calling'],
      ['expected', 'Expected'],
      ['behind', 'Behind'],
      ['silent', 'Silent'],
      ['stuck', 'Stuck'],
      ['hitches', 'Hitches'],
    ];
    return words
      .map(([filter, text]) => ({ filter, words: text, count: counts.get(filter) ?? 0, tone: TONES[filter] ?? '' }))
      .filter(({ filter, count }) => count > 0 || ['all', 'calling', this.filter()].includes(filter));
  });
  protected readonly note = computed(() => {
    const ours = this.store.rows().filter((row) => row.state !== 'calling' && row.state !== 'expected').length;
    if (ours === 0 && this.store.loaded()) return this.siteId() ? 'No device at this site yet.' : 'No device yet.';
    const where = this.siteId() ? 'here' : 'in the estate';
    return ours === 1 ? `1 device ${where}` : `${ours} devices ${where}`;
  });
  protected readonly empty = computed(() => {
    if (!this.store.loaded()) return 'Fetching the devices…';
    if (this.filter() !== 'all') return 'None.';
    return 'No device yet. Cable a box to the internet: it calls by itself and appears here. Or press Find devices: sweep your network, bring a list of serial numbers, or scan a label.';
  });

  constructor() {
    effect(() => this.store.siteId.set(this.siteId() ?? null));
    effect(() => {
      if (!this.siteId()) this.site.siteId.set(null);
    });
    effect((done) => {
      const timer = setInterval(() => this.now.set(Date.now()), 60_000);
      done(() => clearInterval(timer));
    });
    const serials = new Map<string, string>();
    effect(() => {
      // Rows that are no longer there are not chosen any more; one that called is still to be claimed.
      const there = this.picked().size === 0 ? null : new Set(this.store.rows().map((row) => row.id));
      for (const row of this.pickedRows()) if (row.state === 'calling') serials.set(row.id, row.serial);
      const gone = there ? [...this.picked()].filter((id) => !there.has(id)) : [];
      if (gone.length === 0) return;
      this.lost.update((lost) => [...lost, ...gone.flatMap((id) => serials.get(id) ?? [])]);
      this.picked.set(new Set([...this.picked()].filter((id) => there!.has(id))));
    });
  }

  protected closeClaim(): void {
    this.picked.set(this.none);
    this.lost.set([]);
    this.bySerial.set(false);
  }

  protected openFind(): void {
    this.closeClaim();
    this.finding.set(true);
  }

  protected chooseCalling(): void {
    this.finding.set(false);
    this.picked.set(new Set(this.callingRows().map((row) => row.id)));
  }

  protected typeSerials(): void {
    this.finding.set(false);
    this.bySerial.set(true);
  }

  protected claimThese(ids: readonly string[]): void {
    this.finding.set(false);
    this.picked.set(new Set(ids));
  }

  protected open(row: DeviceRow): void {
    this.finding.set(false);
    this.closeClaim();
    this.shownId.set(row.id);
  }

  protected async claimed(devices: readonly DeviceView[]): Promise<void> {
    this.closeClaim();
    await Promise.all([this.store.follow(), this.site.reloadDevices()]);
    this.shownId.set(devices[0]?.id ?? null);
  }
}
