import { HttpClient } from '@angular/common/http';
import { DestroyRef, Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { Consequences, DraftView, EditRequest, Mend, SiteDraft } from '@iron-lattice/core/assess';
import type { DeviceView } from '@iron-lattice/core/intake';
import { reaches, segmentNameOf, ssidAt, type Operation, type SharedReach } from '@iron-lattice/core/intent';
import { segmentMarks, unpackGrid } from '@iron-lattice/core/lattice';
import { auditTime, filter, firstValueFrom, tap } from 'rxjs';
import { LiveEvents, type Happening } from './live-events';
import { LATER, isPassing, liveFetch } from './live-fetch';
import { Problem } from '../session/problem';

const FOLLOW_MS = 250;

/** The site people look at: as the draft has it, with consequences, and its devices, live. All edits go through it. */
@Injectable({ providedIn: 'root' })
export class SiteStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  readonly siteId = signal<string | null>(null);
  /** The draft somebody chose to work in; null for the newest that is open. */
  private readonly draftId = signal<string | null>(null);
  readonly drafts = signal<readonly DraftView[]>([]);
  readonly data = signal<SiteDraft | null>(null);
  readonly devices = signal<readonly DeviceView[]>([]);
  readonly calling = signal<readonly DeviceView[]>([]);
  /** Milliseconds from the last edit to its consequences on this page. */
  readonly lastEditMs = signal<number | null>(null);

  /** The draft where no site is in front. */
  private readonly alone = liveFetch({
    of: () => (this.siteId() === null ? (this.draftId() ?? 'current') : undefined),
    fetch: async (id) => {
      const draft = await firstValueFrom(this.http.get<DraftView>(`/api/drafts/${id}`));
      if (isOver(draft)) this.draftId.set(null); // then the one people work in is asked for
      return draft;
    },
    when: ({ type }) => type === 'draft',
    every: 50,
  });
  readonly draft = computed(() => (this.siteId() === null ? this.alone.value() : (this.data()?.draft ?? null)));
  readonly site = computed(() => this.data()?.site ?? null);
  readonly consequences = computed((): Consequences | null => {
    const sent = this.data()?.consequences;
    return sent ? { ...sent, grid: unpackGrid(sent.grid) } : null;
  });
  /** Devices here that the draft would tell something else; none where another one is being rolled out and this edits nothing. */
  readonly changes = computed(() => {
    const data = this.data();
    return data && data.told.by === null ? data.consequences.changes : [];
  });
  readonly marks = computed(() => segmentMarks(this.site()?.segments ?? []));
  readonly ssids = computed(() => (this.data()?.estate.ssids ?? []).filter((ssid) => this.isHere(ssid)));
  /** The same as this site has them: with what is otherwise here. */
  readonly ssidsHere = computed(() => this.ssids().map((ssid) => ssidAt(ssid, this.siteId()!)));
  readonly radiusServers = computed(() => (this.data()?.estate.radius ?? []).filter((each) => this.isHere(each)));
  readonly accessClasses = computed(() => (this.data()?.estate.classes ?? []).filter((each) => this.isHere(each)));
  /** Edits under way: their answers bring what the events they cause would make us fetch. */
  private editing = 0;
  /** Edits from here that were answered: what was asked for before the last of them may be from before it. */
  private edited = 0;
  private readonly lookAtSite = (): Promise<void> => this.reload();
  private readonly lookAtDevices = (): Promise<void> => this.reloadDevices();
  /** What is asked for again in a while. */
  private readonly waiting = new Set<() => Promise<void>>();
  /** Questions for the site, and the last of them that was answered: answers overtake each other. */
  private asked = 0;
  private answered = 0;
  /** What events said that has not been looked at: that anything may differ, and where the draft in front stands. */
  private news: { other: boolean; head: number | null } = { other: false, head: null };
  /** What of the devices the consequences follow from; a change means computing them again. */
  private readonly cabling = computed(() =>
    this.devices()
      .map(({ id, name, hangsOn, wants }) => `${id}${name}${hangsOn}${wants}`)
      .join(),
  );

  /** What the segment of a client is called; see `segmentNameOf`. */
  segmentName(client: { readonly vlan: number; readonly to?: string | undefined }): string {
    const data = this.data();
    return data ? segmentNameOf(data.estate, data.site, client) : `VLAN ${client.vlan}`;
  }

  private isHere({ reach }: { readonly reach: SharedReach }): boolean {
    return reaches(reach, this.siteId()!);
  }

  constructor() {
    effect(() => {
      const siteId = this.siteId();
      this.data.set(null);
      this.devices.set([]);
      if (siteId) {
        this.follows(this.lookAtDevices);
        this.follows(this.lookAtSite);
      }
    });
    let known = '';
    effect(() => {
      const now = this.cabling();
      if (now !== known && untracked(this.data)) this.follows(this.lookAtSite);
      known = now;
    });
    const events = inject(LiveEvents).all.pipe(takeUntilDestroyed(inject(DestroyRef)));
    events
      .pipe(
        filter((event) => ['reconnected', 'draft', 'site', 'mail'].includes(event.type) || this.isOurRing(event)),
        tap((event) => {
          const moved = event.type === 'draft' && event.head !== -1 && event.draftId === untracked(this.draft)?.id;
          if (moved) this.news.head = event.head;
          else this.news.other = true;
        }),
        auditTime(50),
      )
      .subscribe(() => this.follow());
    events
      .pipe(
        filter(
          (event) =>
            event.type === 'reconnected' ||
            event.type === 'gone' ||
            (event.type === 'device' && (event.siteIds.includes(null) || event.siteIds.includes(this.siteId()))),
        ),
        auditTime(FOLLOW_MS),
      )
      .subscribe(() => this.follows(this.lookAtDevices));
  }

  /** Whether keys of a ring changed that the site has: its findings may speak of them. */
  private isOurRing(event: Happening): boolean {
    return event.type === 'ring' && event.changed === true && this.ssids().some(({ id }) => id === event.ssidId);
  }

  /** Edits the draft. @throws Problem when refused; forms show it at their fields. */
  async edit(operations: readonly Operation[], secrets: Readonly<Record<string, string>> = {}): Promise<void> {
    const draft = this.draft() ?? (await this.load());
    const started = performance.now();
    const request: EditRequest = { head: draft.head, operations, secrets };
    // Of edits that are under way at the same time the answers come in any order: what there is then is looked at once more.
    if (this.editing > 0) this.news.other = true;
    this.editing++;
    try {
      const url = `/api/drafts/${draft.id}/operations`;
      const site = this.siteId();
      if (site === null) this.alone.put(await firstValueFrom(this.http.post<DraftView>(url, request)));
      else {
        const data = await firstValueFrom(this.http.post<SiteDraft>(url, request, { params: { site } }));
        if (this.siteId() === site) this.data.set(data); // people may look at another by now
      }
    } finally {
      this.editing--;
      this.edited++;
      this.follow();
    }
    this.lastEditMs.set(Math.round(performance.now() - started));
  }

  /** The draft, where somebody edits before the page has heard of it: nothing they made may be lost over that. */
  private async load(): Promise<DraftView> {
    await this.reload();
    const draft = untracked(this.draft);
    if (!draft) throw new Problem('draft.unread', 'The draft could not be read yet. Try again in a moment.', []);
    return draft;
  }

  /** Looks again where events said something that no answer has brought; while an edit is under way its answer may. */
  private follow(): void {
    if (this.editing > 0) return;
    const { other, head } = this.news;
    this.news = { other: false, head: null };
    if (other || (head !== null && head !== untracked(this.draft)?.head)) this.follows(this.lookAtSite);
  }

  /** Edits, and says in passing when it was refused. @returns whether it was done. */
  async tryEdit(operations: readonly Operation[]): Promise<boolean> {
    return this.attempt(() => this.edit(operations));
  }

  mend(mend: Mend): Promise<boolean> {
    return this.tryEdit(mend.operations);
  }

  /** Takes the last edit back, or brings it back. */
  async turn(way: 'undo' | 'redo'): Promise<void> {
    const draft = this.draft();
    if (!draft) return;
    await this.attempt(async () => {
      await firstValueFrom(this.http.post(`/api/drafts/${draft.id}/${way}`, {}));
      await this.reload();
      if (way === 'undo' && draft.undoesLive)
        this.snack.open(`${draft.name} takes back the last edit of what is live. Roll it out to make it so.`, 'Close');
    });
  }

  async discard(): Promise<void> {
    const draft = this.draft();
    if (!draft) return;
    await this.attempt(async () => {
      await firstValueFrom(this.http.delete(`/api/drafts/${draft.id}`));
      await this.reload();
    });
  }

  async dropMisfit(number: number): Promise<void> {
    const draft = this.draft();
    if (!draft) return;
    await this.attempt(async () => {
      await firstValueFrom(this.http.delete(`/api/drafts/${draft.id}/misfits/${number}`));
      await this.reload();
    });
  }

  /** Makes an edit that no longer fits again, on what is there now. */
  async remakeMisfit(number: number): Promise<void> {
    const draft = this.draft();
    if (!draft) return;
    await this.attempt(async () => {
      await firstValueFrom(this.http.post(`/api/drafts/${draft.id}/misfits/${number}/again`, {}));
      await this.reload();
    });
  }

  async reload(): Promise<void> {
    const siteId = untracked(this.siteId);
    if (!siteId) return this.alone.again();
    const draftId = untracked(this.draftId) ?? 'current';
    const [asked, edited] = [++this.asked, this.edited];
    const data = await firstValueFrom(this.http.get<SiteDraft>(`/api/drafts/${draftId}/sites/${siteId}`));
    if (draftId !== 'current' && isOver(data.draft)) {
      this.draftId.set(null); // it is over
      return this.reload();
    }
    if (untracked(this.siteId) !== siteId || asked < this.answered) return;
    if (edited !== this.edited) return this.reload(); // an edit from here was answered meanwhile: this may be from before it
    this.answered = asked;
    this.data.set(data);
  }

  /** Looks which drafts there are to choose from. */
  async listDrafts(): Promise<void> {
    this.drafts.set(await firstValueFrom(this.http.get<DraftView[]>('/api/drafts')));
  }

  /** Goes on working in a draft. */
  async takeUp(draftId: string): Promise<void> {
    this.draftId.set(draftId);
    await this.attempt(() => this.reload());
  }

  async startDraft(): Promise<void> {
    await this.attempt(async () =>
      this.takeUp((await firstValueFrom(this.http.post<DraftView>('/api/drafts', {}))).id),
    );
  }

  async reloadDevices(): Promise<void> {
    const siteId = untracked(this.siteId);
    if (!siteId) return;
    const [devices, calling] = await Promise.all([
      firstValueFrom(this.http.get<DeviceView[]>(`/api/sites/${siteId}/devices`)),
      firstValueFrom(this.http.get<DeviceView[]>('/api/calling')),
    ]);
    if (untracked(this.siteId) !== siteId) return;
    this.devices.set(devices);
    this.calling.set(calling);
  }

  /** Says in passing what was done. */
  say(text: string): void {
    this.snack.open(text, 'Close');
  }

  /** Says in passing what went wrong. */
  tell(error: unknown): void {
    this.snack.open(error instanceof Error ? error.message : String(error), 'Close');
  }

  /**
   * Looks at what nobody asked for just now. What failed for want of time is asked for again, as long as the same site is in
   * front; that the controller is away the page's head says already.
   */
  private follows(look: () => Promise<void>, wait: number = LATER.first): void {
    const siteId = untracked(this.siteId);
    look().catch((error: unknown) => {
      const again = error instanceof Problem && isPassing(error);
      // However much happens meanwhile, it is said and waited for once.
      if (again && this.waiting.has(look)) return;
      if (wait === LATER.first && !(error instanceof Problem && error.code === 'unreachable')) this.tell(error);
      if (!again) return;
      this.waiting.add(look);
      setTimeout(() => {
        this.waiting.delete(look);
        if (untracked(this.siteId) === siteId) this.follows(look, Math.min(wait * 2, LATER.most));
      }, wait);
    });
  }

  /** Does something that may be refused, and says so in passing. */
  async attempt(act: () => Promise<void>): Promise<boolean> {
    try {
      await act();
      return true;
    } catch (error) {
      this.tell(error);
      if (error instanceof Problem && error.code.startsWith('draft.')) await this.reload();
      return false;
    }
  }
}

const isOver = ({ state }: DraftView): boolean => state !== 'open' && state !== 'rolling-out';
