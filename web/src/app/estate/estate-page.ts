import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Router } from '@angular/router';
import type { SiteView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SiteFindingsStore } from '../shell/site-findings';
import { DataTable } from '../ui/data-table';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { StateMark } from '../ui/state-mark';
import { BranchesSheet } from './branches/branches-sheet';
import { isListed, SITE_COLUMNS, SITE_FILTERS, type SiteFilter, type SiteRow } from './site-columns';
import { NewSiteSheet } from './new-site-sheet';
import { SiteListSheet } from './site-list-sheet';
import { SiteSheet } from './site-sheet';

type Foot = 'add' | 'list' | 'branches' | null;

/** All sites of the estate, with what waits at each. */
@Component({
  selector: 'il-estate-page',
  providers: [SiteFindingsStore],
  imports: [MatButtonModule, BranchesSheet, DataTable, Stage, StateMark, NewSiteSheet, SiteListSheet, SiteSheet],
  template: `
    @if (store.estate(); as estate) {
      <il-stage [heading]="estate.name" [note]="note()">
        <div actions class="choices" role="group" aria-label="Show">
          @for (choice of filters(); track choice.filter) {
            <button type="button" [attr.aria-pressed]="filter() === choice.filter" (click)="filter.set(choice.filter)">
              {{ choice.filter }} <b>{{ choice.count }}</b>
            </button>
          }
        </div>
        @if (session.mayChange()) {
          <ng-container ngProjectAs="[actions]">
            <button mat-stroked-button (click)="openFoot('list')">Sites from a list</button>
            <button mat-stroked-button (click)="openFoot('branches')">Branches</button>
            <button mat-flat-button (click)="openFoot('add')">Add site</button>
          </ng-container>
        }
        <il-data-table
          label="Sites"
          remember="sites"
          [rows]="listed()"
          [columns]="columns"
          [key]="key"
          [name]="nameOf"
          [shown]="opened.id()"
          (opened)="openSheet($event)"
        >
          <span empty>{{ empty() }}</span>
          <ng-container ngProjectAs="[tools]">
            @if (estate.calling > 0) {
              <span class="calling"><il-state-mark state="calling" /> {{ calling() }}</span>
            }
          </ng-container>
        </il-data-table>
        <ng-container ngProjectAs="[foot]">
          @if (foot() === 'add') {
            <il-new-site-sheet [from]="copyOf()" (closed)="foot.set(null)" (added)="open($event)" />
          } @else if (foot() === 'branches') {
            <il-branches-sheet (closed)="foot.set(null)" />
          } @else if (foot() === 'list') {
            <il-site-list-sheet (closed)="foot.set(null)" />
          } @else if (opened.row(); as site) {
            <il-site-sheet [site]="site" (closed)="opened.close()" (copied)="copy($event)" />
          }
        </ng-container>
      </il-stage>
    } @else {
      <p class="loading soft" role="status">Fetching the estate…</p>
    }
  `,
  styles: `
    .loading {
      padding: 12px 14px;
    }
    il-new-site-sheet,
    il-site-list-sheet,
    il-branches-sheet,
    il-site-sheet {
      display: contents;
    }
    @media (max-width: 720px) {
      .calling {
        display: none;
      }
    }
  `,
})
export class EstatePage {
  private readonly router = inject(Router);
  protected readonly store = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  protected readonly findings = inject(SiteFindingsStore);
  protected readonly foot = signal<Foot>(null);
  protected readonly copyOf = signal<SiteView | null>(null);
  protected readonly columns = SITE_COLUMNS;
  protected readonly key = ({ id }: SiteRow): string => id;
  protected readonly nameOf = ({ name }: SiteRow): string => name;
  protected readonly filter = signal<SiteFilter>('All');
  private readonly rows = computed((): readonly SiteRow[] => {
    const found = this.findings.bySite();
    return (this.store.estate()?.sites ?? []).map((site) => ({ ...site, found: found.get(site.id) ?? null }));
  });
  protected readonly listed = computed(() => this.rows().filter((row) => isListed(row, this.filter())));
  /** Those that there is something of, and the one that was chosen. */
  protected readonly filters = computed(() =>
    SITE_FILTERS.map((filter) => ({ filter, count: this.rows().filter((row) => isListed(row, filter)).length })).filter(
      ({ filter, count }) => count > 0 || filter === 'All' || filter === this.filter(),
    ),
  );
  protected readonly opened = new OpenedRow({ rows: this.rows });
  protected readonly empty = computed(() =>
    this.filter() === 'All'
      ? 'No site yet. Add the first one: a name, a country and a time zone are enough. Or bring a list of all of them.'
      : 'None.',
  );
  protected readonly note = computed(() => {
    const estate = this.store.estate()!;
    const devices = estate.sites.flatMap((site) => Object.values(site.devices)).reduce((sum, count) => sum + count, 0);
    return `${estate.sites.length} sites, ${devices} devices, revision ${estate.revision}`;
  });
  protected readonly calling = computed(() => {
    const count = this.store.estate()!.calling;
    const call = count === 1 ? '1 device calls and is nobody’s yet' : `${count} devices call and are nobody’s yet`;
    return `${call}: claim them under Intake of the site they stand at.`;
  });

  protected openSheet({ id }: SiteRow): void {
    this.foot.set(null);
    this.opened.open(id);
  }

  protected openFoot(foot: Foot): void {
    this.copyOf.set(null);
    this.foot.set(foot);
  }

  protected copy(site: SiteView): void {
    this.copyOf.set(site);
    this.foot.set('add');
  }

  protected async open(site: SiteView): Promise<void> {
    await this.router.navigate(['/sites', site.id, 'intake']);
  }
}
