import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable } from '@angular/core';
import type { ServerHealth } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';

/** How RADIUS servers fare at the site in front, as its devices say. Provided by the page. */
@Injectable()
export class HealthStore {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly live = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) => firstValueFrom(this.http.get<ServerHealth[]>(`/api/sites/${siteId}/server-health`)),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId()),
    every: 1000,
  });
  private readonly byName = computed(() => new Map((this.live.value() ?? []).map((each) => [each.name, each])));

  of = (name: string): ServerHealth | undefined => this.byName().get(name);
}

/** The same in words; empty: nobody asked it lately. */
export function healthWords(health: ServerHealth | undefined): string {
  if (!health) return '';
  const { answers, silentFor } = health;
  if (silentFor.length === 0) return `answers ${counted(answers, 'device')}`;
  return answers === 0
    ? `silent for ${counted(silentFor.length, 'device')}`
    : `silent for ${silentFor.length} of ${answers + silentFor.length}`;
}
