import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable } from '@angular/core';
import type { DirectoryFields, DirectoryTried, DirectoryTry, DirectoryView } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../../shell/live-fetch';
import { UsersStore } from '../users-store';

/** The directory that is asked for users who are not kept here; what is said of it acts at once. */
@Injectable()
export class DirectoryStore {
  private readonly http = inject(HttpClient);
  private readonly users = inject(UsersStore);
  private readonly live = liveFetch({
    of: () => (this.users.inSight() ? 'directory' : undefined),
    stays: true,
    fetch: () => firstValueFrom(this.http.get<{ directory: DirectoryView | null }>('/api/directory')),
    when: (event) => event.type === 'users',
    every: 1000,
  });
  /** Undefined: it is not known yet; null: there is none. */
  readonly view = computed(() => this.live.value()?.directory);

  async keep(fields: DirectoryFields, secret: string | null): Promise<void> {
    const version = this.view()?.version ?? 0;
    await firstValueFrom(this.http.post('/api/directory', { version, fields, secret }));
    await this.live.again();
  }

  async remove(): Promise<void> {
    await firstValueFrom(this.http.delete('/api/directory'));
    await this.live.again();
  }

  try = (asked: DirectoryTry): Promise<DirectoryTried> =>
    firstValueFrom(this.http.post<DirectoryTried>('/api/directory/try', asked));
}
