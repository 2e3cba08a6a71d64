import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input } from '@angular/core';
import type { UserAtSite, UserView } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { heightInCell } from '../ui/table-view';

const COLUMNS: readonly TableColumn<UserAtSite>[] = [
  {
    ...{ key: 'site', title: 'Site', width: 110, phone: true },
    text: ({ site }) => site,
    link: ({ siteId }) => ['/sites', siteId, 'entry'],
  },
  {
    ...{ key: 'lacks', title: 'Lacks', width: 180, phone: true, groups: true },
    text: ({ lacks }) => lacks.join(', '),
    tone: () => 'caution',
  },
  { key: 'class', title: 'Class', text: ({ accessClass }) => accessClass ?? '', width: 100, groups: true, phone: true },
  { key: 'segment', title: 'Segment', text: ({ segment }) => segment?.name ?? '', width: 100, groups: true },
  {
    ...{ key: 'vlan', title: 'VLAN', width: 50, mono: true, groups: true },
    text: ({ segment }) => (segment ? String(segment.vlan) : ''),
    order: ({ segment }) => segment?.vlan ?? 0,
  },
  { key: 'subnet', title: 'Addresses', text: ({ segment }) => segment?.subnet ?? '', width: 120, mono: true },
  {
    ...{ key: 'at', title: 'Asked at', width: 150 },
    text: ({ ssids, ports }) => [...ssids, ...(ports > 0 ? [counted(ports, 'port')] : [])].join(', '),
  },
];

/** What a user would get at each site, by the draft: those first that lack something. */
@Component({
  selector: 'il-user-sites',
  imports: [Cell, DataTable],
  template: `
    <il-cell label="What this user would get at each site" size="full" [flaw]="live.problem()?.message">
      @if (live.value(); as rows) {
        <il-data-table
          [style.height.px]="height()"
          label="What this user would get"
          remember="user-sites"
          [rows]="sorted()"
          [columns]="columns"
          [key]="key"
          [name]="nameOf"
        />
      } @else if (!live.problem()) {
        <p class="soft" role="status">Looking at every site…</p>
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    il-data-table {
      display: flex;
      margin: 0 -14px;
    }
  `,
})
export class UserSites {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly user = input.required<UserView>();
  protected readonly columns = COLUMNS;
  protected readonly live = liveFetch({
    of: () => {
      const [draft, { id, version }] = [this.store.draft(), this.user()];
      return draft
        ? { url: `/api/drafts/${draft.id}/users/${id}/sites`, of: [draft.head, draft.edits, version] }
        : undefined;
    },
    fetch: ({ url }) => firstValueFrom(this.http.get<UserAtSite[]>(url)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  protected readonly sorted = computed(() => {
    const rows = this.live.value() ?? [];
    return [...rows.filter(({ lacks }) => lacks.length > 0), ...rows.filter(({ lacks }) => lacks.length === 0)];
  });
  protected readonly height = computed(() => heightInCell(this.live.value()?.length ?? 0));
  protected readonly key = ({ siteId }: UserAtSite): string => siteId;
  protected readonly nameOf = ({ site }: UserAtSite): string => site;
}
