import { HttpClient } from '@angular/common/http';
import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import {
  addressValues,
  fullnessOf,
  rowInWords,
  type AddressPlan,
  type GridRow,
  type SiteClient,
} from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from '../shell/site-store';

/** Devices report in bursts; their clients are asked for once after each. */
const GATHER_MS = 400;

/** What is live beside a site's grid: who has which address, and how full segments are. Provided by the page. */
@Injectable()
export class LatticeFacts {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly clients = signal<readonly SiteClient[] | null>(null);
  readonly plan = signal<AddressPlan | null>(null);
  /** IPv4 addresses of the site that somebody has, as numbers. */
  private readonly inUse = computed(() =>
    addressValues([
      ...(this.clients() ?? []).flatMap((client) => client.address ?? []),
      ...this.store.devices().flatMap((device) => device.address ?? []),
    ]),
  );
  /** Reads a row of the grid aloud; each is put into words when it is first asked for. */
  readonly words = computed((): ((row: GridRow) => string) => {
    const columns = this.store.consequences()?.grid.columns ?? [];
    const inUse = this.inUse();
    const known = new Map<GridRow, string>();
    return (row) => {
      let words = known.get(row);
      if (words === undefined) known.set(row, (words = rowInWords(row, columns, fullnessOf(row.segment, inUse))));
      return words;
    };
  });

  constructor() {
    effect((onCleanup) => {
      const siteId = this.store.siteId();
      this.store.devices(); // their reports changed
      if (!siteId) return;
      const timer = setTimeout(() => void this.load(siteId), untracked(this.clients) === null ? 0 : GATHER_MS);
      onCleanup(() => clearTimeout(timer));
    });
  }

  /** Asks for the whole estate's prefixes as the draft has them. */
  async loadPlan(): Promise<void> {
    const draft = this.store.draft();
    if (!draft) return;
    await this.store.attempt(async () =>
      this.plan.set(await firstValueFrom(this.http.get<AddressPlan>(`/api/drafts/${draft.id}/address-plan`))),
    );
  }

  private async load(siteId: string): Promise<void> {
    const clients = await firstValueFrom(this.http.get<SiteClient[]>(`/api/sites/${siteId}/clients`)).catch(() => null);
    if (clients && this.store.siteId() === siteId) this.clients.set(clients);
  }
}
