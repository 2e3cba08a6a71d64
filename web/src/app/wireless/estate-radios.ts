import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, model } from '@angular/core';
import type { EstateRadio } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { liveFetch } from '../shell/live-fetch';
import { factWords } from '../shell/radio-rows';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { RadioChanges } from './radio-changes';

const COLUMNS: readonly TableColumn<EstateRadio>[] = [
  { key: 'site', title: 'Site', text: ({ site }) => site, width: 120, groups: true, phone: true },
  { key: 'ap', title: 'AP', text: ({ name }) => name, width: 84, mono: true, phone: true },
  {
    key: 'band',
    title: 'Band',
    text: ({ band }) => band,
    order: ({ band }) => Number(band),
    width: 48,
    mono: true,
    groups: true,
    phone: true,
  },
  {
    key: 'channel',
    title: 'Channel',
    text: ({ on, channel, power }) =>
      !on ? 'off' : power === null ? 'none is legal' : channel === null ? 'free' : `${channel}`,
    order: ({ channel }) => channel ?? 1000,
    width: 80,
    groups: true,
    phone: true,
    tone: ({ on, power }) => (on && power === null ? 'bad' : ''),
  },
  { key: 'width', title: 'MHz', text: ({ width }) => `${width}`, order: ({ width }) => width, width: 48, groups: true },
  { key: 'power', title: 'dBm', text: ({ power }) => `${power ?? ''}`, order: ({ power }) => power ?? -1, width: 48 },
  {
    key: 'air',
    title: 'On air',
    text: ({ fact }) => factWords(fact, Date.now()),
    order: ({ fact }) => fact?.channel ?? 1000,
    width: 180,
  },
  {
    key: 'state',
    title: 'State',
    text: ({ fact }) => fact?.state ?? 'not reported',
    width: 76,
    groups: true,
    hidden: true,
  },
  { key: 'clients', title: 'Clients', text: ({ clients }) => `${clients}`, order: ({ clients }) => clients, width: 56 },
  {
    key: 'busy',
    title: 'Busy',
    text: ({ fact }) => (fact?.busy === undefined ? '' : `${Math.round(fact.busy * 100)} %`),
    order: ({ fact }) => fact?.busy ?? -1,
    width: 52,
    tone: ({ fact }) => ((fact?.busy ?? 0) >= 0.5 ? 'caution' : ''),
  },
  {
    key: 'noise',
    title: 'Noise',
    text: ({ fact }) => `${fact?.noise ?? ''}`,
    order: ({ fact }) => fact?.noise ?? 0,
    width: 52,
  },
  { key: 'own', title: 'Said', text: ({ said }) => (said ? 'of it alone' : ''), width: 76, groups: true },
  { key: 'fixed', title: 'Plans', text: ({ fixed }) => (fixed ? 'leave it' : ''), width: 64, groups: true },
];

/** Every radio of the estate; one or many are changed in the sheet below. */
@Component({
  selector: 'il-estate-radios',
  imports: [DataTable],
  providers: [RadioChanges],
  template: `
    <il-data-table
      label="Radios"
      remember="estate-radios"
      [rows]="rows()"
      [columns]="columns()"
      [key]="key"
      [name]="name"
      [pickable]="session.mayChange()"
      [picked]="picked()"
      (pickedChange)="picked.set($event)"
      [shown]="only()"
      (opened)="picked.set(one($event))"
    >
      <span empty>{{
        fetched.value() === null ? 'Asking…' : 'No access point in the estate yet. Claim one into a site.'
      }}</span>
    </il-data-table>
  `,
  styles: ':host { display: block; height: 100%; }',
})
export class EstateRadios {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly changes = inject(RadioChanges);
  /** Chosen radios, `device band`. */
  readonly picked = model.required<ReadonlySet<string>>();
  protected readonly columns = computed((): readonly TableColumn<EstateRadio>[] => {
    const changes = this.changes.byRadio();
    return [
      ...COLUMNS,
      { key: 'changed', title: 'Last changed', text: (row) => changes.get(this.key(row)) ?? '', width: 150 },
    ];
  });
  protected readonly fetched = liveFetch({
    of: () => this.store.draft()?.id,
    fetch: (id) => firstValueFrom(this.http.get<EstateRadio[]>(`/api/drafts/${id}/radios`)),
    when: ({ type }) => type === 'device' || type === 'draft' || type === 'site' || type === 'gone',
    every: 3000,
    stays: true,
  });
  readonly rows = computed(() => this.fetched.value() ?? []);
  protected readonly key = ({ deviceId, band }: EstateRadio): string => `${deviceId} ${band}`;
  protected readonly name = ({ name, band }: EstateRadio): string => `${name} ${band} GHz`;

  protected readonly one = (row: EstateRadio): ReadonlySet<string> => new Set([this.key(row)]);
  protected readonly only = computed(() => (this.picked().size === 1 ? [...this.picked()][0]! : null));
  /** Those that are chosen. */
  readonly chosen = computed(() => this.rows().filter((row) => this.picked().has(this.key(row))));

  /** Asks again what the draft says of them. */
  again(): Promise<void> {
    return this.fetched.again();
  }
}
