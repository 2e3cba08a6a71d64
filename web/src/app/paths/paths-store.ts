import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, inject } from '@angular/core';
import type { RouterTries } from '@iron-lattice/core/assess';
import type { BusyShare, Capacity } from '@iron-lattice/core/line';
import type { SitePathsView } from '@iron-lattice/core/paths';
import { firstValueFrom, interval } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { RuleHits } from '../shell/rule-hits';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';

/** What is measured changes without anybody saying so: it is asked for this often, in milliseconds. */
const MEASURED_MS = 15_000;

/** How the site in front leaves. */
@Injectable()
export class PathsStore {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  private readonly fetched = liveFetch({
    of: () => this.site.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<SitePathsView>(`/api/sites/${id}/paths`)),
    when: (event) => event.type === 'paths' && event.siteId === this.site.siteId(),
  });
  /** What rules of the gateways decided: those of what is published tell who came. */
  private readonly counted = liveFetch({
    of: () => this.site.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<RuleHits[]>(`/api/sites/${id}/rule-hits`)),
    when: () => false,
  });
  readonly hits = computed(() => new Map((this.counted.value() ?? []).map((each) => [each.ruleId, each])));
  /** What came of trying what is assumed of routers beside the gateway. */
  private readonly tried = liveFetch({
    of: () => this.site.siteId() ?? undefined,
    fetch: (id) =>
      firstValueFrom(this.http.get<Readonly<Record<string, RouterTries>>>(`/api/sites/${id}/router-tries`)),
    when: (event) => event.type === 'site' && event.siteId === this.site.siteId(),
  });
  readonly tries = computed(() => this.tried.value() ?? {});
  readonly view = this.fetched.value;
  readonly problem = this.fetched.problem;

  constructor() {
    interval(MEASURED_MS)
      .pipe(takeUntilDestroyed(inject(DestroyRef)))
      .subscribe(() => {
        void this.fetched.again();
        if (this.site.data()?.site.publications) void this.counted.again();
      });
  }

  /** Somebody tried what is assumed of a router. */
  triedAgain = (): Promise<unknown> => this.tried.again();

  /** Has a gateway use again what is good. */
  async bringBack(deviceId: string): Promise<void> {
    await firstValueFrom(this.http.post(`/api/devices/${deviceId}/uplinks-back`, {}));
    await this.fetched.again();
  }

  /** Has a gateway measure what VLANs get of an uplink while all of them are busy. */
  measureBusy(deviceId: string, port: string, vlans: readonly number[]): Promise<readonly BusyShare[]> {
    return firstValueFrom(this.http.post<BusyShare[]>(`/api/devices/${deviceId}/uplink-shares`, { port, vlans }));
  }

  /** Has a gateway measure what an uplink can do. */
  measure(deviceId: string, port: string): Promise<Capacity> {
    return firstValueFrom(this.http.post<Capacity>(`/api/devices/${deviceId}/uplink-capacity`, { port }));
  }
}
