import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { AccessClass } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { lacksColumn, purposeColumn, reachColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { ClassSheet } from './class-sheet';

type Row = AccessClass & SharedRow;

const COLUMNS: readonly TableColumn<Row>[] = [
  { key: 'name', title: 'Access class', text: ({ name }) => name, width: 130, phone: true },
  { key: 'segment', title: 'Segment', text: ({ segment }) => segment, width: 110, groups: true },
  {
    key: 'members',
    title: 'Known clients',
    text: ({ members }) => String(members.length),
    order: ({ members }) => members.length,
    width: 90,
    mono: true,
  },
  reachColumn(),
  sitesColumn(),
  lacksColumn('its segment'),
  purposeColumn(),
];

/** Every access class of the estate: where it reaches, and where the segment is missing that its clients join. */
@Component({
  selector: 'il-shared-classes-page',
  imports: [MatButtonModule, ClassSheet, SharedList, Stage],
  template: `
    <il-stage heading="Entry" [note]="note()">
      @if (session.mayChange()) {
        <button actions mat-flat-button (click)="opened.begin()">Add access class</button>
      }
      <il-shared-list
        label="Access classes"
        remember="shared-classes"
        [things]="classes()"
        [columns]="columns"
        [shown]="opened.id()"
        (opened)="opened.open($event)"
      >
        No access class yet. A class gives clients that are known by their MAC addresses a segment, whatever SSID or
        port they come by, and rules can name it.
      </il-shared-list>
      <ng-container ngProjectAs="[foot]">
        @if (opened.isNew()) {
          <il-class-sheet [accessClass]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (opened.row(); as each) {
          <il-class-sheet [accessClass]="each" (closed)="opened.close()" (kept)="opened.open($event)" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-class-sheet {
      display: contents;
    }
  `,
})
export class SharedClassesPage {
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  readonly show = input<string>();
  readonly add = input<string>();
  protected readonly columns = COLUMNS;
  protected readonly classes = computed(() => this.shared.estate()?.classes ?? []);
  protected readonly opened = new OpenedRow({ rows: this.classes, show: this.show, add: this.add });
  protected readonly note = computed(() => `${counted(this.classes().length, 'class', 'classes')}, at all sites`);
}
