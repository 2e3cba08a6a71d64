import { Component, inject, input } from '@angular/core';
import { sheetFor } from '@iron-lattice/core/hardware';
import { landedAt, type Ssid } from '@iron-lattice/core/intent';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import type { OpenedRow } from '../ui/opened-row';
import { reachWords } from '../ui/reach-words';
import { SegmentTag } from '../ui/segment-tag';
import { securityOf } from './security-words';

/** The SSIDs that reach a site. */
@Component({
  selector: 'il-ssids-view',
  imports: [SegmentTag],
  template: `
    <table class="grid" (keydown)="opened().onKey($event)">
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
        @for (ssid of store.ssidsHere(); track ssid.id) {
          <tr [class.chosen]="opened().id() === ssid.id" [attr.data-row]="ssid.id" (click)="opened().open(ssid.id)">
            <td>
              <button class="plain name">{{ ssid.name }}</button>
            </td>
            <td class="second">{{ security(ssid) }}</td>
            <td class="mono second">{{ ssid.bands.join(', ') }}</td>
            <td>
              @if (segmentOf(ssid); as segment) {
                @if (store.marks().get(segment.id); as mark) {
                  <il-segment-tag [mark]="mark" />
                }
                {{ segment.name }} <span class="mono soft">{{ segment.vlan }}</span>
              } @else if (poolOf(ssid); as pool) {
                {{ pool.name }} <span class="mono soft">{{ pool.vlans }}</span>
              } @else if (landedOf(ssid)?.segment; as segment) {
                {{ segment.name }}
              } @else {
                <span class="bad">{{ ssid.segment }}, not at {{ landedOf(ssid)?.name ?? 'this site' }}</span>
              }
              @if (ssid.tunnel) {
                &ngsp;<span class="soft">in a tunnel{{ landedOf(ssid) ? ' to ' + landedOf(ssid)!.name : '' }}</span>
              }
            </td>
            <td>
              @if (ssid.off) {
                <span class="caution">switched off</span>
              } @else if (segmentOf(ssid)?.off) {
                <span class="caution">segment switched off</span>
              } @else {
                {{ senders(ssid) }}
                @if (hoursOf(ssid); as hours) {
                  <span class="soft">at {{ hours }}</span>
                }
              }
            </td>
            <td>{{ clients(ssid) }}</td>
            <td class="second">
              {{ reachWords(ssid.reach) }}
              @if (isOtherwise(ssid.id)) {
                <span class="caution">otherwise here</span>
              }
            </td>
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
  `,
  styles: `
    .name {
      font-weight: 500;
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
export class SsidsView {
  protected readonly store = inject(SiteStore);
  protected readonly reachWords = reachWords;
  protected readonly security = securityOf;
  readonly opened = input.required<OpenedRow<Ssid>>();
  protected isOtherwise = (id: string): boolean =>
    this.store.ssids().some((ssid) => ssid.id === id && ssid.exceptions?.[this.store.siteId()!]);

  /** Where it carries its clients at another site; null: nowhere else. */
  protected landedOf(ssid: Ssid) {
    const { estate, site } = this.store.data() ?? {};
    return estate && site ? landedAt(estate, ssid, site.id) : null;
  }

  protected poolOf(ssid: Ssid) {
    if (this.landedOf(ssid)) return undefined;
    return this.store.site()?.pools?.find((pool) => pool.name.toLowerCase() === ssid.segment.toLowerCase());
  }

  protected segmentOf(ssid: Ssid) {
    if (this.landedOf(ssid)) return undefined;
    return this.store.site()?.segments.find((segment) => segment.name.toLowerCase() === ssid.segment.toLowerCase());
  }

  /** How many of the site's APs have a radio for it. */
  protected senders(ssid: Ssid): string {
    if (!this.segmentOf(ssid) && !this.poolOf(ssid) && !this.landedOf(ssid)?.segment) return 'no AP';
    const aps = this.store
      .data()
      ?.roster.filter((device) => sheetFor(device).radios.some(({ band }) => ssid.bands.includes(band)))
      .filter(({ id }) => ssid.aps?.[this.store.siteId() ?? '']?.includes(id) ?? true);
    return counted(aps?.length ?? 0, 'AP');
  }

  protected hoursOf = (ssid: Ssid): string | undefined =>
    this.store.data()?.estate.hours?.find(({ id }) => id === ssid.hours)?.name;

  protected clients(ssid: Ssid): number {
    return this.store.devices().flatMap((device) => device.clients.filter((client) => client.ssid === ssid.name))
      .length;
  }
}
