import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output } from '@angular/core';
import { ROUTE_COLUMNS, type RouteListPreview } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { SiteStore } from '../shell/site-store';
import type { PreviewColumn } from '../ui/list-preview';
import type { GatewayRow } from './path-rows';

/** Routes of a gateway from a list, dropped or pasted: every row is looked at before any becomes an edit. */
@Component({
  selector: 'il-route-list-sheet',
  imports: [ListSheet],
  template: `
    <il-list-sheet
      [heading]="'Routes of ' + gateway().device.name + ' from a list'"
      note="Good rows are added to those that there are."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways()"
      (closed)="closed.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class RouteListSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly gateway = input.required<GatewayRow>();
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = ROUTE_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  private readonly base = computed(
    () => `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}/gateways/${this.gateway().device.id}`,
  );
  protected readonly ways = computed((): ListWays => ({
    label: 'Or CSV or XLSX with name, for, goes',
    hint: 'It goes to an address, by an uplink, or nowhere. Also: metric, off',
    sample: { href: `${this.base()}/routes`, label: 'Its routes as CSV, to begin with' },
    typed: {
      label: 'Paste rows',
      example: 'Harbour works,172.20.0.0/16,10.20.5.1\nNot for us,198.51.100.0/24,nowhere',
    },
  }));
  protected readonly taking = new ListTaking<RouteListPreview>(
    {
      look: (file) => this.look(file),
      take: ({ operations }) => this.store.edit(operations),
      offer: ({ operations }, { bad }) => {
        if (operations.length === 0) return null;
        return bad > 0 ? 'Put the good rows into the draft' : 'Put into the draft';
      },
      summary: (_seen, { good, bad }) => `${good} to add, ${bad} not good.`,
    },
    () => this.closed.emit(),
  );

  private look(file: Blob): Promise<RouteListPreview> {
    const headers = { 'content-type': 'application/octet-stream' };
    return firstValueFrom(this.http.post<RouteListPreview>(`${this.base()}/route-list`, file, { headers }));
  }
}
