import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { sheetOf } from '@iron-lattice/core/hardware';
import type { Ssid } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { OpenedRow } from '../ui/opened-row';
import { reachWords } from '../ui/reach-words';
import { SegmentTag } from '../ui/segment-tag';
import { Stage } from '../ui/stage';
import { SECURITY_WORDS } from './security-words';
import { SsidSheet } from './ssid-sheet';

/** The SSIDs that reach this site. */
@Component({
  selector: 'il-wireless-page',
  imports: [MatButtonModule, Stage, SegmentTag, SsidSheet],
  template: `
    <il-stage heading="Wireless" [note]="note()">
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="opened.begin()">Add SSID</button>
      }
      <table class="grid" (keydown)="opened.onKey($event)">
        <caption class="visually-hidden">
          SSIDs
        </caption>
        <thead>
          <tr>
            <th>SSID</th>
            <th class="second">Security</th>
            <th class="second">Bands, GHz</th>
            <th>Segment</th>
            <th>Sent by</th>
            <th>Clients</th>
            <th class="second">Reaches</th>
          </tr>
        </thead>
        <tbody>
          @for (ssid of store.ssids(); track ssid.id) {
            <tr [class.chosen]="opened.id() === ssid.id" [attr.data-row]="ssid.id" (click)="opened.open(ssid.id)">
              <td>
                <button class="plain name">{{ ssid.name }}</button>
              </td>
              <td class="second">{{ security[ssid.security] }}</td>
              <td class="mono second">{{ ssid.bands.join(', ') }}</td>
              <td>
                @if (segmentOf(ssid); as segment) {
                  @if (store.marks().get(segment.id); as mark) {
                    <il-segment-tag [mark]="mark" />
                  }
                  {{ segment.name }} <span class="mono soft">{{ segment.vlan }}</span>
                } @else if (poolOf(ssid); as pool) {
                  {{ pool.name }} <span class="mono soft">{{ pool.vlans }}</span>
                } @else {
                  <span class="bad">{{ ssid.segment }}, not at this site</span>
                }
              </td>
              <td>{{ senders(ssid) }}</td>
              <td>{{ clients(ssid) }}</td>
              <td class="second">{{ reachWords(ssid.reach) }}</td>
            </tr>
          } @empty {
            <tr class="empty">
              <td colspan="7" class="soft">
                No SSID here yet. Add one: a name, a passphrase and the segment its clients join.
              </td>
            </tr>
          }
        </tbody>
      </table>
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
    .name {
      font-weight: 500;
    }
    il-ssid-sheet {
      display: contents;
    }
    il-segment-tag {
      margin-right: 5px;
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class WirelessPage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly reachWords = reachWords;
  readonly show = input<string>();
  readonly add = input<string>();
  protected readonly security = SECURITY_WORDS;
  protected readonly opened = new OpenedRow({ rows: this.store.ssids, show: this.show, add: this.add });
  protected readonly note = computed(() => {
    const [ssids, aps] = [
      this.store.ssids().length,
      this.store.devices().filter((device) => device.kind === 'ap').length,
    ];
    return `${ssids} ${ssids === 1 ? 'SSID' : 'SSIDs'}, ${aps} ${aps === 1 ? 'access point' : 'access points'}`;
  });

  protected poolOf(ssid: Ssid) {
    return this.store.site()?.pools?.find((pool) => pool.name.toLowerCase() === ssid.segment.toLowerCase());
  }

  protected segmentOf(ssid: Ssid) {
    return this.store.site()?.segments.find((segment) => segment.name.toLowerCase() === ssid.segment.toLowerCase());
  }

  /** How many of the site's APs have a radio for it. */
  protected senders(ssid: Ssid): string {
    if (!this.segmentOf(ssid)) return 'no AP';
    const aps = this.store
      .devices()
      .filter((device) => sheetOf(device.model)?.radios.some(({ band }) => ssid.bands.includes(band)));
    return aps.length === 1 ? '1 AP' : `${aps.length} APs`;
  }

  protected clients(ssid: Ssid): number {
    return this.store.devices().flatMap((device) => device.clients.filter((client) => client.ssid === ssid.name))
      .length;
  }
}
