import { DatePipe } from '@angular/common';
import { Component, computed, inject, model } from '@angular/core';
import { SiteClients } from '../shell/site-clients';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { placeOf, sessionsOf, type Session } from './session-words';
import { octetsWords } from '../ui/octets-words';
import { TakenStore } from './taken-store';

const TIME = new DatePipe('en');

/** Who is here at the moment by who they are: how, by which server, as what, where, since when. */
@Component({
  selector: 'il-sessions-view',
  imports: [DataTable],
  template: `
    <il-data-table
      label="Sessions"
      remember="sessions"
      [rows]="rows()"
      [columns]="columns"
      [key]="key"
      [name]="nameOf"
      [shown]="chosen()"
      (opened)="chosen.set($event.client.mac)"
    >
      <span empty>
        @if (clients.clients() === undefined || clients.clients() === null) {
          Asking…
        } @else {
          Nobody is here by who they are at the moment. Where an SSID (under Wireless) or ports (under Lattice) ask
          that, they stand here with how it is known, and what they got.
        }
      </span>
    </il-data-table>
  `,
  styles: ':host { display: contents; }',
})
export class SessionsView {
  private readonly store = inject(SiteStore);
  private readonly taken = inject(TakenStore);
  protected readonly clients = inject(SiteClients);
  /** MAC address of the client whose session is open. */
  readonly chosen = model<string | null>(null);
  protected readonly rows = computed(() => sessionsOf(this.clients.clients() ?? [], this.store.accessClasses()));
  protected readonly columns: readonly TableColumn<Session>[] = [
    { key: 'who', title: 'Who', text: ({ who }) => who, width: 110, phone: true },
    { key: 'how', title: 'Known by', text: ({ how }) => how, width: 145, groups: true, phone: true },
    { key: 'server', title: 'Server', text: ({ server }) => server, width: 115, groups: true },
    { key: 'class', title: 'Class', text: ({ className }) => className, width: 95, groups: true },
    { key: 'segment', title: 'Segment', text: ({ client }) => this.store.segmentName(client), width: 90, groups: true },
    { key: 'place', title: 'Where', text: ({ client }) => placeOf(client), width: 160, groups: true, phone: true },
    {
      ...{ key: 'since', title: 'Since', width: 90 },
      text: ({ client: { since } }) => (since === null ? '' : (TIME.transform(since, 'd MMM HH:mm') ?? '')),
      order: ({ client: { since } }) => since ?? 0,
    },
    {
      ...{ key: 'down', title: 'Down', width: 60 },
      text: (session) => this.tookWords(session, 'down'),
      order: ({ client }) => this.taken.of(client)?.down ?? -1,
    },
    {
      ...{ key: 'up', title: 'Up', width: 60 },
      text: (session) => this.tookWords(session, 'up'),
      order: ({ client }) => this.taken.of(client)?.up ?? -1,
    },
    {
      key: 'address',
      title: 'Address',
      text: ({ client }) => client.address ?? '',
      width: 105,
      mono: true,
      hidden: true,
    },
    { key: 'mac', title: 'MAC address', text: ({ client }) => client.mac, width: 140, mono: true, hidden: true },
  ];
  protected readonly key = ({ client: { mac, vlan } }: Session): string => `${mac} ${vlan}`;
  protected readonly nameOf = ({ who }: Session): string => who;

  private tookWords({ client }: Session, way: 'down' | 'up'): string {
    const taken = this.taken.of(client);
    return taken ? octetsWords(taken[way]) : '';
  }
}
