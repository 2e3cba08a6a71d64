import { HttpClient } from '@angular/common/http';
import { Component, inject, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { CheckedList } from '@iron-lattice/core/base';
import { USER_COLUMNS, type NewUser } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { counted } from '../ui/counted';
import type { PreviewColumn } from '../ui/list-preview';
import { UsersStore } from './users-store';

const SAMPLE = 'name,password,groups,until,devices,off,note\r\nmarn.ellis,,Deck; Engine,2027-03-31,2,,\r\n';

/** Users from a list: every row is looked at before any is made. */
@Component({
  selector: 'il-user-list-sheet',
  imports: [MatButtonModule, ListSheet],
  template: `
    <il-list-sheet
      heading="Users from a list"
      note="One user a row, a person or a device by its MAC address. A person without a password has one drawn, which is shown once, to be saved and handed over."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways"
      (closed)="closed.emit()"
    >
      @if (store.making(); as making) {
        <p going class="going" role="status">
          Passwords are worked out: {{ making.done }} of {{ making.of }}. Nothing is made before all of them are.
          <button mat-button type="button" (click)="store.cancel()">Cancel</button>
        </p>
      }
    </il-list-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .going {
      margin: 0;
      padding: 6px 14px;
    }
  `,
})
export class UserListSheet {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(UsersStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = USER_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  protected readonly ways: ListWays = {
    label: 'CSV or XLSX with a name in each row',
    hint: 'Beside it password, groups (parted by semicolons), until, devices, off, note.',
    sample: { href: `data:text/csv;charset=utf-8,${encodeURIComponent(SAMPLE)}`, label: 'A row as CSV, to begin with' },
    typed: { label: 'Or typed, pasted', example: 'name,groups\nmarn.ellis,Deck' },
  };
  protected readonly taking = new ListTaking<CheckedList<NewUser>>(
    {
      look: (file) => {
        const headers = { 'content-type': 'application/octet-stream' };
        return firstValueFrom(this.http.post<CheckedList<NewUser>>('/api/user-list', file, { headers }));
      },
      take: ({ rows }) => this.store.add(rows.flatMap(({ good }) => good ?? [])),
      offer: (_seen, { good, bad }) =>
        good === 0 ? null : bad > 0 ? `Make the ${counted(good, 'good user')}` : `Make ${counted(good, 'user')}`,
      summary: ({ rows }, { good, bad }) => {
        const drawn = rows.filter((row) => row.good?.password === '').length;
        return `${counted(good, 'user')} to make, ${drawn} of them with a password that is drawn; ${bad} not good.`;
      },
    },
    () => {
      if (this.store.sheet()?.of === 'list') this.closed.emit();
    },
  );
}
