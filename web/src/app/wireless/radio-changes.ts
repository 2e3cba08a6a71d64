import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject } from '@angular/core';
import type { RadioChange } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';

/** Instead of a site's id. */
const ALL = 'all';

/** What each radio was last changed by: of the site in front, or of the estate. */
@Injectable()
export class RadioChanges {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  private readonly fetched = liveFetch({
    of: () => this.site.siteId() ?? ALL,
    fetch: (id) =>
      firstValueFrom(
        this.http.get<RadioChange[]>(id === ALL ? '/api/radio-changes' : `/api/sites/${id}/radio-changes`),
      ),
    when: (event) =>
      event.type === 'draft' || event.type === 'site' || (event.type === 'air' && event.what === 'radar'),
    every: 1000,
  });

  /** In words, by `device band`. */
  readonly byRadio = computed(
    (): ReadonlyMap<string, string> =>
      new Map(
        (this.fetched.value() ?? []).map(({ deviceId, band, by, at, how }) => [
          `${deviceId} ${band}`,
          `${how}, ${by}, ${day(at)}`,
        ]),
      ),
  );
}

const day = (at: string): string =>
  new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
