import { HttpClient } from '@angular/common/http';
import { DatePipe } from '@angular/common';
import { Component, inject, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { RemovedUser } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { liveFetch } from '../shell/live-fetch';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { UsersStore } from './users-store';

/** Those that are listed one by one. */
const MOST_LISTED = 200;

/** Users that were taken away: for a day they can be brought back, as they were. */
@Component({
  selector: 'il-removed-sheet',
  imports: [DatePipe, MatButtonModule, Sheet],
  template: `
    <il-sheet
      heading="Taken away"
      note="For a day they can be brought back, with their passwords and certificates; then they are forgotten."
      (closed)="closed.emit()"
    >
      @if (session.mayChange() && (live.value() ?? []).length > 1) {
        <button actions mat-stroked-button type="button" (click)="bringBack(all())">
          Bring back {{ counted(all().length, 'user') }}
        </button>
      }
      <ul>
        @for (user of live.value()?.slice(0, most) ?? []; track user.id) {
          <li>
            <span class="mono">{{ user.name }}</span>
            <span class="soft">taken away {{ user.removedAt | date: 'd MMM HH:mm' }}</span>
            @if (session.mayChange()) {
              <button mat-button type="button" (click)="bringBack([user.id])">Bring {{ user.name }} back</button>
            }
          </li>
        } @empty {
          <li class="soft">
            {{ live.problem()?.message ?? (live.value() ? 'Nobody was taken away in the last day.' : 'Asking…') }}
          </li>
        }
      </ul>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 8px 14px;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 10px;
      min-height: 28px;
    }
  `,
})
export class RemovedSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(UsersStore);
  protected readonly session = inject(SessionStore);
  readonly closed = output<void>();
  protected readonly most = MOST_LISTED;
  protected readonly counted = counted;
  protected readonly live = liveFetch({
    of: () => 'removed',
    fetch: () => firstValueFrom(this.http.get<RemovedUser[]>('/api/removed-users')),
    when: (event) => event.type === 'users',
    every: 500,
  });
  constructor() {
    // The message that offers the same for a moment stood over the list.
    inject(MatSnackBar).dismiss();
  }

  protected readonly all = (): readonly string[] => (this.live.value() ?? []).map(({ id }) => id);

  protected async bringBack(ids: readonly string[]): Promise<void> {
    if (await this.store.restore(ids)) await this.live.again();
  }
}
