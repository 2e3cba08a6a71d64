import { DatePipe } from '@angular/common';
import { Component, computed, inject, input } from '@angular/core';
import type { ReceptionistView } from '@iron-lattice/core/guests';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import type { OpenedRow } from '../ui/opened-row';
import { counted } from '../ui/counted';
import { ReceptionStore } from './reception-store';

const TIME = new DatePipe('en');

/** People at receptions: whose guests they look after, and when they were here last. */
@Component({
  selector: 'il-reception-view',
  imports: [DataTable],
  template: `
    <il-data-table
      label="People at receptions"
      remember="receptionists"
      [rows]="store.here()"
      [columns]="columns"
      [key]="key"
      [name]="name"
      [shown]="opened().id()"
      (opened)="opened().open($event.id)"
    >
      <span empty>{{ empty() }}</span>
    </il-data-table>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class ReceptionView {
  protected readonly store = inject(ReceptionStore);
  private readonly estate = inject(EstateStore);
  private readonly shared = inject(SharedStore);
  readonly opened = input.required<OpenedRow<ReceptionistView>>();
  protected readonly key = ({ id }: ReceptionistView): string => id;
  protected readonly name = ({ name }: ReceptionistView): string => name;
  protected readonly empty = computed(() => {
    if (this.store.problem()) return this.store.problem()!.message;
    if (!this.store.all()) return 'Asking…';
    return this.shared.atEstate()
      ? 'Nobody yet. Somebody at a reception gives guests visit codes on a screen of their own, and sees nothing else.'
      : 'Nobody looks after guests of this site yet. Whoever is added here sees its codes and visits, and nothing else.';
  });
  protected readonly columns: readonly TableColumn<ReceptionistView>[] = [
    { key: 'name', title: 'Name', text: ({ name }) => name, width: 160, phone: true },
    { key: 'email', title: 'Signs in by', text: ({ email }) => email, width: 200, phone: true },
    {
      ...{ key: 'sites', title: 'Guests of', width: 260 },
      text: ({ siteIds }) => this.sitesOf(siteIds),
      order: ({ siteIds }) => siteIds.length,
    },
    {
      ...{ key: 'seen', title: 'Signed in last', width: 120 },
      text: ({ seenAt }) => (seenAt ? (TIME.transform(seenAt, 'd MMM HH:mm') ?? '') : 'not yet'),
      order: ({ seenAt }) => (seenAt ? Date.parse(seenAt) : 0),
    },
  ];

  private sitesOf(siteIds: readonly string[]): string {
    const names = siteIds.flatMap(
      (id) => this.estate.siteChoices().find(({ value }) => value === id)?.label ?? 'a site that is gone',
    );
    return names.length > 4 ? counted(names.length, 'site') : names.join(', ');
  }
}
