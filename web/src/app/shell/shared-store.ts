import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, inject, signal } from '@angular/core';
import type { EstateDraft, NameAtSites, SharedCount } from '@iron-lattice/core/assess';
import { EVERYWHERE, type SharedReach } from '@iron-lattice/core/intent';
import { writeTimes } from '@iron-lattice/core/rules';
import { firstValueFrom } from 'rxjs';
import type { Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { liveFetch } from './live-fetch';
import { SiteStore } from './site-store';

const NO_COUNTS: ReadonlyMap<string, SharedCount> = new Map();

/**
 * What sites share as the draft has it, from where one stands: in a site, as that site has it; in none, over all of them. The same
 * sheets work in both.
 */
@Injectable({ providedIn: 'root' })
export class SharedStore {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** Pages that show it where no site is in front. */
  private readonly followers = signal(0);
  private readonly live = liveFetch({
    of: () => {
      const draft = this.store.draft();
      if (!draft || !this.atEstate() || this.followers() === 0) return undefined;
      return { id: draft.id, of: [draft.head, draft.edits, draft.baseRevision] };
    },
    fetch: ({ id }) => firstValueFrom(this.http.get<EstateDraft>(`/api/drafts/${id}/shared`)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  /** Whether no site is in front. */
  readonly atEstate = computed(() => this.store.siteId() === null);
  /** What sites share; null until it is known. */
  readonly estate = computed(() => (this.atEstate() ? this.live.value()?.estate : this.store.data()?.estate) ?? null);
  /** Why it could not be told. */
  readonly problem = this.live.problem;
  /** By id, how far each thing reaches and how often something is missing; only over all sites. */
  readonly counts = computed(() => {
    const told = this.atEstate() ? this.live.value() : null;
    return told ? new Map(told.counts.map((count) => [count.id, count])) : NO_COUNTS;
  });
  /** Names that sites have; only over all sites. */
  readonly names = computed((): readonly NameAtSites[] => (this.atEstate() ? (this.live.value()?.names ?? []) : []));

  /** Follows it for as long as whoever calls this lives. Call it where injection is possible. */
  follow(): this {
    this.followers.update((count) => count + 1);
    inject(DestroyRef).onDestroy(() => this.followers.update((count) => count - 1));
    return this;
  }

  /** Where something new reaches: the site in front, or all of them. */
  newReach(): SharedReach {
    const siteId = this.store.siteId();
    return siteId === null ? EVERYWHERE : { kind: 'sites', siteIds: [siteId] };
  }

  /** Segments, and pools where they may be, whose name clients can be told to join; the one that is chosen among them. */
  joinChoices(chosen: string, pools: boolean): readonly Choice[] {
    const here = this.atEstate() ? this.everywhere(pools) : this.inSite(pools);
    const known = chosen === '' || here.some(({ value }) => String(value).toLowerCase() === chosen.toLowerCase());
    const nowhere = this.atEstate() ? 'at no site' : 'not at this site';
    return known ? here : [...here, { value: chosen, label: `${chosen}, ${nowhere}` }];
  }

  /** Hours that something may apply at, by id; null: always. */
  readonly hoursChoices = computed((): readonly Choice[] => [
    { value: null, label: 'always' },
    ...(this.estate()?.hours ?? []).map(({ id, name, times }) => ({
      value: id,
      label: `${name}: ${writeTimes(times)}`,
    })),
  ]);

  /** Whether answers of servers may name portals. */
  readonly namesPortals = computed(() => (this.estate()?.portals ?? []).some(({ named }) => named));

  /** Portals that hold guests, by id; null: nobody is held. */
  readonly portalChoices = computed((): readonly Choice[] => [
    { value: null, label: 'nobody is held back' },
    ...(this.estate()?.portals ?? []).map(({ id, name }) => ({ value: id, label: name })),
  ]);

  private inSite(pools: boolean): Choice[] {
    const site = this.store.site();
    return [
      ...(site?.segments ?? []).map(({ name, vlan }) => ({ value: name, label: `${name} · VLAN ${vlan}` })),
      ...(pools ? (site?.pools ?? []) : []).map(({ name, vlans }) => ({
        value: name,
        label: `${name}, pool of ${vlans}`,
      })),
    ];
  }

  private everywhere(pools: boolean): Choice[] {
    return this.names()
      .filter(({ kind }) => kind === 'segment' || (pools && kind === 'pool'))
      .map(({ kind, name, sites, vlans }) => {
        const what = kind === 'pool' ? 'pool' : vlans.length === 1 ? `VLAN ${vlans[0]}` : `${vlans.length} VLAN IDs`;
        return { value: name, label: `${name} · ${what} at ${counted(sites, 'site')}` };
      });
  }
}
