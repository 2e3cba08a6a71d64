import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject } from '@angular/core';
import type { KeptProbe } from '@iron-lattice/core/bench';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from '../shell/site-store';
import { liveFetch } from '../shell/live-fetch';

/** The kept probes of a site. Provided by the page. */
@Injectable()
export class ProbesStore {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly kept = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) => firstValueFrom(this.http.get<KeptProbe[]>(`/api/sites/${siteId}/probes`)),
    when: ({ type }) => type === 'site',
  });
  readonly probes = computed((): readonly KeptProbe[] => this.kept.value() ?? []);

  /** Keeps a probe; one of the same name moves. */
  async keep(name: string, seat: KeptProbe['seat']): Promise<KeptProbe> {
    const kept = await firstValueFrom(this.http.post<KeptProbe>(this.base, { name, seat }));
    this.kept.put([...this.probes().filter(({ id }) => id !== kept.id), kept]);
    return kept;
  }

  async drop(id: string): Promise<void> {
    await firstValueFrom(this.http.delete(`${this.base}/${id}`));
    this.kept.put(this.probes().filter((probe) => probe.id !== id));
  }

  private get base(): string {
    return `/api/sites/${this.store.siteId()}/probes`;
  }
}
