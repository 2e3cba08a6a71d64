import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import { addressValues, fullnessOf, rowInWords, type AddressPlan, type GridRow } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { SiteClients } from '../../shell/site-clients';
import { SiteStore } from '../../shell/site-store';

/** What is live beside a site's grid: who has which address, and how full segments are. Provided by the page. */
@Injectable()
export class LatticeFacts {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly clients = inject(SiteClients).clients;
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

  /** Asks for the whole estate's prefixes as the draft has them. */
  async loadPlan(): Promise<void> {
    const draft = this.store.draft();
    if (!draft) return;
    await this.store.attempt(async () =>
      this.plan.set(await firstValueFrom(this.http.get<AddressPlan>(`/api/drafts/${draft.id}/address-plan`))),
    );
  }
}
