import { Component, computed, inject, input, output } from '@angular/core';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import type { SharedRow } from './shared-columns';
import { SharedStore } from './shared-store';

interface Named {
  readonly id: string;
  readonly name: string;
}

/** Things of one kind that sites share, in a table with how far each goes. What to do where there is none is put into it. */
@Component({
  selector: 'il-shared-list',
  imports: [DataTable],
  template: `
    <il-data-table
      [label]="label()"
      [remember]="remember()"
      [rows]="rows()"
      [columns]="columns()"
      [key]="key"
      [name]="nameOf"
      [shown]="shown()"
      (opened)="opened.emit($event.id)"
    >
      <span empty>
        @if (shared.problem(); as problem) {
          {{ problem.message }}
        } @else if (shared.estate()) {
          <ng-content />
        } @else {
          Fetching what sites share…
        }
      </span>
    </il-data-table>
  `,
  styles: ':host { display: contents; }',
})
export class SharedList<T extends Named> {
  protected readonly shared = inject(SharedStore);
  readonly label = input.required<string>();
  /** Under which what people chose of this table is remembered. */
  readonly remember = input.required<string>();
  readonly things = input.required<readonly T[]>();
  readonly columns = input.required<readonly TableColumn<T & SharedRow>[]>();
  /** Id of the one whose sheet is open. */
  readonly shown = input<string | null>(null);
  /** Id of one whose sheet is to be opened. */
  readonly opened = output<string>();
  protected readonly rows = computed((): readonly (T & SharedRow)[] =>
    this.things().map((thing) => ({ ...thing, count: this.shared.counts().get(thing.id) ?? null })),
  );
  protected readonly key = ({ id }: Named): string => id;
  protected readonly nameOf = ({ name }: Named): string => name;
}
