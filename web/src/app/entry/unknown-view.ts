import { HttpClient } from '@angular/common/http';
import { DatePipe } from '@angular/common';
import { Component, computed, inject, signal } from '@angular/core';
import { FAILURE_REASONS, unknownWords, type EntryFailure, type UnknownClient } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';

/** Devices report in bursts; who is not known is asked for once after each. */
const GATHER_MS = 400;
const TIME = new DatePipe('en');

const whereOf = ({ deviceName, port, ssid }: UnknownClient): string =>
  `${deviceName} ${ssid === undefined ? `port ${port}` : `“${ssid}”`}`;

const COLUMNS: readonly TableColumn<UnknownClient>[] = [
  { key: 'client', title: 'Client', text: ({ mac, name }) => name || mac, width: 125, phone: true },
  { key: 'user', title: 'Says to be', text: ({ user }) => user ?? '', width: 100, groups: true, hidden: true },
  {
    ...{ key: 'why', title: 'Why it is not known', width: 220, phone: true, groups: true },
    text: (each) => unknownWords(each)[0],
  },
  { key: 'advice', title: 'What would help', text: (each) => unknownWords(each)[1], width: 240 },
  { key: 'where', title: 'Where', text: whereOf, width: 165, groups: true },
  {
    ...{ key: 'since', title: 'Since', width: 95 },
    text: ({ since }) => (since === undefined ? '' : (TIME.transform(since, 'd MMM HH:mm') ?? '')),
    order: ({ since }) => since ?? 0,
  },
  { key: 'mac', title: 'MAC address', text: ({ mac }) => mac, width: 150, mono: true },
];

/** Clients that are asked who they are, and that no class lists and no server led to one: where, and why. */
@Component({
  selector: 'il-unknown-view',
  imports: [DataTable],
  template: `
    <div class="when">
      <div class="choices" role="group" aria-label="Of when">
        <button type="button" [attr.aria-pressed]="!past()" (click)="past.set(false)">Now</button>
        <button type="button" [attr.aria-pressed]="past()" (click)="past.set(true)">The last 7 days</button>
      </div>
      @if (past()) {
        <span class="soft">{{ reasons() }}</span>
      }
    </div>
    @if (past()) {
      <il-data-table
        label="Failures of the last days"
        remember="entry-failures"
        groupFirst="reason"
        [rows]="failures.value() ?? []"
        [columns]="pastColumns"
        [key]="keyOfFailure"
        [name]="nameOf"
      >
        <span empty>
          @if (failures.problem(); as problem) {
            {{ problem.message }}
          } @else {
            Nobody was turned away here in the last seven days, or known to nobody where that matters.
          }
        </span>
      </il-data-table>
    } @else {
      <il-data-table
        label="Clients that nobody knows"
        remember="unknown-clients"
        [rows]="rows()"
        [columns]="columns"
        [key]="key"
        [name]="nameOf"
      >
        <span empty>
          @if (live.problem(); as problem) {
            {{ problem.message }}
          } @else {
            Everybody who is asked here is known, or nobody is asked. An SSID (under Wireless) or ports (under Lattice)
            ask who a client is; whom no class lists is asked of RADIUS servers.
          }
        </span>
      </il-data-table>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .when {
      padding: 0 14px 8px;
      flex: none;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 12px;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class UnknownView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly live = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) => firstValueFrom(this.http.get<UnknownClient[]>(`/api/sites/${siteId}/unknown-clients`)),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId()),
    every: GATHER_MS,
  });
  protected readonly rows = computed(() => this.live.value() ?? []);
  protected readonly columns: readonly TableColumn<UnknownClient>[] = [
    ...COLUMNS.slice(0, -2),
    { key: 'gets', title: 'Gets', width: 125, groups: true, text: (each) => this.getsOf(each) },
    ...COLUMNS.slice(-2),
  ];
  /** Whether the last days are shown. */
  protected readonly past = signal(false);
  protected readonly failures = liveFetch({
    of: () => (this.past() ? (this.store.siteId() ?? undefined) : undefined),
    fetch: (siteId) => firstValueFrom(this.http.get<EntryFailure[]>(`/api/sites/${siteId}/entry-failures`)),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId()),
    every: 2000,
  });
  protected readonly pastColumns: readonly TableColumn<EntryFailure>[] = [
    {
      ...{ key: 'at', title: 'When', width: 100, phone: true },
      text: ({ at }) => TIME.transform(at, 'd MMM HH:mm') ?? '',
      order: ({ at }) => Date.parse(at),
    },
    { key: 'reason', title: 'Reason', width: 130, groups: true, hidden: true, text: ({ why }) => FAILURE_REASONS[why] },
    ...['why', 'user', 'where', 'mac'].flatMap((wanted) =>
      COLUMNS.filter(({ key }) => key === wanted).map((column) => ({ ...column, hidden: false })),
    ),
  ];
  protected readonly keyOfFailure = (each: EntryFailure): string => `${this.key(each)} ${each.why} ${each.since}`;
  /** How often each reason, the most frequent first. */
  protected readonly reasons = computed(() => {
    const counts = new Map<string, number>();
    for (const { why } of this.failures.value() ?? [])
      counts.set(FAILURE_REASONS[why], (counts.get(FAILURE_REASONS[why]) ?? 0) + 1);
    return [...counts]
      .sort(([, a], [, b]) => b - a)
      .map(([reason, count]) => `${count} × ${reason}`)
      .join(', ');
  });
  /** Who says who it is, and is not known, is not let in on an SSID; at a port it is where that puts such clients. */
  private getsOf({ vlan, ssid, user }: UnknownClient): string {
    if (vlan !== undefined) return this.store.segmentName({ vlan });
    return ssid === undefined || user !== undefined ? 'nothing' : 'the SSID’s segment';
  }
  protected readonly key = ({ mac, deviceId, port, ssid }: UnknownClient): string =>
    `${mac} ${deviceId} ${port ?? ssid}`;
  protected readonly nameOf = ({ mac, name }: UnknownClient): string => name || mac;
}
