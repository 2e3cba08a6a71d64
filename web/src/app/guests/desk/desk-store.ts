import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { DeskCode, DeskCodes, DeskGuests, DeskPortal, DeskView } from '@iron-lattice/core/guests';
import { firstValueFrom } from 'rxjs';
import { problemOf } from '../../session/problem';
import { liveFetch } from '../../shell/live-fetch';
import { counted } from '../../ui/counted';
import { printSlips, saveSlips } from '../../ui/slips';
import { codeSlip } from '../code-slip';
import type { MadeCode } from '../guests-store';

/** How often what changes is asked for anew at the most, in milliseconds; and how long a message offers to take something back. */
const [FOLLOW_MS, UNDO_MS] = [1000, 15_000];

/** A code in front of whoever stands at the desk, with itself. */
export interface GivenCode extends MadeCode, Pick<DeskCode, 'minutes' | 'most' | 'useBy' | 'portalId'> {}

/** What reception has before it: its sites, their codes and visits, and the codes that were given last. */
@Injectable()
export class DeskStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  private readonly view = liveFetch({
    of: () => 'desk',
    fetch: () => firstValueFrom(this.http.get<DeskView>('/api/reception')),
    when: () => false,
  });
  private readonly live = liveFetch({
    of: () => 'guests',
    fetch: () => firstValueFrom(this.http.get<DeskGuests>('/api/reception/guests')),
    when: ({ type }) => type === 'guests',
    every: FOLLOW_MS,
  });
  readonly problem = computed(() => this.view.problem() ?? this.live.problem());
  readonly sites = computed(() => this.view.value()?.sites ?? null);
  private readonly wantedSite = signal<string | null>(null);
  private readonly wantedPortal = signal<string | null>(null);
  readonly site = computed(() => this.sites()?.find(({ id }) => id === this.wantedSite()) ?? this.sites()?.[0] ?? null);
  readonly portal = computed((): DeskPortal | null => {
    const portals = this.site()?.portals ?? [];
    return portals.find(({ id }) => id === this.wantedPortal()) ?? portals[0] ?? null;
  });
  private readonly guests = this.live.value;
  readonly known = computed(() => this.guests() !== null);
  readonly codes = computed(() => this.guests()?.codes ?? []);
  readonly visits = computed(() => this.guests()?.visits ?? []);
  /** Codes that lie in front, with themselves. */
  readonly given = signal<readonly GivenCode[]>([]);

  choose(siteId: string): void {
    this.wantedSite.set(siteId);
    void this.view.again();
  }

  choosePortal(id: string): void {
    this.wantedPortal.set(id);
  }

  siteName = (id: string): string => this.sites()?.find((site) => site.id === id)?.name ?? '';

  /** Looks again: what was right a while ago may be over. */
  async look(): Promise<void> {
    await Promise.all([this.view.again(), this.live.again()]);
  }

  /** Makes codes, and lays them in front. @throws Problem. */
  async make(asked: DeskCodes): Promise<void> {
    const { codes } = await firstValueFrom(this.http.post<{ codes: MadeCode[] }>('/api/reception/codes', asked));
    const { portalId, minutes, most } = asked;
    this.given.set(codes.map((each) => ({ ...each, portalId, minutes, most, useBy: null })));
    // Those that were given before follow by themselves: nobody has to wait for the list.
    void this.live.again();
  }

  /** Lays codes in front again, with themselves. */
  async show(codes: readonly DeskCode[]): Promise<boolean> {
    return this.act(async () => {
      const ids = codes.map(({ id }) => id);
      const itself = await firstValueFrom(
        this.http.post<Record<string, string>>('/api/reception/codes/reveal', { ids }),
      );
      this.given.set(codes.flatMap((each) => (itself[each.id] ? [{ ...each, code: itself[each.id]! }] : [])));
    });
  }

  /** Slips of the codes in front: printed, or as a file. */
  print = (asFile = false): Promise<boolean> =>
    this.act(() => {
      const slips = this.given().map((each) => codeSlip(each, each.code, this.ssidOf(each), this.portalUrl()));
      return asFile ? saveSlips(this.http, slips, 'visit-codes', '/api/reception/slips') : printSlips(slips);
    });

  portalUrl = (): string => this.view.value()?.portalUrl ?? '';

  /** The network that a code is for. */
  ssidOf({ portalId }: Pick<GivenCode, 'portalId'>): DeskPortal['ssids'][number] | null {
    const all = [this.site(), ...(this.sites() ?? [])].flatMap((site) => site?.portals ?? []);
    return all.find(({ id }) => id === portalId)?.ssids[0] ?? null;
  }

  async revoke({ id }: DeskCode): Promise<void> {
    if (!(await this.post('codes/revoke', { ids: [id] }))) return;
    this.given.update((given) => given.filter((each) => each.id !== id));
    const message = this.snack.open('Taken back; visits that began with it ended.', 'Bring back', {
      duration: UNDO_MS,
    });
    message.onAction().subscribe(() => void this.post('codes/restore', { ids: [id] }));
  }

  restore = ({ id }: DeskCode): Promise<boolean> => this.post('codes/restore', { ids: [id] });
  extendCode = ({ id }: DeskCode, minutes: number): Promise<boolean> =>
    this.post('codes/extend', { ids: [id], minutes });
  extendVisit = (id: string, minutes: number): Promise<boolean> => this.post('visits/extend', { ids: [id], minutes });

  async end(ids: readonly string[]): Promise<void> {
    if (await this.post('visits/end', { ids })) this.say(`${counted(ids.length, 'visit')} ended.`);
  }

  private async post(path: string, body: object): Promise<boolean> {
    return this.act(async () => {
      await firstValueFrom(this.http.post(`/api/reception/${path}`, body));
      await this.live.again();
    });
  }

  /** @returns whether it was done; else why not is said. */
  private async act(work: () => Promise<void>): Promise<boolean> {
    try {
      await work();
      return true;
    } catch (error) {
      this.say(problemOf(error).message);
      return false;
    }
  }

  private say(text: string): void {
    this.snack.open(text, 'Close', { duration: UNDO_MS });
  }
}
