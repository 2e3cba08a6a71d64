import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Ssid } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { lacksColumn, purposeColumn, reachColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { SECURITY_WORDS } from './security-words';
import { SsidSheet } from './ssid-sheet';

type Row = Ssid & SharedRow;

const COLUMNS: readonly TableColumn<Row>[] = [
  { key: 'name', title: 'SSID', text: ({ name }) => name, width: 130, phone: true },
  { key: 'security', title: 'Security', text: ({ security }) => SECURITY_WORDS[security], width: 140, groups: true },
  { key: 'bands', title: 'Bands, GHz', text: ({ bands }) => bands.join(', '), width: 80, mono: true, groups: true },
  { key: 'segment', title: 'Segment', text: ({ segment }) => segment, width: 100, groups: true },
  reachColumn(),
  sitesColumn(),
  lacksColumn('its segment'),
  purposeColumn(),
];

/** Every SSID of the estate: where it reaches, and where the segment is missing that its clients join. */
@Component({
  selector: 'il-shared-ssids-page',
  imports: [MatButtonModule, SharedList, SsidSheet, Stage],
  template: `
    <il-stage heading="Wireless" [note]="note()">
      @if (session.mayChange()) {
        <button actions mat-flat-button (click)="opened.begin()">Add SSID</button>
      }
      <il-shared-list
        label="SSIDs"
        remember="shared-ssids"
        [things]="ssids()"
        [columns]="columns"
        [shown]="opened.id()"
        (opened)="opened.open($event)"
      >
        No SSID yet. Add one for the whole estate, or for some sites: a name, a passphrase and the segment its clients
        join.
      </il-shared-list>
      <ng-container ngProjectAs="[foot]">
        @if (opened.isNew()) {
          <il-ssid-sheet [ssid]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (opened.row(); as ssid) {
          <il-ssid-sheet [ssid]="ssid" (closed)="opened.close()" (kept)="opened.open($event)" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-ssid-sheet {
      display: contents;
    }
  `,
})
export class SharedSsidsPage {
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  readonly show = input<string>();
  readonly add = input<string>();
  protected readonly columns = COLUMNS;
  protected readonly ssids = computed(() => this.shared.estate()?.ssids ?? []);
  protected readonly opened = new OpenedRow({ rows: this.ssids, show: this.show, add: this.add });
  protected readonly note = computed(() => `${counted(this.ssids().length, 'SSID')}, at all sites`);
}
