import { DatePipe } from '@angular/common';
import { Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { ClientStay, RegisteredClient } from '@iron-lattice/core/entry';
import { SessionStore } from '../../session/session-store';
import { SharedStore } from '../../shell/shared-store';
import { counted } from '../../ui/counted';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { RegisterStore } from './register-store';

const TIME = new DatePipe('en');
/** How long somebody types before it is looked for, in milliseconds. */
const TYPED_MS = 300;

/** A moment by the clock of whoever looks; of another year with that. */
export const momentWords = (at: string): string =>
  TIME.transform(at, new Date(at).getFullYear() === new Date().getFullYear() ? 'd MMM HH:mm' : 'd MMM y HH:mm') ?? '';
/** What a client is called. */
export const calledOf = ({ name, said, mac }: RegisteredClient): string => name || said || mac;
/** Where a client is or was at a site, in words. */
export const stayWords = ({ device, ssid, port }: ClientStay): string =>
  device === '' ? '' : `${device} ${ssid === null ? `port ${port}` : `“${ssid}”`}`;

/** Everybody who was seen: first, last, where and as what. */
@Component({
  selector: 'il-register-view',
  imports: [MatButtonModule, DataTable],
  template: `
    <div class="bar">
      <span class="soft" role="status">{{ words() }}</span>
      @if (more()) {
        <input
          type="search"
          aria-label="Look among all of them"
          placeholder="among all of them"
          [value]="store.words()"
          (input)="look($any($event.target).value)"
        />
      }
      <span class="grow"></span>
      @if (session.mayChange() && picked().size > 0) {
        <button mat-stroked-button (click)="forget()">Erase {{ picked().size }}…</button>
      }
      <button mat-button (click)="store.sheet.set({ of: 'keeping' })">What is kept</button>
    </div>
    <il-data-table
      label="Clients that were seen"
      remember="register"
      [rows]="store.clients()"
      [columns]="columns()"
      [key]="key"
      [name]="nameOf"
      [pickable]="session.mayChange()"
      [(picked)]="picked"
      [shown]="store.client()?.mac ?? null"
      (opened)="store.sheet.set({ of: 'client', mac: $event.mac })"
    >
      <span empty>
        @if (store.problem(); as problem) {
          {{ problem.message }}
        } @else if (!store.view()) {
          Asking…
        } @else if (store.words() !== '') {
          Nobody has that in a name, a note, a MAC address or in what it signed in as.
        } @else {
          Nobody was seen yet, or nothing is kept here. Clients stand here from the moment that an AP or a port has
          them.
        }
      </span>
    </il-data-table>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 10px;
      padding: 0 14px 8px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class RegisterView {
  protected readonly store = inject(RegisterStore);
  protected readonly session = inject(SessionStore);
  private readonly shared = inject(SharedStore);
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  protected readonly key = ({ mac }: RegisteredClient): string => mac;
  protected readonly nameOf = calledOf;
  private typing: ReturnType<typeof setTimeout> | undefined;
  /** Whether there are more than are told. */
  protected readonly more = computed(
    () => this.store.words() !== '' || (this.store.view()?.count ?? 0) > this.store.clients().length,
  );
  protected readonly words = computed(() => {
    const [view, keeping] = [this.store.view(), this.store.keeping()];
    if (!view || !keeping) return 'Asking…';
    const here = view.clients.filter((each) => each.here).length;
    const all = this.more()
      ? `The ${view.clients.length} seen last of ${view.count}`
      : `${counted(view.count, 'client')}, ${here} of them here now`;
    return `${all}. Erased ${counted(keeping.days, 'day')} after they were seen last${this.nothing()}.`;
  });
  private readonly nothing = computed(() => {
    const { siteIds = [], ssidIds = [] } = this.store.keeping() ?? {};
    const parts = [
      ...(siteIds.length > 0 ? [counted(siteIds.length, 'site')] : []),
      ...(ssidIds.length > 0 ? [counted(ssidIds.length, 'SSID')] : []),
    ];
    return parts.length === 0 ? '' : `; nothing is kept at ${parts.join(' and ')}`;
  });
  protected readonly columns = computed((): readonly TableColumn<RegisteredClient>[] => [
    { key: 'client', title: 'Client', text: calledOf, width: 115, phone: true },
    {
      ...{ key: 'last', title: 'Last seen', width: 85, phone: true },
      text: ({ here, lastAt }) => (here ? 'here now' : momentWords(lastAt)),
      order: ({ here, lastAt }) => (here ? Number.MAX_SAFE_INTEGER : Date.parse(lastAt)),
      tone: ({ here }) => (here ? 'good' : ''),
    },
    ...(this.shared.atEstate()
      ? [{ key: 'site', title: 'Site', text: ({ last }: RegisteredClient) => last.site, width: 90, groups: true }]
      : []),
    { key: 'where', title: 'Where', text: ({ last }) => stayWords(last), width: 150, groups: true, phone: true },
    { key: 'user', title: 'Signed in as', text: ({ last }) => last.user, width: 80, groups: true },
    { key: 'class', title: 'Class', text: ({ last }) => last.accessClass, width: 70, groups: true },
    { key: 'segment', title: 'Segment', text: ({ last }) => last.segment, width: 80, groups: true },
    {
      ...{ key: 'first', title: 'First seen', width: 85 },
      text: ({ firstAt }) => momentWords(firstAt),
      order: ({ firstAt }) => Date.parse(firstAt),
    },
    { key: 'note', title: 'Note', text: ({ note }) => note, width: 80 },
    { key: 'mac', title: 'MAC address', text: ({ mac }) => mac, width: 135, mono: true },
    { key: 'address', title: 'Address', text: ({ last }) => last.address, width: 105, mono: true, hidden: true },
    { key: 'server', title: 'Server', text: ({ last }) => last.server, width: 110, groups: true, hidden: true },
  ]);

  constructor() {
    this.store.inSight.set(true);
    inject(DestroyRef).onDestroy(() => {
      clearTimeout(this.typing);
      this.store.inSight.set(false);
    });
  }

  protected look(words: string): void {
    clearTimeout(this.typing);
    this.typing = setTimeout(() => this.store.words.set(words.trim()), TYPED_MS);
  }

  protected forget(): void {
    const clients = this.store.clients().filter(({ mac }) => this.picked().has(mac));
    this.store.sheet.set({ of: 'forget', clients });
    this.picked.set(new Set());
  }
}
