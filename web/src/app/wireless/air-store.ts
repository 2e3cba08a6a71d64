import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject } from '@angular/core';
import type { Band } from '@iron-lattice/core/hardware';
import {
  airNetworks,
  measuredLosses,
  type AirView,
  type ScanForecast,
  type ScanRun,
} from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';

/** Which APs are to scan, and which bands. */
export interface ScanAsked {
  readonly deviceIds: readonly string[] | null;
  readonly bands: readonly Band[];
}

/** The air of the site in front, as its APs last heard it, and scans of it. */
@Injectable()
export class AirStore {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  private readonly fetched = liveFetch({
    of: () => this.site.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<AirView>(`/api/sites/${id}/air`)),
    when: (event) => event.type === 'air' && event.siteId === this.site.siteId() && event.what === 'heard',
    every: 1000, // of many APs it is a large answer
  });
  /** How a scan goes: told often, and little. */
  private readonly scanned = liveFetch({
    of: () => this.site.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<{ run: ScanRun | null }>(`/api/sites/${id}/scan`)),
    when: (event) => event.type === 'air' && event.siteId === this.site.siteId() && event.what === 'scan',
    every: 300,
  });
  readonly air = this.fetched.value;
  readonly run = computed(() => this.scanned.value()?.run ?? null);
  readonly names = computed(() => new Map((this.site.data()?.roster ?? []).map(({ id, name }) => [id, name])));
  /** What of a signal is lost between our APs, as they heard each other. */
  readonly losses = computed(() => {
    const air = this.air();
    const senders = new Map(
      this.site
        .devices()
        .flatMap(({ id, radioFacts }) =>
          radioFacts.flatMap(({ sends = [], power = 0 }) =>
            sends.map(({ bssid }) => [bssid, { deviceId: id, power }] as const),
          ),
        ),
    );
    return air ? measuredLosses(air.heard, (bssid) => senders.get(bssid)) : [];
  });
  /** Networks that any AP heard, over all bands. */
  readonly networks = computed(() => this.networksOf());
  readonly strangers = computed(() => this.networks().filter(({ sentBy }) => sentBy === null));
  /** Strangers that carry a name of ours. */
  readonly lookalikes = computed(() => this.strangers().filter(({ lookalike }) => lookalike));

  /** What some APs heard. @param only their ids; absent: all. */
  networksOf(only?: ReadonlySet<string>) {
    const air = this.air();
    const ssids = this.site.ssids().map(({ name }) => name);
    return air ? airNetworks(air, (id) => this.names().get(id) ?? '?', ssids, only) : [];
  }

  forecast(asked: ScanAsked): Promise<ScanForecast> {
    return firstValueFrom(this.http.post<ScanForecast>(`/api/sites/${this.site.siteId()}/scan-forecast`, asked));
  }

  async scan(asked: ScanAsked): Promise<void> {
    await firstValueFrom(this.http.post<ScanRun>(`/api/sites/${this.site.siteId()}/scans`, asked));
    await this.scanned.again();
  }

  async stop(): Promise<void> {
    await firstValueFrom(this.http.post(`/api/sites/${this.site.siteId()}/scans/stop`, {}));
  }
}
