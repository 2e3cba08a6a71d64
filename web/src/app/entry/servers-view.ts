import { Component, computed, inject, input } from '@angular/core';
import type { RadiusServer } from '@iron-lattice/core/intent';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import type { OpenedRow } from '../ui/opened-row';
import { reachWords } from '../ui/reach-words';
import { HealthStore, healthWords } from './health-store';

/** Columns; at a site with how each fares there. */
const columnsOf = (health: HealthStore | null): readonly TableColumn<RadiusServer>[] => [
  { key: 'name', title: 'RADIUS server', text: ({ name }) => name, width: 150, phone: true },
  {
    ...{ key: 'order', title: 'Order', width: 60, mono: true, phone: true },
    text: ({ order }) => String(order),
    order: ({ order }) => order,
  },
  {
    key: 'address',
    title: 'Where',
    text: ({ own, address, port }) => (own ? 'this controller' : `${address}:${port}`),
    width: 200,
    mono: true,
    phone: false,
  },
  ...(health
    ? [
        {
          ...{ key: 'health', title: 'Is it there', width: 130, groups: true, phone: true },
          text: ({ name }: RadiusServer) => healthWords(health.of(name)),
          tone: ({ name }: RadiusServer) => ((health.of(name)?.silentFor.length ?? 0) > 0 ? 'bad' : ''),
        },
      ]
    : []),
  {
    ...{ key: 'asked', title: 'Asked about', width: 150, groups: true },
    text: ({ macs }) => (macs === null ? 'users' : 'users, MAC addresses'),
  },
  {
    ...{ key: 'source', title: 'By', width: 130, groups: true, hidden: true },
    text: ({ source }) => (source === 'gateway' ? 'the gateway' : 'APs and switches'),
  },
  {
    ...{ key: 'proof', title: 'Answers', width: 110, groups: true },
    text: ({ unsigned }) => (unsigned ? 'may be unproven' : 'proven'),
    tone: ({ unsigned }) => (unsigned ? 'caution' : ''),
  },
  { key: 'reach', title: 'Reaches', text: ({ reach }) => reachWords(reach), width: 110, groups: true },
];

/** RADIUS servers that reach the site in front, or all of them, in the order in which they are asked. */
@Component({
  selector: 'il-servers-view',
  imports: [DataTable],
  template: `
    <il-data-table
      label="RADIUS servers"
      remember="radius-servers"
      [rows]="servers()"
      [columns]="columns"
      [key]="key"
      [name]="nameOf"
      [shown]="opened().id()"
      (opened)="opened().open($event.id)"
    >
      <span empty>
        No RADIUS server yet. SSIDs and ports that let in by who somebody is ask one about everybody whom no class
        lists; its answer chooses the class. Add one, then try it from a device before anybody depends on it.
      </span>
    </il-data-table>
  `,
  styles: ':host { display: contents; }',
})
export class ServersView {
  private readonly shared = inject(SharedStore);
  private readonly store = inject(SiteStore);
  readonly opened = input.required<OpenedRow<RadiusServer>>();
  protected readonly columns = columnsOf(this.shared.atEstate() ? null : inject(HealthStore, { optional: true }));
  protected readonly servers = computed(() =>
    this.shared.atEstate() ? (this.shared.estate()?.radius ?? []) : this.store.radiusServers(),
  );
  protected readonly key = ({ id }: RadiusServer): string => id;
  protected readonly nameOf = ({ name }: RadiusServer): string => name;
}
