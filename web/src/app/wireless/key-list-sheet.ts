import { HttpClient } from '@angular/common/http';
import { Component, inject, output } from '@angular/core';
import type { CheckedList } from '@iron-lattice/core/base';
import { KEY_COLUMNS, type NewRingKey } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { counted } from '../ui/counted';
import type { PreviewColumn } from '../ui/list-preview';
import { RingStore } from './ring-store';

const SAMPLE = 'name,key,segment,class,bound to,devices,from,until,note\r\nBerth 1,,,,,2,,,\r\n';

/** Keys from a list: every row is looked at before any is made. */
@Component({
  selector: 'il-key-list-sheet',
  imports: [ListSheet],
  template: `
    <il-list-sheet
      heading="Keys from a list"
      note="One key a row. A row without a key has one drawn; a segment or class that the ring does not lead to lets nobody in until it does."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways"
      (closed)="closed.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class KeyListSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(RingStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = KEY_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  protected readonly ways: ListWays = {
    label: 'CSV or XLSX with a name in each row',
    hint: 'Beside it key, segment or class, MAC addresses it is bound to, devices, from, until, note.',
    sample: { href: `data:text/csv;charset=utf-8,${encodeURIComponent(SAMPLE)}`, label: 'A row as CSV, to begin with' },
    typed: { label: 'Or typed, pasted', example: 'name,key,segment\nBerth 1,,Berths' },
  };
  protected readonly taking = new ListTaking<CheckedList<NewRingKey>>(
    {
      look: (file) => {
        const headers = { 'content-type': 'application/octet-stream' };
        return firstValueFrom(this.http.post<CheckedList<NewRingKey>>(this.store.listUrl(), file, { headers }));
      },
      take: ({ rows }) => this.store.add(rows.flatMap(({ good }) => good ?? [])),
      offer: (_seen, { good, bad }) =>
        good === 0 ? null : bad > 0 ? `Make the ${counted(good, 'good key')}` : `Make ${counted(good, 'key')}`,
      summary: (_seen, { good, bad }) => `${counted(good, 'key')} to make, ${bad} not good.`,
    },
    () => this.closed.emit(),
  );
}
