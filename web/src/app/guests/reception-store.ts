import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import type { ReceptionistChange, ReceptionistFields, ReceptionistView } from '@iron-lattice/core/guests';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';

/** A password that was drawn: shown this once. */
export interface DrawnPassword {
  readonly name: string;
  readonly email: string;
  readonly password: string;
}

/** People at receptions, and what is done with them; each change acts at once. */
@Injectable()
export class ReceptionStore {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  /** Whether they are in sight: else nobody asks for them. */
  readonly inSight = signal(false);
  readonly drawn = signal<DrawnPassword | null>(null);
  private readonly live = liveFetch({
    of: () => (this.inSight() ? 'all' : undefined),
    stays: true,
    fetch: () => firstValueFrom(this.http.get<ReceptionistView[]>('/api/receptionists')),
    when: ({ type }) => type === 'receptionists',
  });
  readonly all = this.live.value;
  readonly problem = this.live.problem;
  /** Those of the site in front; of all sites where none is. */
  readonly here = computed(() => {
    const siteId = this.site.siteId();
    return (this.all() ?? []).filter(({ siteIds }) => siteId === null || siteIds.includes(siteId));
  });

  /** @returns the id. @throws Problem. */
  async add(fields: ReceptionistFields): Promise<string> {
    const url = '/api/receptionists';
    const { id, password } = await firstValueFrom(this.http.post<{ id: string; password: string }>(url, fields));
    this.drawn.set({ name: fields.name, email: fields.email, password });
    await this.live.again();
    return id;
  }

  async set(id: string, change: ReceptionistChange): Promise<void> {
    try {
      await firstValueFrom(this.http.patch(`/api/receptionists/${id}`, change));
    } finally {
      await this.live.again();
    }
  }

  async renew({ id, name, email }: ReceptionistView): Promise<void> {
    const url = `/api/receptionists/${id}/password`;
    const { password } = await firstValueFrom(this.http.post<{ password: string }>(url, {}));
    this.drawn.set({ name, email, password });
  }

  async remove(id: string): Promise<void> {
    await firstValueFrom(this.http.delete(`/api/receptionists/${id}`));
    await this.live.again();
  }
}
