import { HttpClient } from '@angular/common/http';
import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { fullnessOf, rowInWords, type AddressPlan, type SiteClient } from '@iron-lattice/core/lattice';
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
  /** Addresses of the site that somebody has. */
  private readonly inUse = computed(() => [
    ...(this.clients() ?? []).flatMap((client) => client.address ?? []),
    ...this.store.devices().flatMap((device) => device.address ?? []),
  ]);
  /** How full each segment is, by id. */
  readonly fullness = computed(
    () =>
      new Map((this.store.site()?.segments ?? []).map((segment) => [segment.id, fullnessOf(segment, this.inUse())])),
  );
  /** Each row of the grid read aloud, by segment id. */
  readonly words = computed(() => {
    const grid = this.store.consequences()?.grid;
    const entries = (grid?.rows ?? []).map(
      (row) => [row.segment.id, rowInWords(row, grid!.columns, this.fullness().get(row.segment.id) ?? null)] as const,
    );
    return new Map<string, string>(entries);
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
