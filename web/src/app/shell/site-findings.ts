import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, effect, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { SiteFindings } from '@iron-lattice/core/assess';
import { auditTime, filter, firstValueFrom } from 'rxjs';
import { EstateStore } from './estate-store';
import { LiveEvents } from './live-events';
import { SiteStore } from './site-store';

/** Sites asked after at once: the first ones are told while others are still worked out. */
const AT_ONCE = 50;
/** How often findings follow what happens at the most, in milliseconds: of a large estate they are much work. */
const FOLLOW_MS = 30_000;
/** How long the page has to rest before they are asked for, in milliseconds: whoever passes through it needs none. */
const REST_MS = 1500;

/** How many findings each site has in the draft people work in. Provided by its page. */
@Injectable()
export class SiteFindingsStore {
  private readonly http = inject(HttpClient);
  private readonly estate = inject(EstateStore);
  private readonly store = inject(SiteStore);
  /** By site; those not told yet are missing. */
  readonly bySite = signal<ReadonlyMap<string, SiteFindings>>(new Map());
  private asking = 0;

  constructor() {
    const events = inject(LiveEvents).all.pipe(
      filter(({ type }) => ['draft', 'site', 'rollout', 'gone', 'reconnected'].includes(type)),
      auditTime(FOLLOW_MS),
      takeUntilDestroyed(),
    );
    events.subscribe(() => {
      if (this.store.siteId() === null) void this.ask();
    });
    const count = computed(() => this.estate.estate()?.sites.length ?? 0);
    effect((onCleanup) => {
      // Whoever stands in a site needs none of it.
      if (count() === 0 || this.store.siteId() !== null) return;
      const resting = setTimeout(() => void this.ask(), REST_MS);
      onCleanup(() => clearTimeout(resting));
    });
    inject(DestroyRef).onDestroy(() => this.asking++); // whoever still asks stops
  }

  /** Asks after all sites, some at a time; one that begins anew ends the one before. */
  private async ask(): Promise<void> {
    const turn = ++this.asking;
    const ids = (this.estate.estate()?.sites ?? []).map(({ id }) => id);
    for (let at = 0; at < ids.length && turn === this.asking; at += AT_ONCE) {
      const sites = ids.slice(at, at + AT_ONCE).join(',');
      const url = '/api/drafts/current/findings';
      const found = await firstValueFrom(this.http.get<SiteFindings[]>(url, { params: { sites } })).catch(() => []);
      if (turn !== this.asking) return;
      this.bySite.update((known) => new Map([...known, ...found.map((each) => [each.siteId, each] as const)]));
    }
  }
}
