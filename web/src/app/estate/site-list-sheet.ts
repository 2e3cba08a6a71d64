import { HttpClient } from '@angular/common/http';
import { Component, inject, output } from '@angular/core';
import { SITE_COLUMNS, type ImportResult, type SiteListPreview } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { SiteStore } from '../shell/site-store';
import type { PreviewColumn } from '../ui/list-preview';

const TITLES: Readonly<Record<string, string>> = {
  name: 'Name',
  country: 'Country',
  timeZone: 'Time zone',
  address: 'Address',
  tags: 'Tags',
  code: 'Short form',
};

/** Sites from a list: every row is looked at before any is added. */
@Component({
  selector: 'il-site-list-sheet',
  imports: [ListSheet],
  template: `
    <il-list-sheet
      heading="Sites from a list"
      note="Each starts with a management segment in free address space."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways"
      (closed)="closed.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class SiteListSheet {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SITE_COLUMNS.map(({ key }) => ({
    key,
    title: TITLES[key] ?? key,
  }));
  protected readonly ways: ListWays = {
    label: 'CSV or XLSX with name, country, time zone, address, tags',
    hint: 'Every row is looked at before any site is added.',
    sample: { href: '/api/site-lists/sample', label: 'Sample file' },
  };
  protected readonly taking = new ListTaking<SiteListPreview>(
    {
      look: (file) => {
        const headers = { 'content-type': 'application/octet-stream' };
        return firstValueFrom(this.http.post<SiteListPreview>('/api/site-lists', file, { headers }));
      },
      take: async ({ token, bad }) => {
        const body = { token, leaveOutBad: bad > 0 };
        const { imported } = await firstValueFrom(this.http.post<ImportResult>('/api/site-lists/import', body));
        this.site.say(imported === 1 ? '1 site was added.' : `${imported} sites were added.`);
      },
      offer: (_seen, { good, bad }) => {
        if (good === 0) return null;
        return bad > 0 ? `Add the ${good} good, leave out ${bad}` : `Add ${good} ${good === 1 ? 'site' : 'sites'}`;
      },
    },
    () => this.closed.emit(),
  );
}
