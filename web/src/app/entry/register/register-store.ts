import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import type {
  ClientStay,
  RegisteredClient,
  RegisterErased,
  RegisterKeeping,
  RegisterView,
} from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../../shell/live-fetch';
import { SharedStore } from '../../shell/shared-store';
import { SiteStore } from '../../shell/site-store';
import { counted } from '../../ui/counted';

/** How often it is asked for again while devices report, and how long a name can be changed back from its message, in milliseconds. */
const [FOLLOW_MS, UNDO_MS] = [5000, 15_000];

type Said = Pick<RegisteredClient, 'name' | 'note'>;
/** The sheet that is open over the register. */
export type RegisterSheetOf =
  | { readonly of: 'client'; readonly mac: string }
  | { readonly of: 'keeping' }
  | { readonly of: 'forget'; readonly clients: readonly RegisteredClient[] };

/** Everybody who was seen, here or at any site, and what of that is kept. Each change acts at once. */
@Injectable()
export class RegisterStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  /** Whether the register is in sight: else nobody asks for it. */
  readonly inSight = signal(false);
  /** What is looked for among all, and not among those that are told alone. */
  readonly words = signal('');
  readonly sheet = signal<RegisterSheetOf | null>(null);
  private readonly siteId = computed(() => (this.shared.atEstate() ? null : this.site.siteId()));
  private readonly live = liveFetch({
    of: () => (this.inSight() ? { siteId: this.siteId(), words: this.words() } : undefined),
    stays: true,
    fetch: ({ siteId, words }) => {
      const params = { ...(siteId === null ? {} : { siteId }), ...(words === '' ? {} : { words }) };
      return firstValueFrom(this.http.get<RegisterView>('/api/clients', { params }));
    },
    when: (event) => event.type === 'device' && (this.siteId() === null || event.siteIds.includes(this.siteId())),
    every: FOLLOW_MS,
  });
  readonly view = this.live.value;
  readonly problem = this.live.problem;
  readonly clients = computed(() => this.view()?.clients ?? []);
  readonly client = computed(() => {
    const sheet = this.sheet();
    return sheet?.of === 'client' ? (this.clients().find(({ mac }) => mac === sheet.mac) ?? null) : null;
  });
  private readonly kept = liveFetch({
    of: () => (this.inSight() ? 'keeping' : undefined),
    fetch: () => firstValueFrom(this.http.get<RegisterKeeping>('/api/register-keeping')),
    when: () => false,
  });
  readonly keeping = this.kept.value;

  /** Opens a client, wherever it stands in the list: it alone is looked for. */
  open(mac: string): void {
    this.words.set(mac);
    this.sheet.set({ of: 'client', mac });
  }

  stays(mac: string): Promise<ClientStay[]> {
    return firstValueFrom(this.http.get<ClientStay[]>(`/api/clients/${mac}/stays`));
  }

  /** Gives a client a name and a note; the message that says so changes them back. */
  async say(client: RegisteredClient, was: Said, to: Said): Promise<void> {
    await this.patch(client.mac, was, to);
    this.snack
      .open(`${to.name || client.said || client.mac} is noted.`, 'Change it back', { duration: UNDO_MS })
      .onAction()
      .subscribe(() => void this.site.attempt(() => this.patch(client.mac, to, was)));
  }

  /** Erases clients for good. */
  forget(macs: readonly string[]): Promise<boolean> {
    return this.site.attempt(async () => {
      const { count } = await firstValueFrom(this.http.post<{ count: number }>('/api/clients/forget', { macs }));
      this.sheet.set(null);
      await this.live.again();
      this.site.say(`${counted(count, 'client')} erased.`);
    });
  }

  /** What would be erased at once if that were kept. */
  erases(keeping: RegisterKeeping): Promise<RegisterErased> {
    return firstValueFrom(this.http.post<RegisterErased>('/api/register-keeping/look', keeping));
  }

  async keep(keeping: RegisterKeeping): Promise<void> {
    const { clients } = await firstValueFrom(this.http.post<RegisterErased>('/api/register-keeping', keeping));
    await Promise.all([this.live.again(), this.kept.again()]);
    this.sheet.set(null);
    this.site.say(
      clients === 0 ? 'Kept so from now on.' : `Kept so from now on; ${counted(clients, 'client')} erased.`,
    );
  }

  private async patch(mac: string, was: Said, to: Said): Promise<void> {
    await firstValueFrom(this.http.patch(`/api/clients/${mac}`, { was, to }));
    await this.live.again();
  }
}
