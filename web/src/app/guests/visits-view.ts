import { lastsWords } from '@iron-lattice/core/base';
import { DatePipe } from '@angular/common';
import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MOST_VISITS_TOLD, type VisitView } from '@iron-lattice/core/guests';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { octetsWords } from '../ui/octets-words';
import { GuestsStore } from './guests-store';
import { guestWords, stateWords, wayWords } from './visit-words';

const TIME = new DatePipe('en');

/** Visits of guests: who is let in by what, where, since and until when, and how much they took. */
@Component({
  selector: 'il-visits-view',
  imports: [MatButtonModule, DataTable],
  template: `
    <div class="bar">
      <span class="soft" role="status">{{ words() }}</span>
      <span class="grow"></span>
      @if (visits().length >= most || store.find() !== '') {
        <input
          type="search"
          aria-label="Find among all visits"
          placeholder="Device, SSID, code, name, address"
          maxlength="100"
          [value]="store.find()"
          (change)="store.find.set($any($event.target).value.trim())"
        />
      }
      @if (session.mayChange() && ending().length > 0) {
        <button mat-stroked-button (click)="end()">End {{ ending().length }}</button>
      }
    </div>
    <il-data-table
      label="Visits"
      remember="visits"
      [rows]="visits()"
      [columns]="columns()"
      [key]="key"
      [name]="name"
      [pickable]="session.mayChange()"
      [(picked)]="picked"
      [shown]="store.visit()?.id ?? null"
      (opened)="store.sheet.set({ of: 'visit', id: $event.id })"
    >
      <span empty>{{
        store.problem()?.message ??
          (store.visits()
            ? 'No guest yet. Whoever is let in by a portal stands here, for as long as the register keeps clients (under Entry).'
            : 'Asking…')
      }}</span>
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
      min-height: 32px;
      flex: none;
    }
    input {
      width: 260px;
      height: 28px;
      padding: 0 8px;
      color: var(--ink);
      background: var(--sheet);
      border: 1px solid var(--strong);
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class VisitsView {
  protected readonly store = inject(GuestsStore);
  protected readonly session = inject(SessionStore);
  private readonly shared = inject(SharedStore);
  private readonly estate = inject(EstateStore);
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  protected readonly visits = computed(() => this.store.visits() ?? []);
  protected readonly most = MOST_VISITS_TOLD;
  protected readonly key = ({ id }: VisitView): string => id;
  protected readonly name = ({ mac }: VisitView): string => mac;
  /** Those picked that go on. */
  protected readonly ending = computed(() =>
    this.visits().filter(({ id, endedAt }) => endedAt === null && this.picked().has(id)),
  );
  protected readonly words = computed(() => {
    const { length } = this.visits();
    const here = this.visits().filter(({ state }) => state === 'in' || state === 'slow').length;
    const found = this.store.find() === '' ? 'kept' : `found by “${this.store.find()}”`;
    const kept =
      length < MOST_VISITS_TOLD ? `${counted(length, 'visit')} ${found}` : `the latest ${length} visits shown`;
    return this.store.visits() ? `${counted(here, 'guest')} let in, ${kept}` : '';
  });
  protected readonly columns = computed((): readonly TableColumn<VisitView>[] => [
    { key: 'mac', title: 'Device', text: ({ mac }) => mac, width: 140, mono: true, phone: true },
    { key: 'host', title: 'Called', text: ({ host }) => host, width: 95 },
    { key: 'who', title: 'Guest', text: guestWords, width: 110 },
    {
      ...{ key: 'state', title: 'State', width: 95, groups: true, phone: true },
      text: stateWords,
      tone: ({ state, told }) =>
        state === 'in'
          ? told
            ? 'good'
            : 'caution'
          : state === 'slow' || state === 'quota' || state === 'hours'
            ? 'caution'
            : 'soft',
    },
    {
      ...{ key: 'way', title: 'By', width: 100, groups: true },
      text: wayWords,
    },
    {
      key: 'portal',
      title: 'Portal',
      text: ({ portalId }) => this.store.portalName(portalId),
      width: 110,
      groups: true,
      hidden: true,
    },
    ...(this.shared.atEstate()
      ? [{ key: 'site', title: 'Site', text: (visit: VisitView) => this.siteName(visit), width: 110, groups: true }]
      : []),
    { key: 'at', title: 'At', text: ({ at }) => at, width: 90, groups: true },
    {
      ...{ key: 'begun', title: 'Since', width: 86 },
      text: ({ begun }) => TIME.transform(begun, 'd MMM HH:mm') ?? '',
      order: ({ begun }) => Date.parse(begun),
    },
    {
      ...{ key: 'until', title: 'Until', width: 86, phone: true },
      text: ({ until, endedAt }) => TIME.transform(endedAt ?? until, 'd MMM HH:mm') ?? '',
      order: ({ until, endedAt }) => Date.parse(endedAt ?? until),
    },
    { key: 'took', title: 'Took', text: ({ octets }) => octetsWords(octets), order: ({ octets }) => octets, width: 60 },
    {
      ...{ key: 'left', title: 'Left today', width: 68 },
      text: ({ left }) => (left === null ? '' : octetsWords(left)),
      order: ({ left }) => left ?? Infinity,
    },
    {
      ...{ key: 'there', title: 'There for', width: 75, hidden: true },
      text: ({ seconds }) => lastsWords(Math.floor(seconds / 60)),
      order: ({ seconds }) => seconds,
    },
  ]);

  private siteName({ siteId }: VisitView): string {
    return this.estate.siteChoices().find(({ value }) => value === siteId)?.label ?? 'a site that is gone';
  }

  protected async end(): Promise<void> {
    await this.store.end(this.ending().map(({ id }) => id));
    this.picked.set(new Set());
  }
}
