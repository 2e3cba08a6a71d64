import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input } from '@angular/core';
import type { SharedAtSite } from '@iron-lattice/core/assess';
import { EXCEPTION_WORDS, type SharedKind } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { Cell } from '../ui/cell';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { heightInCell } from '../ui/table-view';
import { liveFetch } from './live-fetch';
import { SiteStore } from './site-store';

/** What is told of it, beside the site's name and what is missing there. */
const TOLD: Readonly<Record<SharedKind, readonly string[]>> = {
  ssid: ['segment', 'vlan', 'subnet', 'aps', 'otherwise'],
  class: ['segment', 'vlan', 'subnet'],
  recipe: ['segment', 'vlan', 'subnet'],
  rule: [],
  set: [],
  guarantee: [],
  radius: [],
  route: ['segment', 'vlan', 'subnet'],
};

/** A cell with what something shared is at each site where it applies; those first that lack what it names. */
@Component({
  selector: 'il-at-sites',
  imports: [Cell, DataTable],
  template: `
    <il-cell label="At each site" size="full" [flaw]="live.problem()?.message">
      @if (live.value(); as rows) {
        @if (rows.length === 0) {
          <p class="soft">{{ none() }}</p>
        } @else {
          <il-data-table
            [style.height.px]="height()"
            label="At each site"
            [remember]="'at-sites-' + kind()"
            [rows]="rows"
            [columns]="columns()"
            [key]="key"
            [name]="nameOf"
          />
        }
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
export class AtSites {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly kind = input.required<SharedKind>();
  readonly id = input.required<string>();
  /** Stage of a site that shows it there. */
  readonly stage = input.required<string>();
  /** What to say where it applies nowhere. */
  readonly none = input('It applies at no site yet.');
  protected readonly live = liveFetch({
    of: () => {
      const draft = this.store.draft();
      if (!draft) return undefined;
      return { url: `/api/drafts/${draft.id}/shared/${this.kind()}/${this.id()}/sites`, of: [draft.head, draft.edits] };
    },
    fetch: ({ url }) => firstValueFrom(this.http.get<SharedAtSite[]>(url)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  protected readonly height = computed(() => heightInCell(this.live.value()?.length ?? 0));
  protected readonly columns = computed((): readonly TableColumn<SharedAtSite>[] => {
    const told = TOLD[this.kind()];
    const all: readonly TableColumn<SharedAtSite>[] = [
      {
        key: 'site',
        title: 'Site',
        text: ({ site }) => site,
        link: ({ siteId }) => ['/sites', siteId, this.stage()],
        width: 120,
        phone: true,
      },
      {
        key: 'lacks',
        title: 'Lacks',
        text: ({ lacks, differs }) => [...lacks, ...(differs ? ['is no longer as the recipe says'] : [])].join(', '),
        tone: () => 'bad',
        width: 180,
        phone: true,
      },
      {
        key: 'segment',
        title: 'Segment',
        text: ({ segment, pool, landed }) => landed ?? segment?.name ?? (pool === null ? '' : `pool of ${pool}`),
        width: 100,
        groups: true,
      },
      {
        key: 'vlan',
        title: 'VLAN',
        text: ({ segment }) => (segment ? String(segment.vlan) : ''),
        order: ({ segment }) => segment?.vlan ?? 0,
        width: 50,
        mono: true,
        groups: true,
      },
      { key: 'subnet', title: 'Subnet', text: ({ segment }) => segment?.subnet ?? '', width: 120, mono: true },
      {
        key: 'aps',
        title: 'Sent by',
        text: ({ aps }) => `${aps} ${aps === 1 ? 'AP' : 'APs'}`,
        order: ({ aps }) => aps,
        width: 70,
      },
      {
        key: 'otherwise',
        title: 'Otherwise there',
        text: ({ otherwise }) => otherwise.map((field) => EXCEPTION_WORDS[field]).join(', '),
        width: 160,
      },
    ];
    return all.filter(({ key }) => key === 'site' || key === 'lacks' || told.includes(key));
  });
  protected readonly key = ({ siteId }: SharedAtSite): string => siteId;
  protected readonly nameOf = ({ site }: SharedAtSite): string => site;
}
