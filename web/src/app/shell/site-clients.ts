import { HttpClient } from '@angular/common/http';
import { Injectable, effect, inject, signal, untracked } from '@angular/core';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from './site-store';

/** Devices report in bursts; their clients are asked for once after each. */
const GATHER_MS = 400;

/** The clients that are at a site now, as its devices report them. Provided by the page. */
@Injectable()
export class SiteClients {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** Null until they were told. */
  readonly clients = signal<readonly SiteClient[] | null>(null);

  constructor() {
    effect((onCleanup) => {
      const siteId = this.store.siteId();
      this.store.devices(); // their reports changed
      if (!siteId) return;
      const timer = setTimeout(() => void this.load(siteId), untracked(this.clients) === null ? 0 : GATHER_MS);
      onCleanup(() => clearTimeout(timer));
    });
  }

  private async load(siteId: string): Promise<void> {
    const clients = await firstValueFrom(this.http.get<SiteClient[]>(`/api/sites/${siteId}/clients`)).catch(() => null);
    if (clients && this.store.siteId() === siteId) this.clients.set(clients);
  }
}
