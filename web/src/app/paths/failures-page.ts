import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import { sharedViaWords, type SharedRoute } from '@iron-lattice/core/intent';
import type { WorstFailure } from '@iron-lattice/core/paths';
import { firstValueFrom, filter } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { EstateStore } from '../shell/estate-store';
import { LEAVING_WORDS } from '../shell/leaving-words';
import { liveFetch } from '../shell/live-fetch';
import { LiveEvents } from '../shell/live-events';
import { lacksColumn, purposeColumn, reachColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { SessionStore } from '../session/session-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { OpenedRow } from '../ui/opened-row';
import { ProgressCount } from '../ui/progress-count';
import { Stage } from '../ui/stage';
import { MISHAP_WORDS } from './mishap-text';
import { SharedRouteSheet } from './shared-route-sheet';
import { secondsWords } from './watch-curve';

interface Row extends WorstFailure {
  readonly site: string;
  readonly state: string;
}

type RouteRow = SharedRoute & SharedRow;

const ROUTE_COLUMNS: readonly TableColumn<RouteRow>[] = [
  { key: 'name', title: 'Route', text: ({ name }) => name, width: 120, phone: true },
  { key: 'prefix', title: 'What is for', text: ({ prefix }) => prefix, width: 120, mono: true, phone: true },
  { key: 'via', title: 'Goes to', text: ({ via }) => sharedViaWords(via), width: 160, groups: true },
  {
    key: 'tracks',
    title: 'While this answers',
    text: ({ tracks, off }) => (off ? 'not in force' : (tracks ?? 'always')),
    width: 130,
    groups: true,
  },
  reachColumn(),
  { ...sitesColumn<RouteRow>(), phone: false },
  lacksColumn('its segment'),
  purposeColumn(),
];

/** How every site leaves, and what becomes of it when uplinks fail; and the routes that are said once for many of them. */
@Component({
  selector: 'il-failures-page',
  imports: [MatButtonModule, DataTable, ProgressCount, SharedList, SharedRouteSheet, Stage],
  template: `
    <il-stage heading="Paths" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of choices; track each.most) {
          <button type="button" [attr.aria-pressed]="!atRoutes() && most() === each.most" (click)="look(each.most)">
            {{ each.label }}
          </button>
        }
        <button type="button" [attr.aria-pressed]="atRoutes()" (click)="look('routes')">Routes</button>
      </div>
      @if (atRoutes() && session.mayChange()) {
        <button actions mat-stroked-button (click)="opened.begin()">Add a route</button>
      }
      @if (atRoutes()) {
        <il-shared-list
          label="Routes of all sites"
          remember="shared-routes"
          [things]="routes()"
          [columns]="routeColumns"
          [shown]="opened.id()"
          (opened)="opened.open($event)"
        >
          No route yet that is said once for many sites. One has, say, the network of the harbour works reached through
          the router that every pier has at the same address.
        </il-shared-list>
      } @else {
        @if (found.value() === null) {
          @if (progress(); as now) {
            <il-progress-count what="gateways looked at" [done]="now.done" [of]="now.of" />
          }
        }
        <il-data-table
          label="Gateways"
          remember="estate-paths"
          [rows]="rows()"
          [columns]="columns"
          [key]="key"
          [name]="name"
        >
          <span empty>No gateway yet. Claim one under Intake of the site it stands at: its uplinks come with it.</span>
        </il-data-table>
      }
      <ng-container ngProjectAs="[foot]">
        @if (atRoutes() && opened.isNew()) {
          <il-shared-route-sheet [route]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (atRoutes() && opened.row()) {
          <il-shared-route-sheet [route]="opened.row()!" (closed)="opened.close()" (kept)="opened.open($event)" />
        }
      </ng-container>
    </il-stage>
  `,
})
export class FailuresPage {
  private readonly http = inject(HttpClient);
  private readonly estate = inject(EstateStore);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  private readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  /** Which view, and what of it, from the address of the page. */
  readonly as = input<string>();
  readonly show = input<string>();
  protected readonly atRoutes = computed(() => this.as() === 'routes' || this.show() !== undefined);
  protected readonly routes = computed(() => this.shared.estate()?.routes ?? []);
  protected readonly routeColumns = ROUTE_COLUMNS;
  protected readonly opened = new OpenedRow({ rows: this.routes, show: this.show });
  protected readonly choices = [
    { most: 1, label: 'Any one fails' },
    { most: 2, label: 'Any two fail' },
  ] as const;
  protected readonly most = signal<1 | 2>(1);
  protected readonly progress = signal<{ readonly done: number; readonly of: number } | null>(null);
  protected readonly found = liveFetch({
    of: () => `${this.most()}`,
    fetch: (most) => firstValueFrom(this.http.get<WorstFailure[]>(`/api/failures?most=${most}`)),
    when: ({ type }) => type === 'rollout' || type === 'paths',
    every: 10_000, // it is worked out for all sites
  });
  protected readonly rows = computed((): Row[] => {
    const sites = new Map((this.estate.estate()?.sites ?? []).map((site) => [site.id, site]));
    return (this.found.value() ?? []).map((one) => {
      const site = sites.get(one.siteId);
      return { ...one, site: site?.name ?? '', state: site?.paths ? LEAVING_WORDS[site.paths] : '' };
    });
  });
  protected readonly note = computed(() => {
    if (this.atRoutes()) return `${counted(this.routes().length, 'route')}, each at many sites`;
    const lone = this.rows().filter(({ stays, longest }) => longest !== null && !stays).length;
    return `${counted(this.rows().length, 'gateway')}${lone > 0 ? `, ${counted(lone, 'of them')} without another path` : ''}`;
  });
  protected readonly columns: readonly TableColumn<Row>[] = [
    {
      key: 'site',
      title: 'Site',
      text: ({ site }) => site,
      link: ({ siteId }) => ['/sites', siteId, 'paths'],
      width: 130,
      groups: true,
      phone: true,
    },
    { key: 'gateway', title: 'Gateway', text: ({ name }) => name, width: 100, mono: true },
    { key: 'state', title: 'Leaves', text: ({ state }) => state, width: 110, groups: true, phone: true },
    {
      key: 'uplinks',
      title: 'Uplinks',
      text: ({ good, uplinks }) => `${good} of ${uplinks}`,
      order: ({ good }) => good,
      width: 76,
    },
    {
      key: 'longest',
      title: 'Somebody waits at worst',
      text: ({ longest, stays }) =>
        longest === null ? '' : !stays ? 'as long as it lasts' : longest === 0 ? 'not at all' : secondsWords(longest),
      order: ({ longest, stays }) => (longest === null ? -1 : stays ? longest : 1e9),
      tone: ({ longest, stays }) => (longest === null || !stays ? 'bad' : longest > 60 ? 'caution' : ''),
      width: 150,
      phone: true,
    },
    {
      key: 'usual',
      title: 'As usual',
      text: ({ usual, stays }) => (usual === null || !stays ? '' : secondsWords(usual)),
      order: ({ usual }) => usual ?? -1,
      width: 80,
    },
    {
      key: 'by',
      title: 'When',
      text: ({ ports, what, longest, course }) =>
        longest === null
          ? 'no uplink leads anywhere'
          : `${ports.length > 0 ? `${ports.join(' and ')}: ` : ''}${MISHAP_WORDS[what]}${course === undefined ? '' : ` (${course})`}`,
      width: 220,
    },
  ];
  protected readonly key = ({ deviceId }: Row): string => deviceId;
  protected readonly name = ({ name }: Row): string => name;

  protected look(what: 1 | 2 | 'routes'): void {
    if (what !== 'routes') this.most.set(what);
    const as = what === 'routes' ? what : null;
    void this.router.navigate([], { relativeTo: this.route, queryParams: { as, show: null } });
  }

  constructor() {
    inject(LiveEvents)
      .all.pipe(
        filter((event) => event.type === 'failures'),
        takeUntilDestroyed(),
      )
      .subscribe(({ done, of }) => this.progress.set({ done, of }));
  }
}
