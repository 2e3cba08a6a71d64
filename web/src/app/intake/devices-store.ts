import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { DeviceRow, DeviceRows, HitchView } from '@iron-lattice/core/intake';
import { auditTime, filter, firstValueFrom, switchMap } from 'rxjs';
import { LiveEvents } from '../shell/live-events';
import { liveFetch } from '../shell/live-fetch';

/** Rows fetched at first, so that there is something to look at; the rest follows. */
const FIRST = 200;
const FOLLOW_MS = 400;

/** Devices as tables show them, of a site or the whole estate, followed by their changes alone. Provided by its page. */
@Injectable()
export class DevicesStore {
  private readonly http = inject(HttpClient);
  /** Undefined until the page knows; null for the estate. */
  readonly siteId = signal<string | null | undefined>(undefined);
  private readonly byId = signal<ReadonlyMap<string, DeviceRow>>(new Map());
  readonly loaded = signal(false);
  private readonly hitched = liveFetch({
    of: () => this.siteId(),
    fetch: async (siteId) => (await firstValueFrom(this.fetchHitches(siteId))).hitches,
    when: ({ type }) => type === 'hitch' || type === 'gone' || type === 'site',
    every: FOLLOW_MS,
  });
  readonly hitches = computed((): readonly HitchView[] => this.hitched.value() ?? []);
  private mark: string | null = null;

  /** Those that call first, since they wait for somebody; then ours by name; then those expected. */
  readonly rows = computed(() => [...this.byId().values()].sort(inOrder));

  constructor() {
    effect(() => {
      if (this.siteId() === undefined) return;
      untracked(() => void this.load().catch(() => undefined)); // a lost controller is said in the page's head
    });
    const events = inject(LiveEvents).all.pipe(takeUntilDestroyed(inject(DestroyRef)));
    events
      .pipe(
        filter(({ type }) => ['device', 'gone', 'site', 'reconnected', 'rollout'].includes(type)),
        auditTime(FOLLOW_MS),
        switchMap(async () => this.follow().catch(() => undefined)),
      )
      .subscribe();
    events
      .pipe(
        filter(({ type }) => type === 'gone' || type === 'site' || type === 'reconnected'),
        auditTime(FOLLOW_MS),
        switchMap(async () => this.load().catch(() => undefined)),
      )
      .subscribe();
  }

  /** Fetches everything anew. */
  async load(): Promise<void> {
    const siteId = untracked(this.siteId);
    if (siteId === undefined) return;
    const of: Record<string, string> = siteId === null ? {} : { siteId };
    const get = (params: Record<string, string>) =>
      firstValueFrom(this.http.get<DeviceRows>('/api/devices', { params: { ...of, ...params } }));
    const first = await get({ limit: String(FIRST) });
    if (untracked(this.siteId) !== siteId) return;
    if (!untracked(this.loaded) || first.total <= FIRST) this.set(first);
    if (first.total <= FIRST) return;
    const all = await get({});
    if (untracked(this.siteId) === siteId) this.set(all);
  }

  /** Fetches what changed since. */
  async follow(): Promise<void> {
    if (this.mark === null) return this.load();
    const siteId = untracked(this.siteId);
    const changed = await firstValueFrom(this.http.get<DeviceRows>('/api/devices', { params: { since: this.mark } }));
    this.mark = changed.mark;
    if (changed.rows.length === 0 && changed.gone.length === 0) return;
    const next = new Map(untracked(this.byId));
    for (const id of changed.gone) next.delete(id);
    for (const row of changed.rows) {
      const here = siteId === null || row.siteId === siteId || row.siteId === null;
      if (here) next.set(row.id, row);
      else next.delete(row.id);
    }
    this.byId.set(next);
  }

  private set({ rows, mark }: DeviceRows): void {
    this.mark = mark;
    this.byId.set(new Map(rows.map((row) => [row.id, row])));
    this.loaded.set(true);
  }

  private fetchHitches(siteId: string | null) {
    const params: Record<string, string> = siteId ? { siteId } : {};
    return this.http.get<{ hitches: HitchView[] }>('/api/hitches', { params });
  }
}

const rank = ({ state }: DeviceRow): number => (state === 'calling' ? 0 : state === 'expected' ? 2 : 1);

function inOrder(a: DeviceRow, b: DeviceRow): number {
  const by = rank(a) - rank(b);
  if (by !== 0) return by;
  const [x, y] = [a.name ?? a.serial, b.name ?? b.serial];
  return x < y ? -1 : x > y ? 1 : 0;
}
