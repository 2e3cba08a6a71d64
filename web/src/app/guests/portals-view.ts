import { lastsWords } from '@iron-lattice/core/base';
import { Component, computed, inject, input } from '@angular/core';
import { LANGUAGE_NAMES } from '@iron-lattice/core/guests';
import { leadingPorts, WAY_WORDS, type Portal } from '@iron-lattice/core/intent';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import type { OpenedRow } from '../ui/opened-row';

/** Portals: who is let in by what, for how long, and which SSIDs lead to each. */
@Component({
  selector: 'il-portals-view',
  imports: [DataTable],
  template: `
    <il-data-table
      label="Portals"
      remember="portals"
      [rows]="portals()"
      [columns]="columns"
      [key]="key"
      [name]="name"
      [shown]="opened().id()"
      (opened)="opened().open($event.id)"
    >
      <span empty>
        {{
          shared.estate()
            ? 'No portal yet. Add a guest network: a name and a place are enough, its segment, SSID, portal and guarantee follow. Or add a portal alone, and choose it in the sheet of an SSID, under Wireless: its clients reach nothing until they are let in.'
            : 'Asking…'
        }}
      </span>
    </il-data-table>
  `,
  styles: ':host { display: contents; }',
})
export class PortalsView {
  protected readonly shared = inject(SharedStore);
  private readonly store = inject(SiteStore);
  readonly opened = input.required<OpenedRow<Portal>>();
  protected readonly portals = computed(() => this.shared.estate()?.portals ?? []);
  protected readonly key = ({ id }: Portal): string => id;
  protected readonly name = ({ name }: Portal): string => name;
  protected readonly columns: readonly TableColumn<Portal>[] = [
    { key: 'name', title: 'Portal', text: ({ name }) => name, width: 130, phone: true },
    {
      ...{ key: 'ways', title: 'Ways in', width: 170, groups: true, phone: true },
      text: ({ ways }) => ways.map((way) => WAY_WORDS[way].toLowerCase()).join(', '),
    },
    {
      key: 'visit',
      title: 'A visit lasts',
      text: ({ visit }) => lastsWords(visit),
      order: ({ visit }) => visit,
      width: 95,
    },
    {
      ...{ key: 'day', title: 'A day', width: 120 },
      text: ({ dataADay, minutesADay }) =>
        [dataADay ? `${dataADay} MB` : '', minutesADay ? lastsWords(minutesADay) : ''].filter(Boolean).join(', ') ||
        'any',
    },
    {
      ...{ key: 'held', title: 'Holds guests of', width: 160, phone: true },
      text: (portal) => this.held(portal) || (this.isUsed(portal) ? 'nobody here' : 'nobody yet'),
      tone: (portal) => (this.held(portal) !== '' ? '' : this.isUsed(portal) ? 'soft' : 'caution'),
    },
    {
      ...{ key: 'languages', title: 'Languages', width: 140 },
      text: ({ languages }) => languages.map((each) => LANGUAGE_NAMES[each]).join(', '),
    },
    { key: 'purpose', title: 'For', text: ({ purpose }) => purpose ?? '', width: 120, hidden: true },
  ];

  /** Whether an SSID of any site leads to it, or an answer of a server may. */
  private isUsed({ id, named }: Portal): boolean {
    return Boolean(named) || (this.shared.estate()?.ssids ?? []).some(({ portal }) => portal === id);
  }

  private readonly ports = computed(() => {
    const site = this.store.site();
    return site && !this.shared.atEstate() ? leadingPorts(site) : null;
  });

  /** SSIDs and ports that lead to it where one stands. */
  private held({ id }: Portal): string {
    const ssids = this.shared.atEstate() ? (this.shared.estate()?.ssids ?? []) : this.store.ssids();
    const ports = this.ports()?.get(id)?.length ?? 0;
    return [
      ...ssids.flatMap(({ portal, name }) => (portal === id ? [name] : [])),
      ...(ports > 0 ? [ports === 1 ? '1 port' : `${ports} ports`] : []),
    ].join(', ');
  }
}
