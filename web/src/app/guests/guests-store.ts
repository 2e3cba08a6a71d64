import { HttpClient } from '@angular/common/http';
import { Injectable, computed, effect, inject, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { asksPassphrase } from '@iron-lattice/core/document';
import type { CodesView, CodeView, ListedCode, NewCodes, VisitView } from '@iron-lattice/core/guests';
import { joinText } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { problemOf } from '../session/problem';
import { liveFetch } from '../shell/live-fetch';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { printSlips, saveSlips } from '../ui/slips';
import { codeSlip } from './code-slip';

/** How often what changes is asked for anew at the most, in milliseconds. */
const FOLLOW_MS = 1000;
/** How often visits are asked for anew while they are looked at, in milliseconds. */
const LOOK_MS = 10_000;
/** How long it can be brought back from the message that says that codes were taken back. */
const UNDO_MS = 15_000;

/** What is shown of guests. */
export const GUEST_VIEWS = ['Portals', 'Visit codes', 'Visits', 'Reception', 'Mail'] as const;
export type GuestView = (typeof GUEST_VIEWS)[number];

/** The sheet that is open over codes or visits. */
export type GuestSheet =
  | { readonly of: 'code'; readonly id: string }
  | { readonly of: 'visit'; readonly id: string }
  | { readonly of: 'new' | 'list' };

/** A code that was made, with itself. */
export interface MadeCode {
  readonly id: string;
  readonly name: string;
  readonly code: string;
}

/** Visit codes of one portal and visits of guests, and what is done with them; each change acts at once. */
@Injectable()
export class GuestsStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly view = signal<GuestView>('Portals');
  readonly sheet = signal<GuestSheet | null>(null);
  /** Id of the portal whose codes are looked at. */
  readonly wanted = signal<string | null>(null);
  /** What is looked for in all visits that are kept; empty: the latest are shown. */
  readonly find = signal('');
  readonly portals = computed(() => this.shared.estate()?.portals ?? []);
  /** Portals that take codes. */
  readonly coded = computed(() => this.portals().filter(({ ways }) => ways.includes('code')));
  readonly portal = computed(() => this.coded().find(({ id }) => id === this.wanted()) ?? this.coded()[0] ?? null);
  private readonly codesLive = liveFetch({
    of: () => (this.view() === 'Visit codes' ? this.portal()?.id : undefined),
    stays: true,
    fetch: (id) => firstValueFrom(this.http.get<CodesView>(`/api/portals/${id}/codes`)),
    when: (event) => event.type === 'guests' && event.portalId === this.portal()?.id,
    every: FOLLOW_MS,
  });
  private readonly visitsLive = liveFetch({
    of: () => (this.view() === 'Visits' ? { siteId: this.site.siteId(), find: this.find() } : undefined),
    stays: true,
    fetch: ({ siteId, find }) => {
      const params = { ...(siteId === null ? {} : { siteId }), ...(find === '' ? {} : { find }) };
      return firstValueFrom(this.http.get<VisitView[]>('/api/visits', { params }));
    },
    when: (event) => event.type === 'guests' && event.what === 'visits',
    every: FOLLOW_MS,
  });
  /** What guests take, and what their devices are called, is no event: while people look it is asked for anew. */
  private readonly looking = effect((onCleanup) => {
    if (this.view() !== 'Visits') return;
    const timer = setInterval(() => void this.visitsLive.again(), LOOK_MS);
    onCleanup(() => clearInterval(timer));
  });
  readonly codes = computed(() => {
    const view = this.codesLive.value();
    return view?.portalId === this.portal()?.id ? view : null;
  });
  readonly visits = this.visitsLive.value;
  readonly problem = computed(() => (this.view() === 'Visits' ? this.visitsLive : this.codesLive).problem());
  readonly code = computed(() => {
    const sheet = this.sheet();
    return sheet?.of === 'code' ? (this.codes()?.codes.find(({ id }) => id === sheet.id) ?? null) : null;
  });
  readonly visit = computed(() => {
    const sheet = this.sheet();
    return sheet?.of === 'visit' ? (this.visits()?.find(({ id }) => id === sheet.id) ?? null) : null;
  });

  /** Slips of codes with themselves: printed, or as a file. */
  async print(
    codes: readonly (Parameters<typeof codeSlip>[0] & { readonly code: string })[],
    asFile = false,
  ): Promise<void> {
    const ssid = this.shared.estate()?.ssids.find(({ portal }) => portal && portal === this.portal()?.id);
    const joins = ssid && !asksPassphrase(ssid.security) ? joinText(ssid.name, null, ssid.hidden ?? false) : null;
    const of = ssid ? { name: ssid.name, join: joins } : null;
    const slips = codes.map((each) => codeSlip(each, each.code, of, this.codes()?.portalUrl ?? ''));
    await (asFile ? saveSlips(this.http, slips, 'visit-codes') : printSlips(slips));
  }

  portalName = (id: string): string =>
    this.portals().find((portal) => portal.id === id)?.name ?? 'a portal that is gone';

  async make(asked: NewCodes): Promise<readonly MadeCode[]> {
    const { codes } = await firstValueFrom(this.http.post<{ codes: MadeCode[] }>('/api/codes', asked));
    await this.codesLive.again();
    return codes;
  }

  /** Codes that people picked; those of a list are, once they are made: to be printed, or saved. */
  readonly pickedCodes = signal<ReadonlySet<string>>(new Set());

  /** Makes the codes of a list. */
  async makeListed(codes: readonly ListedCode[]): Promise<void> {
    const headers = { 'content-type': 'application/octet-stream' };
    const body = new Blob([JSON.stringify(codes)]);
    const url = `/api/portals/${this.portal()!.id}/codes`;
    const { codes: made } = await firstValueFrom(this.http.post<{ codes: MadeCode[] }>(url, body, { headers }));
    await this.codesLive.again();
    this.pickedCodes.set(new Set(made.map(({ id }) => id)));
  }

  reveal = (ids: readonly string[]): Promise<Record<string, string>> =>
    firstValueFrom(this.http.post<Record<string, string>>('/api/codes/reveal', { ids }));

  /** Takes codes back; a message offers to bring them back. */
  async revoke(codes: readonly CodeView[]): Promise<void> {
    const ids = codes.map(({ id }) => id);
    if (!(await this.act('/api/codes/revoke', { ids }))) return;
    await this.codesLive.again();
    const words = `${counted(ids.length, 'code')} taken back; visits that began with ${ids.length === 1 ? 'it' : 'them'} ended.`;
    const message = this.snack.open(words, 'Bring back', { duration: UNDO_MS });
    message.onAction().subscribe(() => void this.restore(ids));
  }

  async restore(ids: readonly string[]): Promise<void> {
    if (await this.act('/api/codes/restore', { ids })) await this.codesLive.again();
  }

  /** Has a code open other sites. @param siteIds null: wherever its portal is. */
  async move(
    { id, siteIds: before }: Pick<CodeView, 'id' | 'siteIds'>,
    siteIds: readonly string[] | null,
  ): Promise<void> {
    if (!(await this.act('/api/codes/move', { ids: [id], siteIds }))) return;
    await this.codesLive.again();
    const words = 'Moved; visits with it where it opens nothing any more ended.';
    const message = this.snack.open(words, 'Move back', { duration: UNDO_MS });
    message.onAction().subscribe(() => void this.move({ id, siteIds }, before));
  }

  async extendCodes(ids: readonly string[], minutes: number): Promise<void> {
    if (await this.act('/api/codes/extend', { ids, minutes })) await this.codesLive.again();
  }

  async end(ids: readonly string[]): Promise<void> {
    if (await this.act('/api/visits/end', { ids })) await this.visitsLive.again();
  }

  async extend(ids: readonly string[], minutes: number): Promise<void> {
    if (await this.act('/api/visits/extend', { ids, minutes })) await this.visitsLive.again();
  }

  /** Erases somebody: the visits of a device, what it took, the codes it used, what the register holds of it. */
  async erase(mac: string): Promise<boolean> {
    const done = await this.act('/api/clients/forget', { macs: [mac] });
    if (done) this.snack.open(`All that was kept of ${mac} is erased.`, 'Close', { duration: UNDO_MS });
    await this.visitsLive.again();
    return done;
  }

  async block(mac: string, on: boolean): Promise<void> {
    if (await this.act(`/api/guests/${mac}/block`, { on })) await this.visitsLive.again();
  }

  /** @returns whether it was done; else why not is said. */
  private async act(path: string, body: object): Promise<boolean> {
    try {
      await firstValueFrom(this.http.post(path, body));
      return true;
    } catch (error) {
      this.snack.open(problemOf(error).message, 'Close', { duration: UNDO_MS });
      return false;
    }
  }
}
