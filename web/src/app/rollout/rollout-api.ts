import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  DraftChange,
  DraftView,
  IntentComparison,
  RevisionComparison,
  SiteComparison,
  TakeRequest,
  TakeResult,
} from '@iron-lattice/core/assess';
import type {
  RevisionView,
  RolloutCheck,
  RolloutRequest,
  RolloutView,
  WaveForeseen,
  WavePlan,
} from '@iron-lattice/core/rollout';
import { firstValueFrom, takeUntil, type Observable } from 'rxjs';

/** Requests of the Rollout stage. */
@Injectable({ providedIn: 'root' })
export class RolloutApi {
  private readonly http = inject(HttpClient);

  /** Rollouts, newest first, without their devices. */
  rollouts(): Promise<RolloutView[]> {
    return firstValueFrom(this.http.get<RolloutView[]>('/api/rollouts'));
  }

  /** A rollout with its devices. */
  rollout(id: string): Promise<RolloutView> {
    return firstValueFrom(this.http.get<RolloutView>(`/api/rollouts/${id}`));
  }

  revisions(): Promise<RevisionView[]> {
    return firstValueFrom(this.http.get<RevisionView[]>('/api/revisions'));
  }

  /** Says what a draft is called and for. */
  describe(draftId: string, change: DraftChange): Promise<DraftView> {
    return firstValueFrom(this.http.patch<DraftView>(`/api/drafts/${draftId}`, change));
  }

  compare(from: number, to: number): Promise<RevisionComparison> {
    const params = { from, to };
    return firstValueFrom(this.http.get<RevisionComparison>('/api/revision-comparison', { params }));
  }

  compareSite(from: number, to: number, siteId: string): Promise<SiteComparison> {
    const params = { from, to };
    return firstValueFrom(this.http.get<SiteComparison>(`/api/revision-comparison/sites/${siteId}`, { params }));
  }

  /** A draft beside another. */
  compareDrafts(from: string, to: string): Promise<IntentComparison> {
    return firstValueFrom(this.http.get<IntentComparison>(`/api/drafts/${from}/compare/${to}`));
  }

  compareDraftsAt(from: string, to: string, siteId: string): Promise<SiteComparison> {
    return firstValueFrom(this.http.get<SiteComparison>(`/api/drafts/${from}/compare/${to}/sites/${siteId}`));
  }

  /** Makes edits of another draft in this one too. */
  take(draftId: string, request: TakeRequest): Promise<TakeResult> {
    return firstValueFrom(this.http.post<TakeResult>(`/api/drafts/${draftId}/take`, request));
  }

  /** Puts into a draft what makes a site, or the whole estate, what it was in a revision. */
  back(draftId: string, revision: number, siteId: string | null): Promise<DraftView> {
    return firstValueFrom(this.http.post<DraftView>(`/api/drafts/${draftId}/back`, { revision, siteId }));
  }

  /** @param left tells that nobody waits for it any more: unless it has begun by then, nothing does. */
  start(request: RolloutRequest, left: Observable<unknown>): Promise<RolloutView | null> {
    const asked = this.http.post<RolloutView>('/api/rollouts', request).pipe(takeUntil(left));
    return firstValueFrom(asked, { defaultValue: null });
  }

  /** What stands against rolling a draft out. */
  check(draftId: string): Promise<RolloutCheck> {
    return firstValueFrom(this.http.get<RolloutCheck>(`/api/drafts/${draftId}/rollout-check`));
  }

  /** The waves in which a draft would be rolled out. */
  foreseen(draftId: string, plan: WavePlan): Promise<WaveForeseen[]> {
    return firstValueFrom(this.http.post<WaveForeseen[]>(`/api/drafts/${draftId}/waves`, plan));
  }

  /** Asks something of a rollout that is under way. */
  ask(id: string, what: 'pause' | 'go-on' | 'stop' | 'cancel'): Promise<unknown> {
    return firstValueFrom(this.http.post(`/api/rollouts/${id}/${what}`, {}));
  }
}
