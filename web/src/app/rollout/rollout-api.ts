import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { RevisionView, RolloutCheck, RolloutRequest, RolloutView } from '@iron-lattice/core/rollout';
import { EMPTY, auditTime, catchError, filter, firstValueFrom, startWith, switchMap, type Observable } from 'rxjs';
import { LiveEvents } from '../shell/live-events';

/** Requests of the Rollout stage. */
@Injectable({ providedIn: 'root' })
export class RolloutApi {
  private readonly http = inject(HttpClient);
  private readonly events = inject(LiveEvents);

  /** Rollouts, newest first; again after every step of one. */
  watch(): Observable<RolloutView[]> {
    return this.again(() => this.http.get<RolloutView[]>('/api/rollouts'));
  }

  revisions(): Observable<RevisionView[]> {
    return this.again(() => this.http.get<RevisionView[]>('/api/revisions'));
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

  private again<T>(fetch: () => Observable<T>): Observable<T> {
    return this.events.all.pipe(
      filter((event) => event.type === 'rollout' || event.type === 'reconnected'),
      auditTime(60),
      startWith(null),
      // An answer that fails is left out: the stream goes on, and looks again when the controller is back.
      switchMap(() => fetch().pipe(catchError(() => EMPTY))),
    );
  }
}
