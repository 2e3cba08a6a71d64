import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject } from '@angular/core';
import type { CopySiteRequest, EstateView, NewSite, SiteChange, SiteView } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from './live-fetch';

/** How often the list of sites follows its devices at the most, in milliseconds. */
const FOLLOW_MS = 500;

/** The estate and its sites, live. */
@Injectable({ providedIn: 'root' })
export class EstateStore {
  private readonly http = inject(HttpClient);
  private readonly live = liveFetch({
    of: () => 'estate',
    fetch: () => firstValueFrom(this.http.get<EstateView>('/api/estate')),
    when: ({ type }) => type !== 'draft' && type !== 'failures',
    every: FOLLOW_MS,
  });
  readonly estate = this.live.value;
  /** Its sites, to choose from. */
  readonly siteChoices = computed(() =>
    (this.estate()?.sites ?? []).map(({ id, name }) => ({ value: id, label: name })),
  );

  async addSite(wish: NewSite): Promise<SiteView> {
    const site = await firstValueFrom(this.http.post<SiteView>('/api/sites', wish));
    await this.live.again();
    return site;
  }

  /** A site with the segments of another. */
  async copySite(wish: CopySiteRequest): Promise<SiteView> {
    const site = await firstValueFrom(this.http.post<SiteView>('/api/site-copies', wish));
    await this.live.again();
    return site;
  }

  async changeSite(id: string, change: SiteChange): Promise<void> {
    try {
      await firstValueFrom(this.http.patch(`/api/sites/${id}`, change));
    } finally {
      await this.live.again();
    }
  }

  async proposeCode(name: string): Promise<string> {
    const answer = await firstValueFrom(this.http.get<{ code: string }>('/api/site-code', { params: { name } }));
    return answer.code;
  }
}
