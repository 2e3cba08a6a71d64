import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { CopySiteRequest, EstateView, NewSite, SiteChange, SiteView } from '@iron-lattice/core/intake';
import { EMPTY, auditTime, catchError, filter, firstValueFrom, startWith, switchMap } from 'rxjs';
import { LiveEvents } from './live-events';

/** How often the list of sites follows its devices at the most, in milliseconds. */
const FOLLOW_MS = 500;

/** The estate and its sites, live. */
@Injectable({ providedIn: 'root' })
export class EstateStore {
  private readonly http = inject(HttpClient);
  readonly estate = signal<EstateView | null>(null);

  constructor() {
    inject(LiveEvents)
      .all.pipe(
        filter((event) => event.type !== 'draft'),
        auditTime(FOLLOW_MS),
        startWith(null),
        // An answer that fails is left out: the stream goes on, and looks again when the controller is back.
        switchMap(() => this.http.get<EstateView>('/api/estate').pipe(catchError(() => EMPTY))),
        takeUntilDestroyed(inject(DestroyRef)),
      )
      .subscribe((estate) => this.estate.set(estate));
  }

  async addSite(wish: NewSite): Promise<SiteView> {
    const site = await firstValueFrom(this.http.post<SiteView>('/api/sites', wish));
    this.estate.set(await firstValueFrom(this.http.get<EstateView>('/api/estate')));
    return site;
  }

  /** A site with the segments of another. */
  async copySite(wish: CopySiteRequest): Promise<SiteView> {
    const site = await firstValueFrom(this.http.post<SiteView>('/api/site-copies', wish));
    this.estate.set(await firstValueFrom(this.http.get<EstateView>('/api/estate')));
    return site;
  }

  async changeSite(id: string, change: SiteChange): Promise<void> {
    try {
      await firstValueFrom(this.http.patch(`/api/sites/${id}`, change));
    } finally {
      this.estate.set(await firstValueFrom(this.http.get<EstateView>('/api/estate')));
    }
  }

  async proposeCode(name: string): Promise<string> {
    const answer = await firstValueFrom(this.http.get<{ code: string }>('/api/site-code', { params: { name } }));
    return answer.code;
  }
}
