import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject } from '@angular/core';
import type { JoinedView, TunnelKeyView } from '@iron-lattice/core/assess';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../../shell/live-fetch';
import { SharedStore } from '../../shell/shared-store';
import { joinedRows } from './joined-rows';

/** Sites that are joined to each other as the draft has it, and how their tunnels fare. */
@Injectable()
export class JoinedStore {
  private readonly http = inject(HttpClient);
  private readonly shared = inject(SharedStore).follow();
  private readonly fetched = liveFetch({
    of: () => 'joined',
    fetch: () => firstValueFrom(this.http.get<JoinedView>('/api/joined')),
    when: ({ type }) => type === 'paths' || type === 'site' || type === 'device' || type === 'rollout',
    every: 1000,
  });
  readonly view = this.fetched.value;
  readonly problem = computed(() => this.shared.problem() ?? this.fetched.problem());
  readonly estate = this.shared.estate;
  readonly rows = computed(() => {
    const estate = this.estate();
    return estate ? joinedRows(estate, this.view()) : [];
  });
  readonly byId = computed(() => new Map(this.rows().map((row) => [row.id, row])));
  readonly spans = computed(() => this.estate()?.overlay?.spans ?? null);
  /** Sites that have a gateway and are not joined yet. */
  readonly joinable = computed(() => {
    const joined = new Set(this.rows().map(({ member }) => member.siteId));
    return (this.view()?.sites ?? []).filter(({ id, gateways }) => gateways.length > 0 && !joined.has(id));
  });

  /** A pair of keys, made by the controller. */
  async key(): Promise<TunnelKeyView> {
    const made = await firstValueFrom(this.http.post<TunnelKeyView[]>('/api/tunnel-keys', { count: 1 }));
    return made[0]!;
  }
}
