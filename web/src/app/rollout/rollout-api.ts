import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { RevisionView, RolloutCheck, RolloutRequest, RolloutView } from '@iron-lattice/core/rollout';
import { firstValueFrom } from 'rxjs';

/** Requests of the Rollout stage. */
@Injectable({ providedIn: 'root' })
export class RolloutApi {
  private readonly http = inject(HttpClient);

  /** Rollouts, newest first. */
  rollouts(): Promise<RolloutView[]> {
    return firstValueFrom(this.http.get<RolloutView[]>('/api/rollouts'));
  }

  revisions(): Promise<RevisionView[]> {
    return firstValueFrom(this.http.get<RevisionView[]>('/api/revisions'));
  }

  start(request: RolloutRequest): Promise<RolloutView> {
    return firstValueFrom(this.http.post<RolloutView>('/api/rollouts', request));
  }

  /** What stands against rolling a draft out. */
  check(draftId: string): Promise<RolloutCheck> {
    return firstValueFrom(this.http.get<RolloutCheck>(`/api/drafts/${draftId}/rollout-check`));
  }

  cancel(id: string): Promise<unknown> {
    return firstValueFrom(this.http.post(`/api/rollouts/${id}/cancel`, {}));
  }
}
