import { HttpClient } from '@angular/common/http';
import { Injectable, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { Band } from '@iron-lattice/core/hardware';
import type { SitePlan } from '@iron-lattice/core/wireless';
import { firstValueFrom, Subject, takeUntil } from 'rxjs';
import { problemOf, type Problem } from '../session/problem';
import { LiveEvents } from '../shell/live-events';
import { SiteStore } from '../shell/site-store';

/** A plan of channels that is worked out, or was. */
@Injectable()
export class PlanStore {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  private readonly left = new Subject<void>();
  readonly plan = signal<SitePlan | null>(null);
  /** From 0 to 1; null while none is worked out. */
  readonly done = signal<number | null>(null);
  readonly problem = signal<Problem | null>(null);

  constructor() {
    inject(LiveEvents)
      .all.pipe(takeUntilDestroyed())
      .subscribe((event) => {
        if (event.type === 'air-plan' && event.siteId === this.site.siteId() && this.done() !== null)
          this.done.set(event.done);
      });
  }

  /** Has a plan worked out. @param deviceIds APs that may be moved; null: all. */
  async work(bands: readonly Band[], deviceIds: readonly string[] | null): Promise<void> {
    const [draft, siteId] = [this.site.draft(), this.site.siteId()];
    if (!draft || !siteId) return;
    this.problem.set(null);
    this.plan.set(null);
    this.done.set(0);
    try {
      const asked = this.http.post<SitePlan>(`/api/drafts/${draft.id}/sites/${siteId}/channel-plan`, {
        bands,
        deviceIds,
      });
      // Whoever leaves it takes the request back; the controller ends the work then.
      const plan = await firstValueFrom(asked.pipe(takeUntil(this.left)), { defaultValue: null });
      if (this.site.siteId() === siteId) this.plan.set(plan);
    } catch (error) {
      this.problem.set(problemOf(error));
    } finally {
      this.done.set(null);
    }
  }

  leave(): void {
    this.left.next();
  }
}
