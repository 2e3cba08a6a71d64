import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { ClientTaken } from '@iron-lattice/core/entry';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { firstValueFrom, interval } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';

/** Devices count on without saying that anything happened: it is asked for this often, in milliseconds. */
const AGAIN_MS = 10_000;

/** What clients of the site took since they came, as their devices counted last. Provided by the page. */
@Injectable()
export class TakenStore {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly live = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) => firstValueFrom(this.http.get<ClientTaken[]>(`/api/sites/${siteId}/taken`)),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId()),
    every: 2000,
  });
  private readonly byClient = computed(
    () => new Map((this.live.value() ?? []).map((each) => [`${each.deviceId} ${each.mac}`, each])),
  );

  constructor() {
    interval(AGAIN_MS)
      .pipe(takeUntilDestroyed())
      .subscribe(() => void this.live.again());
  }

  /** What one took; undefined: it was not told yet. */
  of({ mac, at }: SiteClient): ClientTaken | undefined {
    return at ? this.byClient().get(`${at.deviceId} ${mac}`) : undefined;
  }
}
