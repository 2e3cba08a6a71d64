import { Component, computed, inject } from '@angular/core';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { SiteStore } from '../../shell/site-store';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { LatticeFacts } from '../facts/lattice-facts';

/** Why a client is where a port puts those that got no class. */
const FELL_WORDS = {
  guest: 'does not say',
  rejected: 'turned away',
  unanswered: 'no server answered',
} as const;

/** Who has which address at the site, where attached, since when. */
@Component({
  selector: 'il-clients-view',
  imports: [DataTable],
  template: `
    <il-data-table
      label="Clients and leases"
      remember="site-clients"
      [rows]="rows()"
      [columns]="columns()"
      [key]="key"
      [name]="name"
    >
      <span empty>{{
        facts.clients() === null
          ? 'Asking…'
          : 'Nobody has an address here yet. Clients show as soon as an AP, a port or an address service reports them.'
      }}</span>
    </il-data-table>
  `,
  styles: ':host { display: block; height: 100%; }',
})
export class ClientsView {
  protected readonly facts = inject(LatticeFacts);
  private readonly store = inject(SiteStore);
  protected readonly rows = computed(() => this.facts.clients() ?? []);
  /** The column of IPv6 is there at first where somebody has such an address. */
  private readonly anySix = computed(() => this.rows().some(({ address6 }) => address6 !== null));
  protected readonly columns = computed((): TableColumn<SiteClient>[] => {
    return [
      {
        key: 'address',
        title: 'Address',
        text: ({ address }) => address ?? '',
        order: ({ address }) => (address ?? '255.255.255.255').split('.').reduce((sum, part) => sum * 256 + +part, 0),
        width: 104,
        mono: true,
        phone: true,
      },
      { key: 'name', title: 'Name', text: ({ name }) => name, width: 130, phone: true },
      { key: 'mac', title: 'MAC', text: ({ mac }) => mac, width: 138, mono: true, phone: true },
      {
        key: 'segment',
        title: 'Segment',
        text: (client) => this.store.segmentName(client),
        width: 110,
        groups: true,
      },
      {
        key: 'at',
        title: 'Attached to',
        text: ({ at }) => at?.deviceName ?? 'not seen now',
        width: 104,
        mono: true,
        groups: true,
        tone: ({ at }) => (at ? '' : 'soft'),
      },
      {
        key: 'by',
        title: 'By',
        text: ({ at }) => (at?.ssid !== undefined ? at.ssid : at?.port !== undefined ? `port ${at.port}` : ''),
        width: 130,
        groups: true,
      },
      {
        key: 'who',
        title: 'Who',
        text: ({ entered, named, fell }) => (fell ? FELL_WORDS[fell] : (entered?.user ?? named?.server ?? '')),
        width: 110,
        groups: true,
        hidden: true,
      },
      {
        key: 'since',
        title: 'Since',
        text: ({ since }) => (since === null ? '' : MOMENT.format(since)),
        order: ({ since }) => since ?? 0,
        width: 118,
      },
      {
        key: 'address6',
        title: 'IPv6 address',
        text: ({ address6 }) => address6 ?? '',
        width: 250,
        mono: true,
        hidden: !this.anySix(),
      },
      { key: 'lease', title: 'Given by', text: ({ leasedBy }) => leasedBy ?? '', width: 96, mono: true, hidden: true },
    ];
  });

  protected readonly key = (row: SiteClient): string => `${row.vlan} ${row.mac}`;
  protected readonly name = (row: SiteClient): string => row.name || row.mac;
}

const MOMENT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
