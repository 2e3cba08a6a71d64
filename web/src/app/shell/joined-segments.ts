import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { JoinedSiteView } from '@iron-lattice/core/assess';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from './site-store';

/** Segments of other sites, in the draft. */
@Injectable({ providedIn: 'root' })
export class JoinedSegments {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);

  async at(siteId: string): Promise<JoinedSiteView['segments']> {
    const path = `/api/drafts/${this.store.draft()?.id}/joined/${siteId}`;
    return (await firstValueFrom(this.http.get<JoinedSiteView>(path))).segments;
  }
}
