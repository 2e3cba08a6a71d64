import { HttpClient } from '@angular/common/http';
import { Component, inject, output } from '@angular/core';
import type { CheckedList } from '@iron-lattice/core/base';
import { CODE_COLUMNS, type ListedCode } from '@iron-lattice/core/guests';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { counted } from '../ui/counted';
import type { PreviewColumn } from '../ui/list-preview';
import { GuestsStore } from './guests-store';

const SAMPLE = 'for,code,lasts,devices,use by,sites\r\nCabin 12,,2 d,4,,\r\n';

/** Visit codes from a list: every row is looked at before any is made. */
@Component({
  selector: 'il-code-list-sheet',
  imports: [ListSheet],
  template: `
    <il-list-sheet
      heading="Visit codes from a list"
      note="One code a row, from its first use. A row without a code has one drawn; without a time it lasts as long as a visit."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways"
      (closed)="closed.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class CodeListSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(GuestsStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = CODE_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  protected readonly ways: ListWays = {
    label: 'CSV or XLSX that says in each row what for',
    hint: 'Beside it code, lasts (2 d, 8 h), devices (or any), use by (2026-12-31, to its end in UTC), sites (parted by ;).',
    sample: { href: `data:text/csv;charset=utf-8,${encodeURIComponent(SAMPLE)}`, label: 'A row as CSV, to begin with' },
    typed: { label: 'Or typed, pasted', example: 'for,lasts,devices\nCabin 12,2 d,4' },
  };
  protected readonly taking = new ListTaking<CheckedList<ListedCode>>(
    {
      look: (file) => {
        const headers = { 'content-type': 'application/octet-stream' };
        const url = `/api/portals/${this.store.portal()!.id}/code-list`;
        return firstValueFrom(this.http.post<CheckedList<ListedCode>>(url, file, { headers }));
      },
      take: ({ rows }) => this.store.makeListed(rows.flatMap(({ good }) => good ?? [])),
      offer: (_seen, { good, bad }) =>
        good === 0 ? null : bad > 0 ? `Make the ${counted(good, 'good code')}` : `Make ${counted(good, 'code')}`,
      summary: (_seen, { good, bad }) => `${counted(good, 'code')} to make, ${bad} not good.`,
    },
    () => this.closed.emit(),
  );
}
