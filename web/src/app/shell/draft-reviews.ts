import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { SiteReviewView, TouchedSites } from '@iron-lattice/core/assess';
import { auditTime, filter, firstValueFrom } from 'rxjs';
import { problemOf, type Problem } from '../session/problem';
import { LiveEvents, type Happening } from './live-events';
import { SiteStore } from './site-store';

/** Sites asked after at once, and so many questions side by side: the first are told while others are still worked out. */
const AT_ONCE = 10;
const SIDE_BY_SIDE = 3;
/** How long nobody has edited before other sites are asked after, in milliseconds. */
const REST_MS = 250;
/** How often what happens is followed at the most, in milliseconds. */
const FOLLOW_MS = 1000;
/** What happens to devices changes little of it: it is followed where few sites are touched, and now and then. */
const [FEW_SITES, DEVICES_MS] = [50, 30_000];

/**
 * What the draft means at every site it touches. Asked anew when it moves; sites come in one after the other, and until the last
 * has come nothing here is the whole of it.
 */
@Injectable({ providedIn: 'root' })
export class DraftReviews {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** The sites it touches; null until they are known. */
  readonly touched = signal<TouchedSites['sites'] | null>(null);
  /** By site; those not told yet are missing. */
  private readonly told = signal<ReadonlyMap<string, SiteReviewView>>(new Map());
  /** Why they could not be told; null while they can. */
  readonly problem = signal<Problem | null>(null);
  private turn = 0;

  /** Those that were told, in the order of the sites; of those that are told nothing, the ones of which a guarantee breaks. */
  readonly reviews = computed(() =>
    (this.touched() ?? []).flatMap((site) => {
      const review = this.told().get(site.id);
      return review && this.isShown(site) ? [review] : [];
    }),
  );
  /** Whether every site it touches was looked at. */
  readonly whole = computed(() => this.touched()?.every(({ id }) => this.told().has(id)) ?? false);
  /** How many were looked at of those that it touches, or that watch one of these; and the same of other sites than the one in front. */
  readonly progress = computed(() => this.progressOf(this.touched() ?? []));
  readonly progressElsewhere = computed(() =>
    this.progressOf((this.touched() ?? []).filter(({ id }) => id !== this.store.siteId())),
  );
  /** Those of other sites than the one people stand in. */
  readonly elsewhere = computed(() => this.reviews().filter(({ siteId }) => siteId !== this.store.siteId()));
  /** How many other sites it touches, looked at or not. */
  readonly others = computed(
    () => (this.touched() ?? []).filter((site) => site.id !== this.store.siteId() && this.isShown(site)).length,
  );
  /** Devices that it would tell something else, and those of them that are silent now. */
  readonly devices = computed(() => this.reviews().reduce((sum, { changes }) => sum + changes.length, 0));
  readonly silent = computed(() =>
    this.reviews().reduce((sum, { changes, silent }) => {
      const away = new Set(silent);
      return sum + changes.filter(({ deviceId }) => away.has(deviceId)).length;
    }, 0),
  );

  /** The same with what this site shows by itself, at once after an edit; others follow. */
  readonly changing = computed(
    () => this.store.changes().length + this.elsewhere().reduce((sum, { changes }) => sum + changes.length, 0),
  );

  private readonly of = computed(() => {
    const draft = this.store.draft();
    return draft && `${draft.id} ${draft.head} ${draft.edits} ${draft.baseRevision} ${draft.behind}`;
  });

  constructor() {
    effect((onCleanup) => {
      if (this.of() === null) return;
      untracked(() => this.forget());
      const resting = setTimeout(() => void this.ask(), REST_MS);
      onCleanup(() => clearTimeout(resting));
    });
    const { all } = inject(LiveEvents);
    const told = (types: readonly Happening['type'][], every: number) =>
      all.pipe(
        filter(({ type }) => types.includes(type)),
        auditTime(every),
        takeUntilDestroyed(),
      );
    told(['gone', 'site', 'rollout', 'mail', 'reconnected'], FOLLOW_MS).subscribe(() => void this.ask());
    told(['device'], DEVICES_MS).subscribe(() => {
      if ((untracked(this.touched) ?? []).length <= FEW_SITES) void this.ask();
    });
    inject(DestroyRef).onDestroy(() => this.turn++); // whoever still asks stops
  }

  /** Asks after all sites; what is known stays in sight meanwhile. */
  async ask(): Promise<void> {
    const draft = untracked(this.store.draft);
    if (!draft) return;
    const turn = ++this.turn;
    const stale = (): boolean => turn !== this.turn;
    if (draft.edits === 0 && draft.behind === 0) return this.touched.set([]);
    try {
      const base = `/api/drafts/${draft.id}`;
      const { sites } = await firstValueFrom(this.http.get<TouchedSites>(`${base}/touched`));
      if (stale()) return;
      this.touched.set(sites);
      const parts = this.partsOf(sites.map(({ id }) => id));
      const work = async (): Promise<void> => {
        for (let part = parts.shift(); part && !stale(); part = parts.shift()) {
          const params = { sites: part.join(',') };
          const views = await firstValueFrom(this.http.get<SiteReviewView[]>(`${base}/reviews`, { params }));
          if (stale()) return;
          this.told.update((known) => new Map([...known, ...views.map((view) => [view.siteId, view] as const)]));
        }
      };
      await Promise.all(Array.from({ length: SIDE_BY_SIDE }, work));
      if (!stale()) this.problem.set(null);
    } catch (error) {
      if (!stale()) this.problem.set(problemOf(error));
    }
  }

  /**
   * Sites to ask after at once, those with the one in front first. The parts are the same for everybody, so that one answer is
   * worked out for all who ask.
   */
  private partsOf(ids: readonly string[]): string[][] {
    const here = untracked(this.store.siteId) ?? '';
    const parts = Array.from({ length: Math.ceil(ids.length / AT_ONCE) }, (_, i) =>
      ids.slice(i * AT_ONCE, (i + 1) * AT_ONCE),
    );
    return parts.sort((a, b) => Number(b.includes(here)) - Number(a.includes(here)));
  }

  /** One that is told nothing is shown where a guarantee of it breaks. */
  private isShown({ id, watches }: TouchedSites['sites'][number]): boolean {
    return !watches || (this.told().get(id)?.broken.length ?? 0) > 0;
  }

  private progressOf(sites: TouchedSites['sites']): { readonly done: number; readonly of: number } {
    return { done: sites.filter(({ id }) => this.told().has(id)).length, of: sites.length };
  }

  private forget(): void {
    this.turn++;
    this.touched.set(null);
    this.told.set(new Map());
    this.problem.set(null);
  }
}
