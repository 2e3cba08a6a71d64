import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from './live-fetch';
import { SiteStore } from './site-store';

/** Devices report in bursts; their clients are asked for once after each. */
const GATHER_MS = 400;

/** The clients that are at a site now, as its devices report them. Provided by the page. */
@Injectable()
export class SiteClients {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly live = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) => firstValueFrom(this.http.get<SiteClient[]>(`/api/sites/${siteId}/clients`)),
    when: (event) => event.type === 'gone' || (event.type === 'device' && event.siteIds.includes(this.store.siteId())),
    every: GATHER_MS,
  });
  /** Null until they were told. */
  readonly clients = this.live.value;
}
