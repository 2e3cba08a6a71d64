import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, model, signal } from '@angular/core';
import type { RefusedReport } from '@iron-lattice/core/line';
import type { AirClientsView as Heard, AirClientView, AirRefusalView } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';

/** Why a client was not taken in, in words. */
export const REFUSAL_WORDS: Readonly<Record<RefusedReport['why'], string>> = {
  passphrase: 'another passphrase than ours',
  security: 'it cannot do what the SSID asks for, or looks for another of its name',
  low: 'heard below what the SSID asks for',
  full: 'as many as may are there',
  band: 'it does no band that the SSID is sent on there',
  weak: 'too far away: what it says does not arrive',
  off: 'the radios for it are off, or away to listen',
  radar: 'the radio listens for radar first',
  bound: 'its key is bound to other MAC addresses',
  devices: 'as many devices as may have its key already',
  early: 'its key is not right yet',
  over: 'its key is right no more',
  nowhere: 'its key leads to a segment that is not here',
  rejected: 'the server turns it away',
  nobody: 'no RADIUS server answers',
  unasked: 'there is no RADIUS server to ask',
  untrusted: 'it does not believe the server, and gave no password',
  method: 'the server wants another method',
  keyless: 'its method makes no keys, which the air needs',
  class: 'the server names a class that is not here',
  vlan: 'the server names a VLAN that is that of no class here',
  segment: 'its class has no segment here',
};

/** The same; of who says who it is, with that, and with who turned it away. */
export function refusalWords({ why, user, server = 'The server', said = '' }: RefusedReport): string {
  const who = user === undefined ? '' : `${user}: `;
  const words: Partial<Record<RefusedReport['why'], string>> = {
    rejected: `${server} turns it away`,
    class: `“${said}”, says ${server}, and no class of that name is here`,
    vlan: `VLAN “${said}”, says ${server}, which is that of no class here`,
    segment: `its class “${said}” has no segment here`,
    untrusted: `it does not believe ${server}, and gave no password`,
    method: `${server} wants another method`,
  };
  return `${who}${words[why] ?? REFUSAL_WORDS[why]}`;
}

/** Clients on the air of a site: how each is joined, and who tries in vain and why. */
@Component({
  selector: 'il-air-clients-view',
  imports: [DataTable],
  template: `
    <div class="view">
      <div class="bar">
        <div class="choices" role="group" aria-label="Which clients">
          <button type="button" [attr.aria-pressed]="side() === 'joined'" (click)="side.set('joined')">
            Joined {{ heard()?.clients?.length ?? 0 }}
          </button>
          <button type="button" [attr.aria-pressed]="side() === 'refused'" (click)="side.set('refused')">
            In vain <b [class.caution]="(heard()?.refused?.length ?? 0) > 0">{{ heard()?.refused?.length ?? 0 }}</b>
          </button>
        </div>
      </div>
      @if (side() === 'joined') {
        <il-data-table
          label="Clients on the air"
          remember="air-clients"
          [rows]="heard()?.clients ?? []"
          [columns]="columns"
          [key]="key"
          [name]="name"
          [shown]="chosen()"
          (opened)="chosen.set($event.mac)"
        >
          <span empty>{{ heard() ? 'Nobody is on the air here at the moment.' : 'Asking…' }}</span>
        </il-data-table>
      } @else {
        <il-data-table
          label="Clients in vain"
          remember="air-refused"
          [rows]="heard()?.refused ?? []"
          [columns]="refusals"
          [key]="refusalKey"
          [name]="refusalName"
        >
          <span empty>Nobody tries in vain at the moment.</span>
        </il-data-table>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .view {
      height: 100%;
      display: flex;
      flex-direction: column;
    }
    .bar {
      padding: 0 14px 8px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class AirClientsView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** MAC address of the client whose sheet is open. */
  readonly chosen = model<string | null>(null);
  protected readonly side = signal<'joined' | 'refused'>('joined');
  private readonly fetched = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<Heard>(`/api/sites/${id}/air-clients`)),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId()),
    every: 1000,
  });
  protected readonly heard = this.fetched.value;
  /** The client whose sheet is open. */
  readonly client = computed(() => this.heard()?.clients.find(({ mac }) => mac === this.chosen()) ?? null);

  protected readonly columns: readonly TableColumn<AirClientView>[] = [
    { key: 'name', title: 'Client', text: ({ name, mac }) => name ?? mac, width: 120, phone: true },
    { key: 'ap', title: 'AP', text: ({ deviceName }) => deviceName, width: 84, mono: true, groups: true, phone: true },
    { key: 'ssid', title: 'SSID', text: ({ ssid }) => ssid, width: 130, groups: true },
    {
      key: 'band',
      title: 'Band',
      text: ({ band }) => band ?? '',
      order: ({ band }) => Number(band ?? 0),
      width: 46,
      groups: true,
      phone: true,
    },
    {
      key: 'signal',
      title: 'dBm',
      text: ({ signal: at }) => (at === undefined ? '' : `${at}`),
      order: ({ signal: at }) => at ?? -200,
      width: 46,
      phone: true,
      tone: ({ signal: at }) => ((at ?? 0) < -75 ? 'caution' : ''),
    },
    {
      key: 'rate',
      title: 'Mb/s',
      text: ({ rate }) => (rate === undefined ? '' : `${rate}`),
      order: ({ rate }) => rate ?? -1,
      width: 50,
    },
    {
      key: 'how',
      title: 'Sent',
      text: ({ streams, width }) => (streams === undefined ? '' : `${streams} × ${width} MHz`),
      width: 86,
      groups: true,
    },
    {
      key: 'retries',
      title: 'Again',
      text: ({ retries }) => (retries === undefined ? '' : `${Math.round(retries * 100)} %`),
      order: ({ retries }) => retries ?? -1,
      width: 52,
      tone: ({ retries }) => ((retries ?? 0) > 0.2 ? 'caution' : ''),
    },
    {
      key: 'since',
      title: 'Since',
      text: ({ since }) => (since === undefined ? '' : MOMENT.format(since)),
      order: ({ since }) => since ?? 0,
      width: 96,
    },
    {
      key: 'moves',
      title: 'Roamed',
      text: ({ visits }) => (visits.length > 1 ? `${visits.length - 1}×` : ''),
      order: ({ visits }) => visits.length,
      width: 56,
    },
    {
      key: 'user',
      title: 'Who',
      text: ({ entered }) => entered?.user ?? '',
      width: 96,
      groups: true,
      hidden: true,
    },
    { key: 'address', title: 'Address', text: ({ address }) => address ?? '', width: 100, mono: true },
    { key: 'mac', title: 'MAC', text: ({ mac }) => mac, width: 130, mono: true, hidden: true },
  ];
  protected readonly refusals: readonly TableColumn<AirRefusalView>[] = [
    { key: 'mac', title: 'MAC', text: ({ mac }) => mac, width: 138, mono: true, phone: true },
    { key: 'ssid', title: 'Tries', text: ({ ssid }) => ssid, width: 130, groups: true, phone: true },
    { key: 'ap', title: 'At', text: ({ deviceName }) => deviceName, width: 84, mono: true, groups: true },
    {
      key: 'why',
      title: 'Why it is not taken in',
      text: refusalWords,
      width: 260,
      groups: true,
      phone: true,
    },
    { key: 'since', title: 'Since', text: ({ since }) => MOMENT.format(since), order: ({ since }) => since, width: 96 },
  ];
  protected readonly key = ({ mac }: AirClientView): string => mac;
  protected readonly name = ({ name, mac }: AirClientView): string => name ?? mac;
  protected readonly refusalKey = ({ mac, deviceId, ssid }: AirRefusalView): string => `${mac} ${deviceId} ${ssid}`;
  protected readonly refusalName = ({ mac }: AirRefusalView): string => mac;
}

const MOMENT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
